"""A machine over a rig: states, transitions between them, and what counts when it is blind."""

from __future__ import annotations

import math
import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

from tickstone.core.machines.conditions import Condition, InputNames, read_condition
from tickstone.core.machines.document import (
    MachineError,
    fields_of,
    number_or_none,
    part_of,
    parts_of,
    words_of,
)
from tickstone.core.machines.together import TRUST, WAYS

ANY = "any"
"""As the state a transition leads from: every one but where it leads to."""
HOLD, LAST, LOWEST, HIGHEST = "hold", "last", "lowest", "highest"
BLIND_WORDS = {
    HOLD: "keep the state, wait for sight",
    LAST: "go on with the last good reading",
    LOWEST: "count as the lowest there is",
    HIGHEST: "count as the highest there is",
}
MOST_STATES, MOST_TRANSITIONS, MOST_INPUTS = 40, 120, 24
MOST_COMPARISONS = 400
LONGEST_S = 86_400.0
_NAME = re.compile(r"[a-z][a-z0-9_]{0,39}")


@dataclass(frozen=True, slots=True)
class MachineInput:
    """What a machine looks at.

    sensor, output: of a rig. kind, columns, settings: of a log: what kind of sensor its columns
    are, and NAME=VALUE of what is not as usual; without a kind the one column is the input itself.
    longest_s: how old a reading may be before it counts as none, s.
    unit: of the numbers it comes in, SI. states: words of a decision, in the order of its values;
    empty where it is an amount.
    together: how several others make one: nearest, farthest or trust; of: their names, and us:
    their standard uncertainties, where they are trusted by them.
    """

    name: str
    sensor: str = ""
    output: str = ""
    kind: str = ""
    columns: tuple[str, ...] = ()
    settings: tuple[str, ...] = ()
    longest_s: float = 0.5
    unit: str = ""
    states: tuple[str, ...] = ()
    together: str = ""
    of: tuple[str, ...] = ()
    us: tuple[float, ...] = ()


@dataclass(frozen=True, slots=True)
class MachineState:
    """A state. action: what the rig does on entering it. stay_s: it is not left before.

    leave_after_s, leave_to: it is left after so long whatever is seen; None: it is not.
    is_blocking: whether the program only waits while in it, and looks at nothing.
    moves: whether the rig drives on in it. is_alarm: whether it wants an eye kept on it.
    """

    name: str
    action: str = ""
    stay_s: float = 0.0
    leave_after_s: float | None = None
    leave_to: str = ""
    is_blocking: bool = False
    moves: bool = False
    is_alarm: bool = False


@dataclass(frozen=True, slots=True)
class Transition:
    """What leads from a state to another. The first in the machine's list whose turn it is wins.

    when: a condition, such as ``front < 0.42 m and not (line is lost)``. for_s: how long it has to
    have been true; while that cannot be told the wait goes on, for no longer than blindness is
    borne, and nothing is left by it. at_once: whether it also cuts a stay short.
    """

    leaves: str
    to: str
    when: str
    for_s: float = 0.0
    at_once: bool = False


@dataclass(frozen=True, slots=True)
class WhenBlind:
    """What an input counts as that is not valid: see `BLIND_WORDS`.

    hold_s: for how long at most, before the machine goes to `go_to`; None: for ever.
    """

    how: str = HOLD
    hold_s: float | None = 0.3
    go_to: str = ""


