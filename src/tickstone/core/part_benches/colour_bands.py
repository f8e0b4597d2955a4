"""Resistor colours, both ways: bands to ohms and ohms to bands."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.display import prefixed
from tickstone.core.electric.colour_bands import bands_for, read_bands
from tickstone.core.electric.preferred_values import nearest
from tickstone.core.finding import Finding
from tickstone.core.inputs import choice, number, words
from tickstone.core.part_benches.bench import Result, Worked, marked, toleranced, worked_step

READ, WRITE = "bands to ohms", "ohms to bands"
SOURCE = "IEC 60062:2016, table 1"


@dataclass(frozen=True, slots=True)
class ColourBandsBench:
    """What the bands of a resistor say, or which bands say a value.

    >>> ColourBandsBench(bands="yellow violet red gold").work().results[0].value
    4700.0
    """

    name: ClassVar[str] = "colour-bands"
    label: ClassVar[str] = "Resistor colours"
    what: ClassVar[str] = "Reads the bands of a resistor, or says which bands to look for."

    mode: str = choice("Do", (READ, WRITE))
    bands: str = words("Bands, from the end nearest them", "yellow violet red gold")
    ohm: float = number("Value", "Ω", 4_700.0, 0.01, 1e11)
    tolerance_percent: float = number("Tolerance", "%", 5.0, 0.01, 20.0)
    figures: float = number("Figures before the multiplier", "", 2.0, 2.0, 3.0)

    def work(self) -> Worked:
        """The working."""
        if self.mode == READ:
            bands = tuple(self.bands.lower().replace("gray", "grey").replace(",", " ").split())
            reading = read_bands(bands)
            ohm, tolerance = reading.ohm, reading.tolerance
        else:
            ohm, tolerance = self.ohm, self.tolerance_percent / 100.0
            bands = bands_for(ohm, tolerance, round(self.figures))
        part = toleranced("tolerance band", ohm, "Ω", tolerance)
        says = worked_step(
            "value", "value", "figures × 10ⁿ", " ".join(bands), "Ω", (part,), lambda r: r, SOURCE
        )
        results = [
            marked("value", part, tolerance),
            Result("lowest", ohm * (1 - tolerance), "Ω"),
            Result("highest", ohm * (1 + tolerance), "Ω"),
        ]
        findings = []
        usual = nearest(ohm, "E24")
        if abs(usual / ohm - 1.0) > 0.001 and len(bands) <= 4:
            findings.append(
                Finding(
                    "note",
                    f"{prefixed(ohm, 'Ω')} is no E24 value; the nearest is {prefixed(usual, 'Ω')}.",
                    "Resistors with two figures are mostly of the E24 series (IEC 60063).",
                    "Read the bands from the other end, or in better light: red, orange and brown "
                    "look alike.",
                )
            )
        return Worked((says,), tuple(results), tuple(findings), bands)
