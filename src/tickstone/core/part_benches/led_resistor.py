"""LED resistor: the value, the next preferred one up, its heat and its body."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.display import prefixed
from tickstone.core.electric.colour_bands import bands_or_none
from tickstone.core.electric.led_resistor import BODY_USE, body_for, chosen_ohm, needed_ohm
from tickstone.core.finding import Finding
from tickstone.core.inputs import choice, number
from tickstone.core.part_benches.bench import (
    Known,
    Result,
    Worked,
    marked,
    result_of,
    toleranced,
    worked_step,
)
from tickstone.core.uncertainty import rectangular

IEC_60063 = "IEC 60063 preferred values"


@dataclass(frozen=True, slots=True)
class LedResistorBench:
    """R = (V_s − V_f)/I, rounded up, with the current and the heat that follow.

    >>> LedResistorBench(5.0, 2.0, 15.0).work().results[0].value
    220.0
    """

    name: ClassVar[str] = "led-resistor"
    label: ClassVar[str] = "LED resistor"
    what: ClassVar[str] = "Which resistor goes before an LED, and what it then passes."

    supply_v: float = number("Supply", "V", 5.0, 0.5, 60.0)
    forward_v: float = number(
        "LED's forward volts", "V", 2.0, 0.5, 12.0, "red about 2, white 3, infrared 1.2"
    )
    current_ma: float = number("Wanted current", "mA", 15.0, 0.01, 2000.0)
    series: str = choice("Series", ("E12", "E24"))
    tolerance_percent: float = number("Resistor's tolerance", "%", 5.0, 0.0, 20.0)
    supply_percent: float = number("Supply's tolerance", "%", 5.0, 0.0, 50.0)
    forward_tolerance_v: float = number("Forward volts ±", "V", 0.2, 0.0, 3.0)

    def work(self) -> Worked:
        """The working."""
        current_a = self.current_ma / 1000.0
        supply = toleranced("supply", self.supply_v, "V", self.supply_percent / 100.0)
        forward = Known(
            "forward volts",
            self.forward_v,
            "V",
            rectangular(self.forward_tolerance_v),
            f"± {self.forward_tolerance_v:g} V",
        )
        needed_ohm(self.supply_v, self.forward_v, current_a)
        exact = worked_step(
            "needed",
            "needed",
            "R = (V_s − V_f)/I",
            f"({self.supply_v:g} V − {self.forward_v:g} V) ÷ {self.current_ma:g} mA",
            "Ω",
            (supply, forward),
            lambda v, f: (v - f) / current_a,
            "Ohm's law",
        )
        ohm = chosen_ohm(self.supply_v, self.forward_v, current_a, self.series)
        chosen = toleranced("resistor", ohm, "Ω", self.tolerance_percent / 100.0)
        rounded = worked_step(
            "rounded",
            f"next {self.series} up",
            "the smallest value not below R",
            f"{prefixed(exact.value, 'Ω')} → {prefixed(ohm, 'Ω')}",
            "Ω",
            (chosen,),
            lambda r: r,
            IEC_60063,
        )
        inputs = (supply, forward, chosen)
        flows = worked_step(
            "current",
            "it passes",
            "I = (V_s − V_f)/R",
            f"({self.supply_v:g} V − {self.forward_v:g} V) ÷ {prefixed(ohm, 'Ω')}",
            "A",
            inputs,
            lambda v, f, r: (v - f) / r,
            "Ohm's law",
        )
        heat = worked_step(
            "power",
            "heat",
            "P = (V_s − V_f)²/R",
            f"({self.supply_v:g} V − {self.forward_v:g} V)² ÷ {prefixed(ohm, 'Ω')}",
            "W",
            inputs,
            lambda v, f, r: (v - f) ** 2 / r,
            "Joule's law",
        )
        body = body_for(heat.value)
        spread = self.tolerance_percent / 100.0
        ends = [
            max(0.0, self.supply_v * (1.0 + sign * self.supply_percent / 100.0) - self.forward_v)
            + sign * self.forward_tolerance_v
            for sign in (-1.0, 1.0)
        ]
        least, most = (
            max(0.0, volts) / (ohm * (1.0 - sign * spread))
            for volts, sign in zip(ends, (-1.0, 1.0), strict=True)
        )
        return Worked(
            (exact, rounded, flows, heat),
            (
                marked("resistor", chosen, self.tolerance_percent / 100.0),
                result_of("current", flows),
                Result("lowest current", least, "A"),
                Result("highest current", most, "A"),
                result_of("heat", heat),
                *((Result("body", body, "W"),) if body else ()),
            ),
            tuple(self._findings(heat.value, body)),
            bands_or_none(ohm, self.tolerance_percent / 100.0),
        )

    def _findings(self, power: float, body: float | None) -> list[Finding]:
        found = []
        if body is None or body > 0.25:
            found.append(
                Finding(
                    "warning",
                    f"It turns {prefixed(power, 'W')} into heat.",
                    f"A body is used at {100 * BODY_USE:.0f} % of what it bears (common practice); "
                    f"that is more than a quarter-watt one.",
                    "Use less current, a lower supply, or a larger body; it may not lie flat.",
                )
            )
        if self.supply_v - self.forward_v < 0.15 * self.supply_v:
            found.append(
                Finding(
                    "warning",
                    "The supply is hardly above the LED's forward volts.",
                    "A small change of either changes the current a lot.",
                    "Use a higher supply, or fewer LEDs in a row.",
                )
            )
        return found