@dataclass(frozen=True, slots=True)
class Machine:
    """A whole rule. start: the state it begins in. speed_m_per_s: of the rig while it moves, or
    None where nobody said.

    Raises MachineError, a ValueError, that names the place of the first thing that cannot be.

    >>> machine = Machine.of({
    ...     "inputs": [{"name": "front", "unit": "m"}], "start": "drive",
    ...     "states": [{"name": "drive", "moves": True}, {"name": "stop"}],
    ...     "transitions": [{"leaves": "drive", "to": "stop", "when": "front < 42 cm"}]})
    >>> machine.conditions[0].said
    'front below 0.42 m'
    """

    inputs: tuple[MachineInput, ...]
    states: tuple[MachineState, ...]
    transitions: tuple[Transition, ...]
    start: str
    when_blind: WhenBlind = field(default_factory=WhenBlind)
    name: str = ""
    speed_m_per_s: float | None = None
    conditions: tuple[Condition, ...] = field(init=False, repr=False, compare=False)

    def __post_init__(self) -> None:
        _check_many(self)
        _check_names(self)
        _check_inputs(self)
        _check_states(self)
        names = InputNames({one.name: (one.unit, one.states) for one in self.inputs})
        read = []
        for number, one in enumerate(self.transitions, 1):
            _check_transition(self, number, one)
            try:
                read.append(read_condition(one.when, names))
            except ValueError as error:
                raise MachineError(f"transitions {number}, when", str(error)) from error
        many = sum(len(one.atoms) for one in read)
        if many > MOST_COMPARISONS:
            what = f"make {many} comparisons; {MOST_COMPARISONS} at most"
            raise MachineError("transitions", what)
        object.__setattr__(self, "conditions", tuple(read))

    @classmethod
    def of(cls, document: Any) -> Machine:
        """A machine from what a file holds. Raises MachineError."""
        given = fields_of(document, "the rules", cls)
        if "states" not in given or "inputs" not in given:
            raise MachineError("the rules", "want inputs, states and transitions")
        states = parts_of(given, "states", MachineState)
        return cls(
            inputs=parts_of(given, "inputs", MachineInput),
            states=states,
            transitions=parts_of(given, "transitions", Transition),
            start=words_of(given.get("start", states[0].name if states else ""), "start"),
            when_blind=part_of(given.get("when_blind", {}), "when_blind", WhenBlind),
            name=words_of(given.get("name", ""), "name"),
            speed_m_per_s=number_or_none(given.get("speed_m_per_s"), "speed_m_per_s"),
        )

    def place_of(self, state: str) -> int:
        """The number of a state. Raises KeyError."""
        return self.numbers[state]

    @property
    def numbers(self) -> dict[str, int]:
        """The states' numbers by name."""
        return {one.name: n for n, one in enumerate(self.states)}

    def leaving(self, state: str) -> Iterator[tuple[int, Transition]]:
        """The transitions that can lead out of a state, with their numbers, first come first."""
        if {one.name: one for one in self.states}[state].is_blocking:
            return
        for number, one in enumerate(self.transitions):
            if one.leaves == state or (one.leaves == ANY and one.to != state):
                yield number, one

    def watched(self, state: str) -> frozenset[str]:
        """The inputs that what leads out of a state looks at."""
        seen = (self.conditions[number].values_of for number, _ in self.leaving(state))
        return frozenset().union(*seen)


def _check_many(machine: Machine) -> None:
    for name, most in (
        ("states", MOST_STATES), ("transitions", MOST_TRANSITIONS), ("inputs", MOST_INPUTS),
    ):  # fmt: skip
        count = len(getattr(machine, name))
        if count > most:
            raise MachineError(name, f"{count} are more than the {most} a machine may have")
    if not machine.states:
        raise MachineError("states", "there is none; a machine needs at least one")


