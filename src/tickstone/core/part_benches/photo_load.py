"""Phototransistor load: the resistor that tells black from white without saturating."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.display import prefixed
from tickstone.core.electric.colour_bands import bands_or_none
from tickstone.core.electric.preferred_values import next_down
from tickstone.core.finding import Finding
from tickstone.core.inputs import choice, number
from tickstone.core.part_benches.bench import (
    Known,
    Worked,
    marked,
    result_of,
    toleranced,
    worked_step,
)
from tickstone.core.step import Step

COLLECTOR, EMITTER = "collector, to the supply", "emitter, to ground"


@dataclass(frozen=True, slots=True)
class PhotoLoadBench:
    """R ≤ share·(V_s − V_CE(sat))/I_white; then the volts over white and black.

    >>> round(PhotoLoadBench().work().results[0].value)
    5600
    """

    name: ClassVar[str] = "photo-load"
    label: ClassVar[str] = "Phototransistor load"
    what: ClassVar[str] = "Turns the current over white and black into volts far apart."

    supply_v: float = number("Supply", "V", 5.0, 0.5, 30.0)
    white_ua: float = number(
        "Current over white", "µA", 600.0, 0.01, 50_000.0, "measured or stated"
    )
    black_ua: float = number("Current over black", "µA", 60.0, 0.0, 50_000.0)
    known_percent: float = number("Currents known to", "%", 20.0, 0.0, 90.0)
    saturation_v: float = number("V_CE(sat)", "V", 0.3, 0.0, 2.0)
    use_percent: float = number("Of the span, use", "%", 80.0, 10.0, 100.0)
    side: str = choice("Load at the", (COLLECTOR, EMITTER))
    ohm: float = number("Resistor, 0 to choose", "Ω", 0.0, 0.0, 1e7)

    def work(self) -> Worked:
        """The working."""
        if self.black_ua >= self.white_ua:
            raise ValueError("black_ua: has to be below the current over white")
        if self.saturation_v >= self.supply_v:
            raise ValueError("saturation_v: has to be below the supply")
        share = self.use_percent / 100.0
        white = toleranced("white", self.white_ua * 1e-6, "A", self.known_percent / 100.0)
        black = toleranced("black", self.black_ua * 1e-6, "A", self.known_percent / 100.0)
        supply = toleranced("supply", self.supply_v, "V", 0.05)
        most = worked_step(
            "most",
            "at most",
            "R = share·(V_s − V_CE(sat))/I_white",
            f"{share:g} × ({self.supply_v:g} V − {self.saturation_v:g} V) ÷ {self.white_ua:g} µA",
            "Ω",
            (supply, white),
            lambda v, i: share * (v - self.saturation_v) / i,
            "Ohm's law",
        )
        ohm = self.ohm or next_down(most.value)
        part = toleranced("load", ohm, "Ω", 0.05)
        chosen = worked_step(
            "load",
            "load",
            "the next E12 value down" if not self.ohm else "as given",
            prefixed(ohm, "Ω"),
            "Ω",
            (part,),
            lambda r: r,
            "IEC 60063 preferred values",
        )
        on_white = self._volts("white", "over white", supply, white, part)
        on_black = self._volts("black", "over black", supply, black, part)
        apart = abs(on_white.value - on_black.value)
        swing = worked_step(
            "apart",
            "apart",
            "|V_white − V_black|",
            f"{on_white.value:.2f} V and {on_black.value:.2f} V",
            "V",
            (supply, white, black, part),
            lambda v, w, b, r: abs(self._at(v, w, r) - self._at(v, b, r)),
            "difference",
        )
        findings = []
        if ohm * self.white_ua * 1e-6 > self.supply_v - self.saturation_v:
            findings.append(
                Finding(
                    "warning",
                    f"{prefixed(ohm, 'Ω')} saturates over white.",
                    "It asks for more volts than the supply has; greys from white on read alike.",
                    f"Use {prefixed(next_down(most.value), 'Ω')} or less.",
                )
            )
        elif ohm > (safe := self._never_saturating()):
            findings.append(
                Finding(
                    "note",
                    f"With {self.known_percent:g} % more current {prefixed(ohm, 'Ω')} saturates.",
                    "White then reads no better than light grey; a threshold may still do.",
                    f"Use {prefixed(safe, 'Ω')} or less, or measure the current better.",
                )
            )
        if apart < 0.3 * self.supply_v:
            findings.append(
                Finding(
                    "warning",
                    f"Black and white are {apart:.2f} V apart.",
                    "Noise and room light will cross a threshold between them.",
                    "More light from the emitter, less height, or a larger load.",
                )
            )
        return Worked(
            (most, chosen, on_white, on_black, swing),
            (
                marked("load", part, 0.05),
                result_of("over white", on_white),
                result_of("over black", on_black),
                result_of("apart", swing),
            ),
            tuple(findings),
            bands_or_none(ohm, 0.05),
        )

    def _never_saturating(self) -> float:
        """The largest preferred load that does not saturate with the most current over white."""
        most_a = self.white_ua * 1e-6 * (1.0 + self.known_percent / 100.0)
        return next_down((self.supply_v - self.saturation_v) / most_a)

    def _at(self, supply: float, current: float, ohm: float) -> float:
        across = min(current * ohm, supply - self.saturation_v)
        return supply - across if self.side == COLLECTOR else across

    def _volts(self, name: str, label: str, supply: Known, current: Known, part: Known) -> Step:
        formula = "V_s − I·R" if self.side == COLLECTOR else "I·R"
        return worked_step(
            name,
            label,
            f"{formula}, saturating at V_CE(sat)",
            f"{prefixed(current.value, 'A')} through {prefixed(part.value, 'Ω')}",
            "V",
            (supply, current, part),
            self._at,
            "Ohm's law",
        )
