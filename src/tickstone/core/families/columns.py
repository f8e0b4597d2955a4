"""Which sensor a column of a line most likely belongs to: by what its family usually says."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from tickstone.core.chains import CHAINS
from tickstone.core.families.device_family import DeviceFamily

_SAID_OTHERWISE = {"batt": "battery", "side": "left right"}
"""Short for what people call a sensor; common practice."""


@dataclass(frozen=True, slots=True)
class UsualColumn:
    """words: what columns of one quantity are usually called. most: how many there are; 0: any."""

    words: frozenset[str]
    most: int


@dataclass(frozen=True, slots=True)
class Candidate:
    """As much of a sensor as is needed to guess its columns. usual: by likely quantity."""

    sensor_id: int
    name: str
    usual: Mapping[str, UsualColumn]


def usual_columns(family: DeviceFamily) -> dict[str, UsualColumn]:
    """What columns of a family usually hold: as it says, and as its chain takes them in.

    >>> from tickstone.formats.family_file import shipped_devices
    >>> sorted(usual_columns(shipped_devices()["thermometer_hygrometer"]))
    ['humidity', 'temperature']
    """
    found = {
        quantity: UsualColumn(frozenset(words), 0) for quantity, words in family.columns.items()
    }
    kind = CHAINS.get(family.chain)
    for role in kind.roles if kind else ():
        for form in role.forms:
            for quantity in (form.likely, *form.also):
                found.setdefault(quantity, UsualColumn(frozenset(role.names), role.most_lanes))
    return found


def owners(columns: Sequence[tuple[str, str]], candidates: Sequence[Candidate]) -> dict[str, int]:
    """Sensors by the names of their columns. columns: name and likely quantity of each.

    A name the sensor shares wins; then one its family usually uses; then that only one sensor
    says such a thing. Where a sensor has one column of a kind, they go to the sensors in order.

    >>> from tickstone.formats.family_file import shipped_devices
    >>> ranger = usual_columns(shipped_devices()["ultrasonic_ranger"])
    >>> two = [Candidate(7, "Front ranger", ranger), Candidate(8, "Left ranger", ranger)]
    >>> owners([("echo1", "echo time"), ("left", "echo time")], two)
    {'echo1': 7, 'left': 8}
    >>> owners([("left_ranger", "echo time"), ("front_ranger", "echo time")], two)
    {'left_ranger': 8, 'front_ranger': 7}
    """
    chosen: dict[str, int] = {}
    taken: dict[tuple[int, str], int] = {}
    for name, quantity in columns:
        words = _words(name)
        fits = [one for one in candidates if quantity in one.usual]
        free = [
            one
            for one in fits
            if not one.usual[quantity].most
            or taken.get((one.sensor_id, quantity), 0) < one.usual[quantity].most
        ]
        called = [one for one in free if words & one.usual[quantity].words]
        owner = (
            _nearest(words, fits)
            or _nearest(words, candidates)
            or _only(called, quantity)
            or _only(free, quantity)
        )
        if owner is not None:
            chosen[name] = owner.sensor_id
            key = (owner.sensor_id, quantity)
            taken[key] = taken.get(key, 0) + 1
    return chosen


def _nearest(words: set[str], among: Sequence[Candidate]) -> Candidate | None:
    """The one whose name shares the most words, the first of those; None when none shares any."""
    most = max((len(words & _words(one.name)) for one in among), default=0)
    if not most:
        return None
    return next(one for one in among if len(words & _words(one.name)) == most)


def _only(found: Sequence[Candidate], quantity: str) -> Candidate | None:
    """The only one, or the first of those that have so many columns and no more."""
    is_counted = bool(found) and found[0].usual[quantity].most > 0
    return found[0] if len(found) == 1 or is_counted else None


def _words(name: str) -> set[str]:
    words = set(re.findall(r"[a-z]+", name.lower())) - {"us", "cm", "count", "gap", "deg", "c"}
    return words.union(*(_SAID_OTHERWISE[word].split() for word in words & set(_SAID_OTHERWISE)))
