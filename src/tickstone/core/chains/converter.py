"""What every kind of sensor that a converter reads begins with: codes, and volts."""

from __future__ import annotations

from typing import Protocol

from tickstone.core.stages.converter_ends import ConverterEnds
from tickstone.core.stages.counts_volts import CountsVolts
from tickstone.core.uncertainty import rectangular

CODE_UNITS = {"": 1.0, "counts": 1.0, "LSB": 1.0}
"""What a column of codes may say that it is in."""


class ConverterParameters(Protocol):
    """Bits, and what the converter compares with, V, known to so many per cent."""

    @property
    def bits(self) -> int: ...

    @property
    def reference_v(self) -> float: ...

    @property
    def reference_percent(self) -> float: ...


def converter_stages(
    parameters: ConverterParameters,
) -> tuple[tuple[str, ConverterEnds], tuple[str, CountsVolts]]:
    """Codes with their ends watched, then volts."""
    bits, reference_v = parameters.bits, parameters.reference_v
    reference_u = rectangular(parameters.reference_percent / 100.0 * reference_v)
    return ("counts", ConverterEnds(bits)), ("volts", CountsVolts(bits, reference_v, reference_u))
