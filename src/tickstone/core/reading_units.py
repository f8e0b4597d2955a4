"""The units a person reads in. All arithmetic is SI; only words are told in these.

What writes a sentence or a cell asks here how to say a length, a temperature or a speed; whoever
answers a person says once in which units: `with reading_in("imperial"): …`.
"""

from __future__ import annotations

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


@dataclass(frozen=True, slots=True)
class _Shown:
    """How an SI unit is shown: SI value × scale + offset. digits: decimals more than in metric."""

    unit: str
    scale: float
    offset: float = 0.0
    digits: int = 0


_IMPERIAL = {
    "m": _Shown("in", 1 / 0.0254, digits=-1),
    "mm": _Shown("in", 1 / 25.4, digits=2),
    "°C": _Shown("°F", 1.8, 32.0),
    "K": _Shown("°F", 1.8),
    # Not mph, so that in × in/s adds up on the working line.
    "m/s": _Shown("in/s", 1 / 0.0254, digits=-1),
}
_METRIC = {"K": _Shown("°C", 1.0)}


def shown(value: float, unit: str) -> tuple[float, str]:
    """A value and its unit as they are read. K: a step of temperature. Others pass as they are.

    >>> shown(0.5, "m"), shown(3.0, "V")
    ((0.5, 'm'), (3.0, 'V'))
    """
    how = _how(unit)
    return (value, unit) if how is None else (value * how.scale + how.offset, how.unit)


def shown_u(u: float, unit: str) -> float:
    """An uncertainty beside `shown`: scaled, never shifted."""
    how = _how(unit)
    return u if how is None else u * how.scale


def length(metres: float, decimals: int) -> str:
    """A length with as many decimals as in metres, or about as fine in inches.

    >>> length(0.9954, 3)
    '0.995 m'
    """
    return _said(metres, "m", decimals)


def small_length(metres: float, decimals: int, is_signed: bool = False) -> str:
    """A length in mm, or in inches about as fine.

    >>> small_length(0.0041, 1), small_length(0.0041, 1, is_signed=True)
    ('4.1 mm', '+4.1 mm')
    """
    said = _said(1000.0 * metres, "mm", decimals)
    return f"+{said}" if is_signed and metres >= 0 else said


def typed_length(metres: float) -> str:
    """A length somebody typed, without needless zeros.

    >>> typed_length(0.02), typed_length(4.0)
    ('0.02 m', '4 m')
    """
    value, unit = shown(metres, "m")
    return f"{value:.6g} {unit}" if unit == "m" else f"{value:.3g} {unit}"


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
    value, unit = shown(1000.0 * metres, "mm")
    return f"{value:.6g} {unit}" if unit == "mm" else f"{value:.2g} {unit}"


def temperature(celsius: float, decimals: int) -> str:
    """A temperature.

    >>> temperature(20.0, 1)
    '20.0 °C'
    """
    return _said(celsius, "°C", decimals)


def temperature_step(kelvin: float, decimals: int) -> str:
    """A difference of temperatures.

    >>> temperature_step(5.0, 0)
    '5 °C'
    """
    return _said(kelvin, "K", decimals)


def sound_speed(m_per_s: float, decimals: int) -> str:
    """A speed of sound.

    >>> sound_speed(343.99, 1)
    '344.0 m/s'
    """
    return _said(m_per_s, "m/s", decimals)


def _how(unit: str) -> _Shown | None:
    return (_IMPERIAL if _read_in.get() == "imperial" else _METRIC).get(unit)


def _said(value: float, unit: str, decimals: int) -> str:
    how = _how(unit)
    number, name = shown(value, unit)
    return f"{grouped(number, max(0, decimals + (how.digits if how else 0)))} {name}"
