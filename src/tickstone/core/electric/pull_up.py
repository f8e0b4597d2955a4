"""Pull-up resistors: low enough for the rise time, high enough for what pulls down."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass

from tickstone.core.electric.preferred_values import nearest, values_between

RISE_30_70 = math.log(0.7 / 0.3)
"""ln(0.7/0.3) = 0.8473: from 30 % to 70 % of the supply, as UM10204 §7.1 counts it."""
RISE_10_90 = math.log(9.0)
"""ln 9 = 2.197: from 10 % to 90 %."""
I2C_CAPACITANCE_F = 400e-12
I2C_SINK_A = 3e-3
I2C_LOW_V = 0.4


@dataclass(frozen=True, slots=True)
class Mode:
    """An I²C speed. rise_s: slowest 30–70 % rise; UM10204 rev. 7, tables 10 and 11."""

    name: str
    max_hz: float
    rise_s: float
    sink_a: float = I2C_SINK_A
    capacitance_f: float = I2C_CAPACITANCE_F


I2C_MODES = (
    Mode("standard", 100e3, 1000e-9),
    Mode("fast", 400e3, 300e-9),
    Mode("fast plus", 1e6, 120e-9, 20e-3, 550e-12),
)


@dataclass(frozen=True, slots=True)
class Window:
    """From `least_ohm`, for the sink current, to `most_ohm`, for the rise time. May be empty."""

    least_ohm: float
    most_ohm: float

    @property
    def is_empty(self) -> bool:
        """Whether nothing will do."""
        return self.least_ohm > self.most_ohm


def mode_for(bus_hz: float) -> Mode | None:
    """The slowest mode that runs so fast; None above 1 MHz."""
    return next((mode for mode in I2C_MODES if bus_hz <= mode.max_hz * (1 + 1e-9)), None)


def window(
    volts: float,
    low_v: float,
    sink_a: float,
    rise_s: float,
    capacitance_f: float,
    rise_factor: float = RISE_30_70,
) -> Window:
    """R_min = (V − V_OL)/I_OL and R_max = t_r/(0.8473·C), UM10204 §7.1 eq. 1 and 2.

    >>> wide = window(3.3, 0.4, 3e-3, 300e-9, 100e-12)
    >>> round(wide.least_ohm), round(wide.most_ohm)
    (967, 3541)
    """
    most = rise_s / (rise_factor * capacitance_f) if capacitance_f > 0.0 else math.inf
    return Window((volts - low_v) / sink_a, most)


def parallel(ohms: Iterable[float]) -> float:
    """1/Σ(1/R), Ω; infinite for none.

    >>> round(parallel([4700.0, 4700.0]), 1)
    2350.0
    """
    conductance = math.fsum(1.0 / ohm for ohm in ohms)
    return 1.0 / conductance if conductance > 0.0 else math.inf


def choose_pull_up(
    span: Window, liked_ohm: float | None = None, series: str = "E12"
) -> float | None:
    """A preferred value within the window: the liked one, or else the middle in ratio.

    >>> choose_pull_up(Window(184.0, 2e6), 10_000.0), choose_pull_up(Window(967.0, 3541.0))
    (10000.0, 1800.0)
    """
    if span.is_empty:
        return None
    if liked_ohm is not None and span.least_ohm <= liked_ohm <= span.most_ohm:
        return liked_ohm
    most = min(span.most_ohm, 1e6)
    inside = values_between(max(span.least_ohm, 1.0), most, series)
    if not inside:
        return None
    middle = nearest(math.sqrt(max(span.least_ohm, 1.0) * most), series)
    return min(inside, key=lambda one: abs(math.log(one / middle)))
