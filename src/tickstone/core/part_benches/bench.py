"""What every parts bench is: a few inputs, a working with its uncertainty, results, findings."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import ClassVar, Protocol, runtime_checkable

from tickstone.core.display import PREFIX_SCALES, decimals_for, grouped, prefixed
from tickstone.core.finding import Finding
from tickstone.core.quantity import Quantity
from tickstone.core.status import Status
from tickstone.core.step import Operand, Step
from tickstone.core.uncertainty import Component, combined, expanded, rectangular

_PREFIXED = ("Ω", "F", "V", "A", "W", "s", "Hz", "m")


@dataclass(frozen=True, slots=True)
class Known:
    """An input of a formula. u: its standard uncertainty, in `unit`."""

    name: str
    value: float
    unit: str
    u: float = 0.0
    basis: str = "stated"


def toleranced(name: str, value: float, unit: str, share: float, basis: str = "") -> Known:
    """A part marked ± share of its value: anywhere between, so u = share·value/√3."""
    return Known(
        name, value, unit, abs(value) * rectangular(share), basis or f"± {100 * share:g} %"
    )


@dataclass(frozen=True, slots=True)
class Result:
    """What the bench is asked for."""

    name: str
    value: float
    unit: str
    u: float = 0.0
    shown: str = ""

    @property
    def text(self) -> str:
        """As a person reads it, with its ±.

        >>> Result("resistor", 220.0, "Ω", 6.35).text, Result("pole pairs", 7.0, "").text
        ('220 Ω ± 13 Ω', '7')
        >>> Result("hardly known", 0.92, "V", 0.51).text
        '0.9 V ± 1.0 V'
        """
        if self.shown:
            return self.shown
        if self.u <= 0.0 or not math.isfinite(self.u):
            return _said(self.value, self.unit)
        scale, unit = scaled(max(abs(self.value), expanded(self.u)), self.unit)
        decimals = decimals_for(self.u / scale)
        value, spread = (grouped(one / scale, decimals) for one in (self.value, expanded(self.u)))
        shown = f"{value} {unit}".rstrip(), f"{spread} {unit}".rstrip()
        return " ± ".join(shown).replace(" °", "°")


def marked(name: str, part: Known, share: float) -> Result:
    """A part as it is marked: its value, and the tolerance it is sold with.

    >>> marked("resistor", toleranced("R", 220.0, "Ω", 0.05), 0.05).text
    '220 Ω ± 5 %'
    """
    shown = f"{prefixed(part.value, part.unit, 4)} ± {100 * share:g} %"
    return Result(name, part.value, part.unit, part.u, shown)


def scaled(value: float, unit: str) -> tuple[float, str]:
    """What to divide a quantity by to show it, and the unit with its prefix."""
    if unit not in _PREFIXED:
        return 1.0, unit
    shown = prefixed(value, unit).split(" ")[1]
    return PREFIX_SCALES[shown.removesuffix(unit)], shown


def _said(value: float, unit: str) -> str:
    if unit in _PREFIXED:
        return prefixed(value, unit, 4)
    is_large = 1e4 <= abs(value) < 1e9
    text = grouped(value, 0) if is_large else f"{value:.4g}".replace("-", "−")
    return f"{text}{unit}" if unit.startswith("°") else f"{text} {unit}".rstrip()


@dataclass(frozen=True, slots=True)
class Worked:
    """The working, the results, and what Tick Stone thinks. bands: of the resistor found."""

    steps: tuple[Step, ...]
    results: tuple[Result, ...]
    findings: tuple[Finding, ...] = ()
    bands: tuple[str, ...] = ()


@runtime_checkable
class PartBench(Protocol):
    """A sum about parts: a frozen dataclass of inputs."""

    name: ClassVar[str]
    label: ClassVar[str]
    what: ClassVar[str]

    def work(self) -> Worked:
        """Do the sum. Raises ValueError naming the input that cannot be."""
        ...


def worked_step(
    name: str,
    label: str,
    formula: str,
    filled: str,
    unit: str,
    inputs: tuple[Known, ...],
    compute: Callable[..., float],
    source: str,
    note: str = "",
    sign: str = "→",
) -> Step:
    """One line of the working: the value, and how each input's doubt comes through.

    Sensitivities are central differences; the sum is that of independent inputs (JCGM 100 eq. 10).
    compute: takes the inputs in their order.
    """
    values = [one.value for one in inputs]
    value = compute(*values)
    components = []
    for place, one in enumerate(inputs):
        if one.u <= 0.0:
            continue
        step = max(abs(one.value), 1e-12) * 1e-6
        ends = []
        for sign_of in (1.0, -1.0):
            moved = list(values)
            moved[place] = one.value + sign_of * step
            ends.append(compute(*moved))
        slope = (ends[0] - ends[1]) / (2.0 * step)
        components.append(Component(one.name, one.u, one.unit, slope * one.u, True, one.basis))
    return Step(
        stage=name,
        label=label,
        sign=sign,
        operand=Operand(None, "", 0.0, ", ".join(one.name for one in inputs)),
        formula=formula,
        filled=filled,
        value=value,
        quantity=Quantity(name, unit),
        status=Status.OK,
        components=tuple(components),
        source=source,
        note=note,
    )


def result_of(name: str, step: Step) -> Result:
    """The outcome of a step as a result."""
    return Result(name, step.value, step.unit, combined(step.components))
