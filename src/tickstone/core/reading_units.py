"""The units a person reads in. All arithmetic is SI; only words are told in these.

What writes a sentence or a cell asks here how to say a length, a temperature or a speed; whoever
answers a person says once in which units: `with reading_in("imperial"): …`.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass
from typing import Literal, get_args

from tickstone.core.display import grouped

UnitSystem = Literal["metric", "imperial"]
UNIT_SYSTEMS: tuple[UnitSystem, ...] = get_args(UnitSystem)
_read_in: ContextVar[UnitSystem] = ContextVar("the units a person reads in", default="metric")


@contextmanager
def reading_in(system: UnitSystem) -> Iterator[None]:
    """Everything said inside is said in these units.

    >>> with reading_in("imperial"):
    ...     length(0.254, 3), temperature(20.0, 1), temperature_step(5.0, 0)
    ('10.00 in', '68.0 °F', '9 °F')
    """
    token = _read_in.set(system)
    try:
        yield
    finally:
        _read_in.reset(token)


def read_in() -> UnitSystem:
    """The units of whoever is answered now. What keeps words keeps them apart by it."""
    return _read_in.get()


@dataclass(frozen=True, slots=True)
class Shown:
    """How a unit is shown: value × scale + offset. digits: decimals more than in metric."""

    unit: str
    scale: float = 1.0
    offset: float = 0.0
    digits: int = 0


SMALL_LENGTH = "m as mm"
ROAD_SPEED = "m/s on a road"
CART_SPEED = "m/s of a cart"
MILLISECONDS = "s as ms"
PERCENT_SHARE = "share as %"
GRAVITIES = "m/s² as g"
MILLI_GRAVITIES = "m/s² as mg"
STANDARD_GRAVITY_M_PER_S2 = 9.80665
"""By definition, ISO 80000-3."""
_IMPERIAL = {
    "m": Shown("in", 1 / 0.0254, digits=-1),
    SMALL_LENGTH: Shown("in", 1 / 0.0254, digits=2),
    "mm": Shown("in", 1 / 25.4, digits=2),
    "°C": Shown("°F", 1.8, 32.0),
    "K": Shown("°F", 1.8),
    # Not mph, so that in × in/s adds up on the working line.
    "m/s": Shown("in/s", 1 / 0.0254, digits=-1),
    ROAD_SPEED: Shown("mph", 3600 / 1609.344),
    CART_SPEED: Shown("mph", 3600 / 1609.344),
    "m/s²": Shown("ft/s²", 1 / 0.3048),
}
_METRIC = {
    "K": Shown("°C"),
    SMALL_LENGTH: Shown("mm", 1000.0),
    ROAD_SPEED: Shown("km/h", 3.6),
    CART_SPEED: Shown("m/s"),
    MILLISECONDS: Shown("ms", 1000.0),
    PERCENT_SHARE: Shown("%", 100.0),
    "rad": Shown("°", 180.0 / math.pi),
    "turn/s": Shown("RPM", 60.0),
    GRAVITIES: Shown("g", 1.0 / STANDARD_GRAVITY_M_PER_S2),
    MILLI_GRAVITIES: Shown("mg", 1000.0 / STANDARD_GRAVITY_M_PER_S2),
    "rad/s": Shown("°/s", 180.0 / math.pi),
}


def displays(key: str) -> dict[UnitSystem, Shown]:
    """How a key, most often a unit, is shown in every system.

    >>> displays("m")["imperial"].unit, displays("V")["metric"]
    ('in', Shown(unit='V', scale=1.0, offset=0.0, digits=0))
    """
    metric = _METRIC.get(key, Shown(key))
    return {"metric": metric, "imperial": _IMPERIAL.get(key, metric)}


def shown(value: float, key: str) -> tuple[float, str]:
    """A value and its unit as they are read. K: a step of temperature. Others pass as they are.

    >>> shown(0.5, "m"), shown(3.0, "V"), shown(3.9, "turn/s")
    ((0.5, 'm'), (3.0, 'V'), (234.0, 'RPM'))
    """
    how = displays(key)[_read_in.get()]
    return value * how.scale + how.offset, how.unit


_FILED = {"turn/s": _METRIC["turn/s"], GRAVITIES: _METRIC[GRAVITIES]}


def filed(value: float, unit: str, key: str = "") -> tuple[float, str]:
    """A value and its unit as files and commands have it, whoever reads: SI, but turns a minute,
    and g where it is read in g.

    >>> filed(3.9, "turn/s"), filed(0.5, "m"), filed(9.80665, "m/s²", GRAVITIES)
    ((234.0, 'RPM'), (0.5, 'm'), (1.0, 'g'))
    """
    how = _FILED.get(key or unit) or Shown(unit)
    return value * how.scale, how.unit


def shown_u(u: float, key: str) -> float:
    """An uncertainty beside `shown`: scaled, never shifted."""
    return u * displays(key)[_read_in.get()].scale


def said(value: float, key: str, decimals: int) -> str:
    """A value with its unit and as many decimals as in metric, or about as fine in other units.

    >>> said(0.9954, "m", 3), said(3.9, "turn/s", 0)
    ('0.995 m', '234 RPM')
    """
    how = displays(key)[_read_in.get()]
    number, unit = shown(value, key)
    return f"{grouped(number, max(0, decimals + how.digits))} {unit}".rstrip()


def said_as_typed(value: float, key: str) -> str:
    """A value somebody typed, without needless zeros.

    >>> said_as_typed(0.02, "m"), said_as_typed(4.0, "m"), said_as_typed(0.0005, SMALL_LENGTH)
    ('0.02 m', '4 m', '0.5 mm')
    """
    number, unit = shown(value, key)
    digits = 6 if displays(key)["metric"].unit == unit else 2 if key == SMALL_LENGTH else 3
    return f"{number:.{digits}g} {unit}".rstrip()


def length(metres: float, decimals: int) -> str:
    """A length with as many decimals as in metres, or about as fine in inches.

    >>> length(0.9954, 3)
    '0.995 m'
    """
    return said(metres, "m", decimals)


def small_length(metres: float, decimals: int, is_signed: bool = False) -> str:
    """A length in mm, or in inches about as fine.

    >>> small_length(0.0041, 1), small_length(0.0041, 1, is_signed=True)
    ('4.1 mm', '+4.1 mm')
    """
    text = said(metres, SMALL_LENGTH, decimals)
    return f"+{text}" if is_signed and metres >= 0 else text


def typed_length(metres: float) -> str:
    """A length somebody typed, without needless zeros.

    >>> typed_length(0.02), typed_length(4.0)
    ('0.02 m', '4 m')
    """
    return said_as_typed(metres, "m")


def typed_span(low_m: float, high_m: float) -> str:
    """From one length somebody typed to another.

    >>> typed_span(0.02, 4.0)
    '0.02 to 4 m'
    """
    return f"{typed_length(low_m).rpartition(' ')[0]} to {typed_length(high_m)}"


def typed_small_length(metres: float) -> str:
    """The same in mm.

    >>> typed_small_length(0.0005)
    '0.5 mm'
    """
    return said_as_typed(metres, SMALL_LENGTH)


def temperature(celsius: float, decimals: int) -> str:
    """A temperature.

    >>> temperature(20.0, 1)
    '20.0 °C'
    """
    return said(celsius, "°C", decimals)


def temperature_step(kelvin: float, decimals: int) -> str:
    """A difference of temperatures.

    >>> temperature_step(5.0, 0)
    '5 °C'
    """
    return said(kelvin, "K", decimals)


def sound_speed(m_per_s: float, decimals: int) -> str:
    """A speed of sound.

    >>> sound_speed(343.99, 1)
    '344.0 m/s'
    """
    return said(m_per_s, "m/s", decimals)
