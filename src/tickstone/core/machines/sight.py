"""What a machine saw of its inputs at a time, and which of them made a condition true."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from tickstone.core.machines.conditions import TRUE, UNKNOWN, Condition
from tickstone.core.machines.machine import MachineInput
from tickstone.core.machines.running import USABLE
from tickstone.core.machines.together import Together
from tickstone.core.signal import Signal
from tickstone.core.status import Status


@dataclass(frozen=True, slots=True)
class Sight:
    """What an input said last at a time. u: standard uncertainty, NaN where not known. word: of a
    decision. age_s: how old it was. who: which of those put together decided, or nothing.
    """

    name: str
    value: float
    status: Status
    word: str
    age_s: float
    who: str = ""
    u: float = math.nan


def sight_at(given: MachineInput, heard: Signal | Together, time_s: float) -> Sight:
    """What an input said last at a time.

    >>> front = MachineInput("front", "1", "distance", longest_s=0.5)
    >>> seen = sight_at(front, Signal.of([0.0, 0.1], [0.9, 0.8]), 0.125)
    >>> seen.value, seen.status.word, round(seen.age_s, 3)
    (0.8, 'ok', 0.025)
    """
    signal = heard.signal if isinstance(heard, Together) else heard
    place = int(np.searchsorted(signal.time_s, time_s, side="right")) - 1
    if place < 0:
        return Sight(given.name, math.nan, Status.NOT_YET, "", math.nan)
    value, at_s = float(signal.value[place]), float(signal.time_s[place])
    status = Status(int(signal.flag[place]))
    if time_s - at_s >= given.longest_s:
        status = Status.OUTDATED
    word = given.states[int(value)] if given.states and math.isfinite(value) else ""
    who = ""
    if isinstance(heard, Together) and heard.who[place] >= 0:
        who = given.of[int(heard.who[place])]
    return Sight(given.name, value, status, word, time_s - at_s, who)


def deciders(condition: Condition, seen: Mapping[str, Sight]) -> list[str]:
    """Which inputs made a condition true: those without which it would not be; where it has more
    grounds than it needs, all of them. Of those put together, the one whose value it was.
    """
    truths = []
    for atom in condition.atoms:
        one = seen[atom.input]
        truths.append(atom.told(one.value, one.status, one.status in USABLE))
    if condition.told(truths) != TRUE:
        return []  # It went by what was held.
    needed = [
        n for n in range(len(truths))
        if condition.told([*truths[:n], UNKNOWN, *truths[n + 1 :]]) != TRUE
    ]  # fmt: skip
    found = []
    for n in needed or [n for n, truth in enumerate(truths) if truth == TRUE]:
        one = seen[condition.atoms[n].input]
        found.append(f"{one.name} by {one.who}" if one.who else one.name)
    return list(dict.fromkeys(found))