def _check_names(machine: Machine) -> None:
    for what, named in (
        ("inputs", [one.name for one in machine.inputs]),
        ("states", [one.name for one in machine.states]),
    ):
        seen = set()
        for number, name in enumerate(named, 1):
            if not _NAME.fullmatch(name):
                raise MachineError(
                    f"{what} {number}, name",
                    f"“{name[:40]}” has to be small letters, digits and _, a letter first",
                )
            if name in seen or name == ANY:
                raise MachineError(f"{what} {number}, name", f"“{name}” is taken already")
            seen.add(name)
    known = _known(machine)
    if machine.start not in machine.numbers:
        raise MachineError("start", f"there is no state “{machine.start[:40]}”; there are {known}")
    blind = machine.when_blind
    if blind.how not in BLIND_WORDS:
        raise MachineError("when_blind, how", f"has to be one of {', '.join(BLIND_WORDS)}")
    if blind.go_to and blind.go_to not in machine.numbers:
        where = "when_blind, go_to"
        raise MachineError(where, f"there is no state “{blind.go_to[:40]}”; there are {known}")
    _check_time(blind.hold_s, "when_blind, hold_s")
    if machine.speed_m_per_s is not None and not 0.0 <= machine.speed_m_per_s <= 100.0:
        raise MachineError("speed_m_per_s", "has to lie from 0 to 100 m/s")


def _check_inputs(machine: Machine) -> None:
    known = {one.name for one in machine.inputs if not one.together}
    for number, one in enumerate(machine.inputs, 1):
        where = f"inputs {number}"
        _check_time(one.longest_s, f"{where}, longest_s", least=1e-4)
        for state in one.states:
            if not _NAME.fullmatch(state):
                raise MachineError(f"{where}, states", f"“{state[:40]}” is no name of a state")
        if not one.together:
            continue
        if one.together not in WAYS:
            raise MachineError(f"{where}, together", f"has to be one of {', '.join(WAYS)}")
        for of in one.of:
            if of not in known:
                raise MachineError(f"{where}, of", f"there is no input “{of[:40]}” of its own")
        if len(one.of) < 2:
            raise MachineError(f"{where}, of", "it takes two or more to be put together")
        if one.us and (len(one.us) != len(one.of) or not all(u > 0.0 for u in one.us)):
            raise MachineError(f"{where}, us", "wants an uncertainty above 0 for each of them")
        if one.together == TRUST and not one.us:
            raise MachineError(f"{where}, us", "to trust by 1/u² it wants the u of each")


def _check_states(machine: Machine) -> None:
    for number, one in enumerate(machine.states, 1):
        where = f"states {number} ({one.name})"
        _check_time(one.stay_s, f"{where}, stay_s")
        _check_time(one.leave_after_s, f"{where}, leave_after_s")
        if one.leave_after_s is None and one.leave_to:
            raise MachineError(f"{where}, leave_to", "it says where to, but not after how long")
        if one.leave_after_s is not None and one.leave_to not in machine.numbers:
            raise MachineError(
                f"{where}, leave_to",
                f"there is no state “{one.leave_to[:40]}”; there are {_known(machine)}",
            )
        if one.leave_after_s is not None and one.leave_after_s < one.stay_s:
            raise MachineError(
                f"{where}, leave_after_s",
                f"leaves after {one.leave_after_s:g} s, before the {one.stay_s:g} s it stays",
            )
        if one.is_blocking and one.leave_after_s is None:
            raise MachineError(
                f"{where}, is_blocking",
                "it looks at nothing, and no time ends it: it is never left",
            )


def _check_transition(machine: Machine, number: int, one: Transition) -> None:
    where = f"transitions {number}"
    for side, name in (("leaves", one.leaves), ("to", one.to)):
        if name not in machine.numbers and not (side == "leaves" and name == ANY):
            raise MachineError(
                f"{where}, {side}", f"there is no state “{name[:40]}”; there are {_known(machine)}"
            )
    if one.leaves == one.to:
        raise MachineError(f"{where}, to", f"leads from {one.to} to itself")
    _check_time(one.for_s, f"{where}, for_s")


def _check_time(value: float | None, where: str, least: float = 0.0) -> None:
    if value is not None and not (math.isfinite(value) and least <= value <= LONGEST_S):
        raise MachineError(where, f"{value:g} s has to lie from {least:g} to {LONGEST_S:g} s")


def _known(machine: Machine) -> str:
    return ", ".join(one.name for one in machine.states)
