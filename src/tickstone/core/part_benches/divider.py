"""Divider: what one gives, or which pair of resistors gives what is wanted."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.display import prefixed
from tickstone.core.electric.divider import choose_divider
from tickstone.core.electric.ladder import Rung, Source, corners
from tickstone.core.electric.led_resistor import body_for
from tickstone.core.finding import Finding
from tickstone.core.inputs import choice, number
from tickstone.core.part_benches.bench import (
    Result,
    Worked,
    marked,
    result_of,
    toleranced,
    worked_step,
)

ANALYSE, LEVEL, BATTERY = "analyse", "design for a level", "design for a battery"


@dataclass(frozen=True, slots=True)
class DividerBench:
    """V_out = V_in·R₂/(R₁ + R₂), its corners, and its stiffness.

    >>> bench = DividerBench(mode="design for a level", input_v=5.0, logic_v=3.3)
    >>> [round(one.value, 2) for one in bench.work().results[:2]]
    [1800.0, 3300.0]
    """

    name: ClassVar[str] = "divider"
    label: ClassVar[str] = "Divider"
    what: ClassVar[str] = "Two resistors that bring a voltage down, with tolerances against you."

    mode: str = choice("Do", (ANALYSE, LEVEL, BATTERY))
    input_v: float = number("Input, or battery at full charge", "V", 5.0, 0.1, 60.0)
    top_ohm: float = number("Upper resistor", "Ω", 10_000.0, 1.0, 1e7, "towards the input")
    bottom_ohm: float = number("Lower resistor", "Ω", 4_700.0, 1.0, 1e7, "to ground")
    logic_v: float = number("Logic supply or reference", "V", 3.3, 0.5, 30.0)
    high_min_v: float = number("Reliable high from", "V", 2.475, 0.0, 30.0)
    absolute_max_v: float = number("Input bears", "V", 3.6, 0.5, 60.0)
    tolerance_percent: float = number("Resistors' tolerance", "%", 5.0, 0.0, 20.0)
    input_percent: float = number("Input's tolerance", "%", 5.0, 0.0, 50.0)
    series: str = choice("Series", ("E12", "E24"))
    low_v: float = number("Low of the input", "V", 0.5, 0.0, 10.0, "what an output leaves when low")

    def work(self) -> Worked:
        """The working."""
        top, bottom = self._pair()
        share = self.tolerance_percent / 100.0
        battery = self.mode == BATTERY
        spread = 0.0 if battery else self.input_percent / 100.0
        source = toleranced("input", self.input_v, "V", spread)
        upper = toleranced("upper resistor", top, "Ω", share)
        lower = toleranced("lower resistor", bottom, "Ω", share)
        out = worked_step(
            "tap",
            "at the tap",
            "V_out = V_in·R₂/(R₁ + R₂)",
            f"{self.input_v:g} V × {prefixed(bottom, 'Ω')} ÷ ({prefixed(top, 'Ω')} + "
            f"{prefixed(bottom, 'Ω')})",
            "V",
            (source, upper, lower),
            lambda v, a, b: v * b / (a + b),
            "voltage divider, unloaded",
        )
        rungs = [Rung(top, None, share), Rung(bottom, 0.0, share)]
        low, high = corners(Source(self.input_v, 0.0), rungs)
        worst_low, worst_high = corners(Source(self.input_v, 0.0, spread), rungs)
        least = worked_step(
            "lowest",
            "lowest",
            "R₁ high, R₂ low, V_in low",
            "every tolerance against you",
            "V",
            (),
            lambda: worst_low,
            "corners: each part at its end",
        )
        most = worked_step(
            "highest",
            "highest",
            "R₁ low, R₂ high, V_in high",
            "every tolerance against you",
            "V",
            (),
            lambda: worst_high,
            "corners: each part at its end",
        )
        behind = worked_step(
            "stiffness",
            "seen as",
            "R₁·R₂/(R₁ + R₂)",
            f"{prefixed(top, 'Ω')} beside {prefixed(bottom, 'Ω')}",
            "Ω",
            (upper, lower),
            lambda a, b: a * b / (a + b),
            "Thévenin",
        )
        draws = worked_step(
            "draws",
            "draws",
            "V_in/(R₁ + R₂)",
            f"{self.input_v:g} V ÷ {prefixed(top + bottom, 'Ω')}",
            "A",
            (source, upper, lower),
            lambda v, a, b: v / (a + b),
            "Ohm's law",
        )
        heats = [
            worked_step(
                f"heat {name}",
                f"{name} heats",
                "V_R²/R",
                f"{self.input_v:g} V × {prefixed(own, 'Ω')} ÷ {prefixed(top + bottom, 'Ω')}, "
                f"squared, ÷ {prefixed(own, 'Ω')}",
                "W",
                (source, upper, lower),
                heat,
                "Joule's law",
            )
            for name, own, heat in (
                ("upper resistor", top, lambda v, a, b: (v / (a + b)) ** 2 * a),
                ("lower resistor", bottom, lambda v, a, b: (v / (a + b)) ** 2 * b),
            )
        ]
        low_tap = self.low_v * bottom / (top + bottom)
        return Worked(
            (out, least, most, behind, draws, *heats),
            (
                marked("upper resistor", upper, share),
                marked("lower resistor", lower, share),
                result_of("output", out),
                Result("lowest, resistors alone", low, "V"),
                Result("highest, resistors alone", high, "V"),
                Result("lowest", worst_low, "V"),
                Result("highest", worst_high, "V"),
                *(
                    (Result("low at the tap, at most", low_tap * (1.0 + share), "V"),)
                    if not battery
                    else ()
                ),
                *(result_of(f"heat of the {one.label[:-6]}", one) for one in heats),
            ),
            tuple(self._findings(worst_low, worst_high, out.value, [h.value for h in heats])),
        )

    def _pair(self) -> tuple[float, float]:
        if self.mode == ANALYSE:
            return self.top_ohm, self.bottom_ohm
        battery = self.mode == BATTERY
        if self.input_v <= self.logic_v:
            raise ValueError(
                f"input_v: {self.input_v:g} V is not above {self.logic_v:g} V; no divider is needed"
            )
        pair = choose_divider(
            self.input_v,
            self.logic_v,
            self.logic_v if battery else self.absolute_max_v,
            0.0 if battery else self.high_min_v,
            0.0 if battery else self.input_percent / 100.0,
            self.series,
            self.tolerance_percent / 100.0,
            20_000.0 if battery else 5_000.0,
        )
        if pair is None:
            raise ValueError(
                "no pair of the series reaches a reliable high and stays under what the input "
                "bears; use E24, tighter tolerances or a level shifter"
            )
        return pair.top_ohm, pair.bottom_ohm

    def _findings(
        self, low: float, high: float, nominal: float, heats: list[float]
    ) -> list[Finding]:
        found: list[Finding] = []
        body = body_for(max(heats))
        if body is None or body > 0.25:
            found.append(
                Finding(
                    "warning",
                    f"A resistor of it turns {prefixed(max(heats), 'W')} into heat.",
                    "A body is used at half of what it bears (common practice); that is more than "
                    "a quarter-watt one.",
                    "Use larger values, or a larger body.",
                )
            )
        if self.mode == BATTERY:
            return found
        if high > self.absolute_max_v:
            found.append(
                Finding(
                    "error",
                    f"It can reach {high:.2f} V; the input bears {self.absolute_max_v:g} V.",
                    "Beyond the absolute maximum an input is destroyed.",
                    "Design for the level, and let the pair be chosen.",
                )
            )
        elif nominal > self.logic_v:
            found.append(
                Finding(
                    "warning",
                    f"{nominal:.2f} V is over the logic supply of {self.logic_v:g} V.",
                    "The input's protection carries the rest.",
                    "Design for the level, and let the pair be chosen.",
                )
            )
        if low < self.high_min_v:
            found.append(
                Finding(
                    "error",
                    f"It can be as little as {low:.2f} V; a reliable high needs "
                    f"{self.high_min_v:g} V.",
                    "Between low and high the pin reads what it likes.",
                    "Design for the level, and let the pair be chosen.",
                )
            )
        return found
