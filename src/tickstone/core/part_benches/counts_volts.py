"""Converter counts to volts and back, and what dividing by one less changes."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.display import grouped, prefixed
from tickstone.core.finding import Finding
from tickstone.core.inputs import choice, number
from tickstone.core.part_benches.bench import (
    Known,
    Result,
    Worked,
    result_of,
    toleranced,
    worked_step,
)
from tickstone.core.step import Step
from tickstone.core.uncertainty import rectangular

COUNTS, VOLTS = "counts to volts", "volts to counts"
SOURCE = "ideal converter: 2ⁿ codes of V_ref/2ⁿ each; code N spans [N, N + 1)·LSB"


@dataclass(frozen=True, slots=True)
class CountsVoltsBench:
    """LSB = V_ref/2ⁿ, V = (N + ½)·LSB ± ½ LSB, N = ⌊V/LSB⌋.

    >>> bench = CountsVoltsBench(counts=512)
    >>> round(bench.work().results[0].value * 1000, 3), round(bench.work().results[1].value, 4)
    (4.883, 2.5024)
    """

    name: ClassVar[str] = "counts-volts"
    label: ClassVar[str] = "Counts and volts"
    what: ClassVar[str] = "What a converter's code means in volts, and which code a voltage gives."

    mode: str = choice("Do", (COUNTS, VOLTS))
    counts: float = number("Counts", "", 512.0, 0.0, 2.0**32)
    volts: float = number("Volts", "V", 2.5, -60.0, 60.0)
    bits: float = number("Converter", "bits", 10.0, 4.0, 32.0)
    reference_v: float = number("Reference", "V", 5.0, 0.05, 60.0)
    reference_percent: float = number("Reference known to", "%", 1.0, 0.0, 50.0)

    def work(self) -> Worked:
        """The working."""
        bits = round(self.bits)
        if bits != self.bits:
            raise ValueError("bits: a whole number")
        codes = 2**bits
        full = toleranced("reference", self.reference_v, "V", self.reference_percent / 100.0)
        width = worked_step(
            "lsb",
            "one code",
            "LSB = V_ref/2ⁿ",
            f"{self.reference_v:g} V ÷ {grouped(codes, 0)}",
            "V",
            (full,),
            lambda v: v / codes,
            SOURCE,
        )
        if self.mode == COUNTS:
            return self._to_volts(full, width.value, codes, width)
        return self._to_counts(width.value, codes, width)

    def _to_volts(self, full: Known, lsb: float, codes: int, width: Step) -> Worked:
        count = round(self.counts)
        if count != self.counts or count > codes - 1:
            raise ValueError(f"counts: a whole number from 0 to {codes - 1}")
        inside = Known(
            "which volts of the code", float(count) + 0.5, "LSB", rectangular(0.5), "± ½"
        )
        volts = worked_step(
            "volts",
            "its middle",
            "V = (N + ½)·LSB",
            f"({count} + ½) × {prefixed(lsb, 'V', 4)}",
            "V",
            (full, inside),
            lambda v, n: n * v / codes,
            SOURCE,
        )
        other = count / (codes - 1) * self.reference_v
        low = count * lsb
        gap = worked_step(
            "other",
            "divided by 2ⁿ − 1",
            "V = N·V_ref/(2ⁿ − 1)",
            f"{count} × {self.reference_v:g} V ÷ {grouped(codes - 1, 0)}",
            "V",
            (full,),
            lambda v: count * v / (codes - 1),
            "common practice",
            note="At most one code off; full scale then reads as the reference itself.",
        )
        findings = [
            Finding(
                "note",
                f"Dividing by {grouped(codes - 1, 0)} gives {prefixed(abs(other - low), 'V')} more "
                "than the code's lower edge.",
                f"There are {grouped(codes, 0)} codes, each {prefixed(lsb, 'V', 4)} wide; the last "
                "one begins a code below the reference.",
                f"Divide by {grouped(codes, 0)}.",
            )
        ]
        if count in (0, codes - 1):
            findings.insert(
                0,
                Finding(
                    "warning",
                    "The code is at the end of the range.",
                    "Anything beyond reads the same.",
                    "Lower the signal or choose another reference.",
                ),
            )
        return Worked(
            (width, volts, gap),
            (
                result_of("one code", width),
                result_of("volts", volts),
                Result("from", low, "V"),
                Result("to", low + lsb, "V"),
                result_of("divided by one less", gap),
            ),
            tuple(findings),
        )

    def _to_counts(self, lsb: float, codes: int, width: Step) -> Worked:
        exact = self.volts / lsb
        code = min(max(math.floor(exact + 1e-9), 0), codes - 1)
        step = worked_step(
            "counts",
            "code",
            "N = ⌊V/LSB⌋, from 0 to 2ⁿ − 1",
            f"⌊{self.volts:g} V ÷ {prefixed(lsb, 'V', 4)}⌋",
            "",
            (),
            lambda: float(code),
            SOURCE,
        )
        share = self.reference_percent / 100.0
        spread = abs(exact) * rectangular(share)
        findings = []
        if not 0.0 <= exact < codes:
            findings.append(
                Finding(
                    "warning",
                    f"{self.volts:g} V is outside 0 to {self.reference_v:g} V.",
                    "It reads as the end of the range, and may harm the pin.",
                    "Divide it down.",
                )
            )
        return Worked(
            (width, step),
            (result_of("one code", width), Result("counts", float(code), "", spread)),
            tuple(findings),
        )
