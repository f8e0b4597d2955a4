"""What a column most likely is, from its name, its unit and its first values.

A guess is shown as one and can be changed; nothing is ever computed from it unseen.
"""

from __future__ import annotations

import itertools
import re
import statistics
from collections.abc import Sequence
from typing import Literal, get_args

from tickstone.core.lines.names import TIME_UNITS_US

Quantity = Literal[
    "time",
    "echo time",
    "distance",
    "acceleration",
    "rotation rate",
    "angle",
    "pulse",
    "pulse changes",
    "pulse count",
    "pulse gap",
    "speed",
    "revolutions",
    "temperature",
    "humidity",
    "voltage",
    "reflectance",
    "status word",
    "converter counts",
    "number",
]
QUANTITIES: tuple[str, ...] = get_args(Quantity)

_BY_UNIT = {
    "mm": "distance",
    "cm": "distance",
    "m": "distance",
    "in": "distance",
    "ft": "distance",
    "g": "acceleration",
    "mg": "acceleration",
    "m/s²": "acceleration",
    "°/s": "rotation rate",
    "rad/s": "rotation rate",
    "°": "angle",
    "rad": "angle",
    "m/s": "speed",
    "km/h": "speed",
    "mph": "speed",
    "RPM": "revolutions",
    "°C": "temperature",
    "°F": "temperature",
    "K": "temperature",
    "V": "voltage",
    "mV": "voltage",
}
_BY_NAME = (
    ("status word", r"(?<![a-z])(word|status|err(or)?)(?![a-z])"),
    ("echo time", r"echo|ping|flight|tof|sonar|\bus_?dist"),
    ("pulse gap", r"gap|period|between|interval"),
    ("pulse count", r"count|pulses|ticks|revs?\b|turns"),
    ("pulse", r"hall|magnet|edge|pulse|wheel"),
    ("rotation rate", r"gyr|(^|_)g[xyz]$|omega|rate[xyz]?$"),
    ("acceleration", r"acc|(^|_)a[xyz]$"),
    ("angle", r"tilt|roll|pitch|yaw|heading|angle"),
    ("revolutions", r"rpm"),
    ("speed", r"speed|veloc"),
    ("temperature", r"temp|^t_?c$|deg_?c"),
    ("humidity", r"humid|^rh$|^rh[ _%]|moist"),
    ("voltage", r"volt|vbat|batt|^v\d?$"),
    ("distance", r"dist|range|left|right|front|rear|side|nose"),
    ("reflectance", r"line|refl|\bir\d?|light|white|black"),
    ("converter counts", r"adc|^a\d|line|refl|\bir\d?|light|sens"),
)
_PLAIN, _SHORT = ("", "counts", "LSB"), ("", "ns", "µs", "ms", "s")
_UNITS_OF = {
    "echo time": _SHORT,
    "pulse gap": _SHORT,
    "pulse count": _PLAIN,
    "pulse": (*_PLAIN, "V", "µs", "ms", "s"),
    "humidity": ("", "%"),
    "voltage": ("", "V", "mV", *_PLAIN),
    "distance": ("", "µs"),
    "reflectance": ("%",),
    "status word": _PLAIN,
    "converter counts": _PLAIN,
}
"""What a name may mean only in these units: a battery in per cent is no voltage, and minutes are no
gap between pulses."""
_TIME_NAME = re.compile(
    r"^(t|time|times?tamp|millis|micros|elapsed|clock|uptime|ts|when)\b|time$|^t[ _]", re.I
)


def guess_quantity(name: str, unit: str, values: Sequence[float]) -> str:
    """One of QUANTITIES.

    >>> guess_quantity("front", "µs", [5831.0, 5840.0]), guess_quantity("az", "", [16384.0])
    ('echo time', 'acceleration')
    """
    if unit in _BY_UNIT:
        return _BY_UNIT[unit]
    for quantity, pattern in _BY_NAME:
        if unit in _UNITS_OF.get(quantity, (unit,)) and re.search(pattern, name.lower()):
            if quantity == "status word" and not all(one in range(256) for one in values):
                continue
            if quantity == "distance" and (unit == "µs" or (not unit and _echo_like(values))):
                return "echo time"
            if quantity == "pulse" and not set(values) <= {0.0, 1.0}:
                return "pulse count" if _rises(values) else "pulse gap"
            if quantity == "voltage" and (
                unit in ("counts", "LSB") or (not unit and _coded(values))
            ):
                return "converter counts"
            if quantity == "converter counts" and values and set(values) <= {0.0, 1.0}:
                return "pulse"
            return quantity
    if unit == "µs" and _echo_like(values):
        return "echo time"
    if unit in TIME_UNITS_US:
        return "number"
    if set(values) == {0.0, 1.0}:
        return "pulse"
    whole = all(value == int(value) for value in values)
    if unit in _PLAIN and values and whole and min(values) >= 0 and 1 < max(values) <= 4095:
        return "converter counts"
    return "number"


def looks_like_time(name: str, unit: str, values: Sequence[float], place: int) -> float:
    """How much a column looks like the board's clock: 0 not at all, up to about 3."""
    if unit and unit not in TIME_UNITS_US:
        return 0.0
    steps = [b - a for a, b in itertools.pairwise(values)]
    rising = sum(step > 0 for step in steps) / len(steps) if steps else 0.0
    even = 0.0
    if len(steps) >= 3 and rising > 0.8:
        middle = statistics.median(steps)
        even = sum(abs(step - middle) <= 0.5 * abs(middle) for step in steps) / len(steps)
    named = 1.5 if _TIME_NAME.search(name) else 0.0
    if named and (rising >= 0.8 or not steps):
        return named + (0.5 if unit else 0.0) + even
    if place == 0 and rising == 1.0 and even > 0.7 and len(steps) >= 4 and not _counts(steps):
        return 0.5 + (0.5 if unit else 0.0)
    return 0.0


def time_unit_of(name: str, unit: str, values: Sequence[float]) -> str:
    """The unit of a column of times, from what is said or from how fast it runs.

    >>> time_unit_of("micros", "", [0.0, 20000.0]), time_unit_of("t", "", [0.0, 50.0, 100.0])
    ('µs', 'ms')
    """
    if unit in TIME_UNITS_US:
        return unit
    lowered = name.lower()
    if "micro" in lowered:
        return "µs"
    if "milli" in lowered:
        return "ms"
    steps = [b - a for a, b in itertools.pairwise(values) if b > a]
    step = statistics.median(steps) if steps else 50.0
    return "µs" if step >= 2_000 else "ms" if step >= 1 else "s"


def _echo_like(values: Sequence[float]) -> bool:
    heard = [value for value in values if value > 0]
    return bool(heard) and 400 <= statistics.median(heard) <= 40_000


def _coded(values: Sequence[float]) -> bool:
    """Whole numbers of which no hobbyist's battery has as many volts: what a converter says."""
    return bool(values) and all(value == int(value) for value in values) and max(values) > 60


def _rises(values: Sequence[float]) -> bool:
    return all(b >= a for a, b in itertools.pairwise(values))


def _counts(steps: Sequence[float]) -> bool:
    """A plain counter of lines, 1, 2, 3, is not a time."""
    return all(step == 1.0 for step in steps)
