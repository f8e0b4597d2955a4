"""RC filter: its corner, how fast it settles, and what it lets through."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.display import prefixed
from tickstone.core.finding import Finding
from tickstone.core.inputs import number
from tickstone.core.part_benches.bench import Worked, result_of, toleranced, worked_step


@dataclass(frozen=True, slots=True)
class RcFilterBench:
    """f_c = 1/(2π·R·C), settling to a code in ln(2ⁿ⁺¹)·R·C.

    >>> round(RcFilterBench(1_000.0, 100.0).work().results[0].value, 1)
    1591.5
    """

    name: ClassVar[str] = "rc-filter"
    label: ClassVar[str] = "RC filter"
    what: ClassVar[str] = (
        "A resistor and a capacitor that keep fast noise out, and what that costs."
    )

    ohm: float = number("Resistor", "Ω", 1_000.0, 0.1, 1e8)
    capacitance_nf: float = number("Capacitor", "nF", 100.0, 1e-4, 1e8)
    resistor_percent: float = number("Resistor's tolerance", "%", 5.0, 0.0, 50.0)
    capacitor_percent: float = number("Capacitor's tolerance", "%", 20.0, 0.0, 80.0)
    signal_hz: float = number("Fastest signal to keep", "Hz", 50.0, 0.001, 1e7)
    noise_hz: float = number("Noise to keep out", "Hz", 20_000.0, 0.001, 1e9)
    bits: float = number("Converter", "bits", 10.0, 4.0, 24.0)

    def work(self) -> Worked:
        """The working."""
        resistor = toleranced("resistor", self.ohm, "Ω", self.resistor_percent / 100.0)
        farad = self.capacitance_nf * 1e-9
        capacitor = toleranced("capacitor", farad, "F", self.capacitor_percent / 100.0)
        parts = (resistor, capacitor)
        filled = f"{prefixed(self.ohm, 'Ω')} × {prefixed(farad, 'F')}"
        corner = worked_step(
            "corner",
            "corner",
            "f_c = 1/(2π·R·C)",
            f"1 ÷ (2π × {filled})",
            "Hz",
            parts,
            lambda r, c: 1.0 / (2.0 * math.pi * r * c),
            "first-order low pass",
        )
        settle = worked_step(
            "settles",
            "settles in",
            "t = ln(2ⁿ⁺¹)·R·C",
            f"{math.log(2) * (self.bits + 1):.2f} × {filled}",
            "s",
            parts,
            lambda r, c: math.log(2) * (self.bits + 1) * r * c,
            "to half a code of a full step",
        )
        kept = worked_step(
            "kept",
            "of the signal stays",
            "1/√(1 + (f/f_c)²)",
            f"at {prefixed(self.signal_hz, 'Hz')}",
            "",
            parts,
            lambda r, c: self._through(self.signal_hz, r, c),
            "first-order low pass",
        )
        left = worked_step(
            "left",
            "of the noise stays",
            "1/√(1 + (f/f_c)²)",
            f"at {prefixed(self.noise_hz, 'Hz')}",
            "",
            parts,
            lambda r, c: self._through(self.noise_hz, r, c),
            "first-order low pass",
        )
        findings = []
        if kept.value < 0.9:
            findings.append(
                Finding(
                    "warning",
                    f"It takes {100 * (1 - kept.value):.0f} % off the signal.",
                    "The corner is too near the fastest signal to keep.",
                    "A smaller resistor or capacitor.",
                )
            )
        if left.value > 0.5:
            findings.append(
                Finding(
                    "note",
                    f"{100 * left.value:.0f} % of the noise comes through.",
                    "The corner is above or near the noise.",
                    "A larger resistor or capacitor, or filter in the program.",
                )
            )
        return Worked(
            (corner, settle, kept, left),
            (
                result_of("corner", corner),
                result_of("settles in", settle),
                result_of("signal kept", kept),
                result_of("noise left", left),
            ),
            tuple(findings),
        )

    @staticmethod
    def _through(frequency: float, ohm: float, farad: float) -> float:
        return 1.0 / math.hypot(1.0, 2.0 * math.pi * frequency * ohm * farad)
