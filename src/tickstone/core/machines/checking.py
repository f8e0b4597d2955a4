"""What is amiss with a machine before it ever runs: states nobody reaches, holes, races, dithering,
and waits that last longer than it may be blind.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field

from tickstone.core.finding import Finding, worst_first
from tickstone.core.machines.conditions import TRUE, Atom, Condition, amount_said
from tickstone.core.machines.machine import HOLD, LAST, Machine, MachineState
from tickstone.core.machines.running import Runner, reading_of
from tickstone.core.signal import FloatArray
from tickstone.core.status import Status

MOST_SIGHTS, MOST_TRIED = 20_000, 150_000
"""Of readings side by side: for a pair of conditions, and in all; what is beyond is said."""


def check_machine(machine: Machine) -> tuple[Finding, ...]:
    """Everything that is found, worst first. Where something was not looked at, it says so.

    >>> machine = Machine.of({
    ...     "inputs": [{"name": "x"}],
    ...     "states": [{"name": "go"}, {"name": "stop"}, {"name": "nap"}],
    ...     "transitions": [{"leaves": "go", "to": "stop", "when": "x < 1"}]})
    >>> [one.title for one in check_machine(machine)][:2]
    ['Nothing leads to nap.', 'Nothing leads out of stop.']
    """
    sights = _Sights(machine, Runner(machine).cuts)
    found = [
        *_unreached(machine),
        *_dead_ends(machine),
        *_holes(machine),
        *_never_true(machine, sights),
        *_at_once(machine, sights),
        *_dithering(machine, sights),
        *_for_ever(machine),
        *_blind(machine),
        *_waits(machine),
        *_unused(machine),
    ]
    if sights.left_out:
        pairs = ", ".join(sights.left_out[:3])
        found.append(
            Finding(
                "note",
                f"{len(sights.left_out)} conditions have too many sights to try them all"
                + (", nor was anything after them." if sights.is_spent else "."),
                f"{pairs}: whether two of them can be true at once was not looked at.",
                "Speak of fewer inputs in one condition.",
            )
        )
    return worst_first(found)


@dataclass(frozen=True, slots=True)
class _Sight:
    """What several inputs read at once, a code each."""

    codes: Mapping[str, int]


@dataclass(slots=True)
class _Sights:
    """Every combination of readings that conditions can tell apart.

    left_out: conditions that can tell so many apart that they were not tried. tried: so far.
    is_spent: whether no more is tried at all.
    """

    machine: Machine
    cuts: Mapping[str, FloatArray]
    left_out: list[str] = field(default_factory=list)
    tried: int = 0
    is_spent: bool = False

    def of(self, *conditions: Condition) -> Iterator[_Sight] | None:
        """All sights that these conditions tell apart; None where they are too many."""
        if self.is_spent:
            return None
        names = sorted(frozenset().union(*(one.inputs for one in conditions)))
        statuses = {
            name: {Status.OK} | {
                a.status for c in conditions for a in c.atoms if a.input == name and a.status
            }
            for name in names
        }  # fmt: skip
        choices = [
            [
                int(status) * (len(self.cuts[name]) + 1) + bucket
                for status in sorted(statuses[name])
                for bucket in self._buckets(name)
            ]
            for name in names
        ]
        many = 1
        for one in choices:
            many *= len(one)
        self.is_spent = self.tried + many > MOST_TRIED
        if many > MOST_SIGHTS or self.is_spent:
            said = conditions[-1].said[:60]
            if said not in self.left_out:
                self.left_out.append(said)
            return None
        self.tried += many
        return (_Sight(dict(zip(names, one, strict=True))) for one in itertools.product(*choices))

    def _buckets(self, name: str) -> Sequence[int]:
        """Those that a value can lie in: of a decision only its own words."""
        states = next(one.states for one in self.machine.inputs if one.name == name)
        cuts = self.cuts[name]
        if not states:
            return range(len(cuts) + 1)
        return sorted({int((cuts <= place).sum()) for place in range(len(states))})

    def told(self, condition: Condition, sight: _Sight) -> int:
        """What a condition is at a sight."""
        truths = []
        for atom in condition.atoms:
            value, status = reading_of(sight.codes[atom.input], self.cuts[atom.input])
            truths.append(atom.told(value, status, status == Status.OK))
        return condition.told(truths)

    def said(self, sight: _Sight) -> str:
        """A sight in words."""
        parts = []
        for one in self.machine.inputs:
            if one.name not in sight.codes:
                continue
            cuts = self.cuts[one.name]
            status, bucket = divmod(sight.codes[one.name], len(cuts) + 1)
            if status != Status.OK:
                parts.append(f"{one.name} says {Status(status).code}")
            elif one.states:
                fits = [
                    word for place, word in enumerate(one.states) if (cuts <= place).sum() == bucket
                ]
                parts.append(f"{one.name} is {fits[0] if fits else '?'}")
            elif not len(cuts):
                continue
            elif bucket == 0:
                parts.append(f"{one.name} under {amount_said(float(cuts[0]), one.unit)}")
            else:
                parts.append(f"{one.name} at {amount_said(float(cuts[bucket - 1]), one.unit)}")
        return ", ".join(parts)

    def together(self, *conditions: Condition) -> _Sight | None:
        """A sight at which all of them are true; None where there is none, or too many to look."""
        for sight in self.of(*conditions) or ():
            if all(self.told(one, sight) == TRUE for one in conditions):
                return sight
        return None


def _next(machine: Machine, state: MachineState) -> set[str]:
    """Where a state can lead."""
    found = {one.to for _, one in machine.leaving(state.name)}
    if state.leave_after_s is not None:
        found.add(state.leave_to)
    blind = machine.when_blind
    watches = machine.watched(state.name) and blind.how in (HOLD, LAST)
    if blind.go_to and blind.hold_s is not None and watches:
        found.add(blind.go_to)
    return found - {state.name}


def _unreached(machine: Machine) -> Iterator[Finding]:
    by_name = {one.name: one for one in machine.states}
    reached, waiting = {machine.start}, [machine.start]
    while waiting:
        for name in _next(machine, by_name[waiting.pop()]) - reached:
            reached.add(name)
            waiting.append(name)
    for one in machine.states:
        if one.name not in reached:
            yield Finding(
                "warning",
                f"Nothing leads to {one.name}.",
                f"From {machine.start}, where it begins, no transition, time or blindness does.",
                "Let something lead there, or take it out.",
            )


def _dead_ends(machine: Machine) -> Iterator[Finding]:
    for one in machine.states:
        if len(machine.states) > 1 and not _next(machine, one):
            yield Finding(
                "error" if one.moves else "warning",
                f"Nothing leads out of {one.name}.",
                "Once there it stays so until the board is started again"
                + (", and drives on." if one.moves else "."),
                "That may be meant, for a last stop; else say what ends it.",
            )


def _holes(machine: Machine) -> Iterator[Finding]:
    """Words of a decision that nothing answers, of an input that is looked at while it drives."""
    moving = [one.name for one in machine.states if one.moves]
    for one in machine.inputs:
        if not any(one.name in machine.watched(name) for name in moving):
            continue
        atoms = [a for c in machine.conditions for a in c.atoms if a.input == one.name]
        silent = [
            word
            for place, word in enumerate(one.states)
            if not any(a.low <= place < a.high for a in atoms if a.status is None)
        ]
        if silent:
            yield Finding(
                "note",
                f"Nothing answers when {one.name} is {' or '.join(silent[:6])}.",
                "The rig goes on with what it does then.",
                "If that is not meant, say where they lead.",
            )


def _never_true(machine: Machine, sights: _Sights) -> Iterator[Finding]:
    for number, condition in enumerate(machine.conditions):
        every = sights.of(condition)
        if every is None:
            continue
        if not any(sights.told(condition, sight) == TRUE for sight in every):
            yield Finding(
                "error",
                f"“{condition.said}” is never true.",
                f"Transition {number + 1} waits for what no reading can be.",
                "Look at its numbers, and at its and and or.",
            )


def _at_once(machine: Machine, sights: _Sights) -> Iterator[Finding]:
    """Two that lead elsewhere from one state, true at once: the first wins, or always did."""
    for state in machine.states:
        shared = []
        pairs = itertools.combinations(list(machine.leaving(state.name)), 2)
        for (first, one), (second, other) in pairs:
            if sights.is_spent:
                break
            if one.to == other.to or one.for_s > other.for_s:
                continue
            conditions = machine.conditions[first], machine.conditions[second]
            both = sights.together(*conditions)
            if both is None:
                continue
            if _ever_alone(sights, conditions):
                shared.append((one, other, both))
                continue
            yield Finding(
                "error",
                f"In {state.name}, “{conditions[1].said}” never counts.",
                f"Whenever it is true, “{conditions[0].said}” is too, and comes first.",
                "Put the narrower one above the wider.",
            )
        if shared:
            one, other, both = shared[0]
            more = f", and {len(shared) - 1} pairs more" if len(shared) > 1 else ""
            yield Finding(
                "note",
                f"In {state.name} two can be true at once: to {one.to} and to {other.to}{more}.",
                f"Such as {sights.said(both)}. The upper one wins: {one.to}.",
                "If the other is to win, move it up.",
            )


def _ever_alone(sights: _Sights, pair: tuple[Condition, Condition]) -> bool:
    every = sights.of(*pair)
    return every is None or any(
        sights.told(pair[1], sight) == TRUE != sights.told(pair[0], sight) for sight in every
    )


def _dithering(machine: Machine, sights: _Sights) -> Iterator[Finding]:
    """There and back with nothing in between: no time, and no band."""
    by_name = {one.name: one for one in machine.states}
    seen = set()
    for state in machine.states:
        for there, one in machine.leaving(state.name):
            for back, other in machine.leaving(one.to):
                if sights.is_spent:
                    return
                pair = frozenset((state.name, one.to))
                if other.to != state.name or pair in seen:
                    continue
                rests = max(one.for_s, other.for_s, state.stay_s, by_name[one.to].stay_s)
                if rests > 0.0:
                    continue
                conditions = machine.conditions[there], machine.conditions[back]
                both = sights.together(*conditions)
                if both is not None:
                    seen.add(pair)
                    yield Finding(
                        "error",
                        f"{state.name} and {one.to} turn into each other at once.",
                        f"At {sights.said(both)} both ways are open, and neither takes time.",
                        "Leave a band between the two, or let one of them stay for a while.",
                    )
                elif _shares_a_cut(conditions):
                    seen.add(pair)
                    yield Finding(
                        "warning",
                        f"{state.name} and {one.to} may dither.",
                        f"“{conditions[0].said}” and “{conditions[1].said}” meet at one number: a "
                        "reading on the edge goes to and fro with its noise.",
                        "Set the one a band away from the other, or let it stand for a while.",
                    )


def _shares_a_cut(pair: tuple[Condition, Condition]) -> bool:
    def ends(condition: Condition) -> set[tuple[str, float]]:
        return {
            (a.input, round(end, 12))
            for a in condition.atoms
            if a.status is None and a.high - a.low != 1.0
            for end in (a.low, a.high)
            if abs(end) < 1e300
        }

    return bool(ends(pair[0]) & ends(pair[1]))


def _for_ever(machine: Machine) -> Iterator[Finding]:
    """Times of 0 that lead round and round."""
    after = {one.name: one.leave_to for one in machine.states if one.leave_after_s == 0.0}
    told: set[str] = set()
    for start in after:
        path, at = [start], after[start]
        while at in after and at not in path:
            path.append(at)
            at = after[at]
        if at == start and not told & set(path):
            told |= set(path)
            yield Finding(
                "error",
                f"{' → '.join([*path, start])} goes round without an end.",
                "Each is left after 0 s for the next.",
                "Let one of them last.",
            )


def _blind(machine: Machine) -> Iterator[Finding]:
    blind = machine.when_blind
    moving = [one.name for one in machine.states if one.moves and machine.watched(one.name)]
    if not moving:
        return
    if blind.how in (HOLD, LAST) and (blind.hold_s is None or not blind.go_to):
        yield Finding(
            "error",
            "Blind, it drives on for ever.",
            f"In {moving[0]} it keeps on while a sensor says nothing: nothing ends that.",
            "Say after how long it stops, and in which state.",
        )
    elif blind.how in (HOLD, LAST):
        target = next(one for one in machine.states if one.name == blind.go_to)
        if target.moves:
            yield Finding(
                "warning",
                f"Blind, it goes to {target.name}, which drives.",
                "A rig that sees nothing is safest standing still.",
                "Let it go to a state that stops.",
            )
    else:
        yield Finding(
            "warning",
            f"Blind, its readings count as the {blind.how} there is.",
            "A loose wire then looks like something that is there.",
            "Make sure that this is the careful side for every condition.",
        )


def _waits(machine: Machine) -> Iterator[Finding]:
    """Waits in which it moves and looks at nothing, against how far it may go so."""
    allowed_m = blind_distance_m(machine)
    ahead = frozenset(atom.input for atom in _stops_at(machine))
    for state in machine.states:
        looks = machine.watched(state.name)
        if not state.moves or looks & ahead or state.leave_after_s is None:
            continue
        if looks and not ahead:
            continue
        how = "only waits" if state.is_blocking else "looks at nothing"
        if looks:
            how = f"looks at {' and '.join(sorted(looks))} only"
        if machine.speed_m_per_s is None:
            yield Finding(
                "warning",
                f"{state.name} moves for {state.leave_after_s:g} s and {how}.",
                "How far that is, nobody said.",
                "Say how fast it drives, and it is held against what its conditions allow.",
            )
            continue
        goes_m = machine.speed_m_per_s * state.leave_after_s
        if allowed_m is None:
            yield Finding(
                "note",
                f"{state.name} goes {amount_said(round(goes_m, 3), 'm')} blind.",
                "No condition stops it at a distance, so nothing says whether that is too far.",
                "",
            )
        elif goes_m > allowed_m:
            yield Finding(
                "error",
                f"{state.name} goes {amount_said(round(goes_m, 3), 'm')} blind.",
                f"It {how} for {state.leave_after_s:g} s, and what stops it elsewhere does so at "
                f"{amount_said(allowed_m, 'm')}.",
                "Wait for less, drive slower, or look while it moves.",
            )


def blind_distance_m(machine: Machine) -> float | None:
    """The nearest distance at which a condition ends a state that moves; None where none does."""
    return min((atom.high for atom in _stops_at(machine)), default=None)


def _stops_at(machine: Machine) -> list[Atom]:
    """The comparisons that end a state that moves when something is nearer than a distance."""
    metres = {one.name for one in machine.inputs if one.unit == "m"}
    return [
        atom
        for state in machine.states
        if state.moves
        for number, _ in machine.leaving(state.name)
        for atom in machine.conditions[number].atoms
        if atom.input in metres and 0.0 < atom.high < 1e300
    ]


def _unused(machine: Machine) -> Iterator[Finding]:
    spoken = frozenset().union(*(one.inputs for one in machine.conditions), *(
        one.of for one in machine.inputs if one.together
    ))  # fmt: skip
    for one in machine.inputs:
        if one.name not in spoken:
            yield Finding("note", f"No condition speaks of {one.name}.", "It changes nothing.", "")
