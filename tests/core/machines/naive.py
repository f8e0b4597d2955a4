"""A second interpreter of machines that could hardly be simpler: tick by tick, eight a second.

Everything is a whole number of ticks, so that nothing is ever a rounding apart.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from tickstone.core.machines.conditions import AND, ATOM, NOT, OR, Condition
from tickstone.core.machines.machine import ANY, HIGHEST, HOLD, LAST, LOWEST, Machine
from tickstone.core.signal import Signal
from tickstone.core.status import Status

TICKS = 8
Entered = tuple[float, str]
_NEVER = (math.nan, Status.NOT_YET)


class RacingError(Exception):
    """Round and round at one instant."""


@dataclass
class Heard:
    """What an input says at a tick, and what it counts as."""

    value: float = math.nan
    status: Status = Status.NOT_YET
    said_at: int = -1
    good_value: float = math.nan
    has_good: bool = False
    invalid_at: int | None = 0


def replayed(machine: Machine, signals: dict[str, Signal], until_s: float) -> list[Entered]:
    """Every state it enters, and when."""
    samples = {
        name: {
            round(t * TICKS): (float(v), Status(int(s)))
            for t, v, s in zip(one.time_s, one.value, one.flag, strict=True)
        }
        for name, one in signals.items()
    }
    first = min(min(one) for one in samples.values() if one)
    heard = {name: Heard(invalid_at=first) for name in samples}
    state, entered = machine.start, first
    true_at: dict[int, int | None] = dict.fromkeys(range(len(machine.transitions)))
    lost_at: dict[int, int] = {}
    by_name = {one.name: one for one in machine.states}
    blind = machine.when_blind
    hold = math.inf if blind.hold_s is None else round(blind.hold_s * TICKS)
    found: list[Entered] = [(first / TICKS, state)]
    for tick in range(first, math.floor(until_s * TICKS) + 1):
        for one in machine.inputs:
            _hear(heard[one.name], samples[one.name].get(tick), tick, round(one.longest_s * TICKS))
        truths = [_told(c, machine, heard, tick, hold) for c in machine.conditions]
        for number, truth in enumerate(truths):
            if truth is False:
                true_at[number] = None
            elif truth is None:
                if true_at[number] is not None:
                    lost_at.setdefault(number, tick)
                continue
            elif true_at[number] is None or tick - lost_at.get(number, tick) > hold:
                true_at[number] = tick
            lost_at.pop(number, None)
        hops = 0
        while True:
            to = None
            here = by_name[state]
            for number, one in enumerate(machine.transitions):
                leads = one.leaves == state or (one.leaves == ANY and one.to != state)
                since = true_at[number]
                if here.is_blocking or not leads or since is None or number in lost_at:
                    continue
                stood = tick - since >= round(one.for_s * TICKS)
                stayed = one.at_once or tick - entered >= round(here.stay_s * TICKS)
                if stood and stayed:
                    to = one.to
                    break
            after = math.inf if here.leave_after_s is None else round(here.leave_after_s * TICKS)
            if to is None and tick - entered >= after:
                to = here.leave_to
            if to is None and blind.go_to and blind.go_to != state and blind.how in (HOLD, LAST):
                dark = [
                    at
                    for name in machine.watched(state)
                    if (at := heard[name].invalid_at) is not None
                ]
                if dark and tick - min(dark) >= hold:
                    to = blind.go_to
            if to is None:
                break
            hops += 1
            if hops > len(machine.states):
                raise RacingError
            state, entered = to, tick
            found.append((tick / TICKS, state))
    return found


def _hear(heard: Heard, fresh: tuple[float, Status] | None, tick: int, longest: int) -> None:
    if fresh is not None:
        heard.value, heard.status = fresh
        heard.said_at = tick
    elif heard.said_at >= 0 and tick - heard.said_at >= longest:
        heard.status = Status.OUTDATED
    if heard.status == Status.OK and not math.isnan(heard.value):
        heard.good_value, heard.has_good, heard.invalid_at = heard.value, True, None
    elif heard.invalid_at is None:
        heard.invalid_at = tick


def _told(
    condition: Condition, machine: Machine, heard: dict[str, Heard], tick: int, hold: float
) -> bool | None:
    """True, False, or None where it cannot be told."""
    stack: list[bool | None] = []
    for what, number in condition.steps:
        if what == ATOM:
            atom = condition.atoms[number]
            one = heard[atom.input]
            if atom.status is not None:
                stack.append((one.status == atom.status) != atom.is_not)
                continue
            value = _counted(one, machine, tick, hold)
            stack.append(None if value is None else (atom.low <= value < atom.high) != atom.is_not)
        elif what == NOT:
            top = stack.pop()
            stack.append(None if top is None else not top)
        elif what in (AND, OR):
            pair = [stack.pop(), stack.pop()]
            decides = what == OR
            stack.append(decides if decides in pair else None if None in pair else not decides)
        else:
            k, n = number >> 8, number & 255
            given = [stack.pop() for _ in range(n)]
            yes, perhaps = given.count(True), given.count(None)
            stack.append(True if yes >= k else None if yes + perhaps >= k else False)
    return stack[0]


def _counted(one: Heard, machine: Machine, tick: int, hold: float) -> float | None:
    """What an input counts as now; None: nothing."""
    if one.invalid_at is None:
        return one.value
    how = machine.when_blind.how
    if how == LOWEST:
        return -1e300
    if how == HIGHEST:
        return 1e300
    if how == LAST and one.has_good and tick - one.invalid_at < hold:
        return one.good_value
    return None
