"""Resistors or capacitors in series and in parallel."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.display import prefixed
from tickstone.core.finding import Finding
from tickstone.core.inputs import choice, number, words
from tickstone.core.part_benches.bench import Worked, result_of, toleranced, worked_step
from tickstone.core.part_benches.values import listed, part_value

MOST_PARTS = 20
OHM, FARAD = "resistors", "capacitors"


@dataclass(frozen=True, slots=True)
class CombiningBench:
    """Σ and 1/Σ(1/x), the other way round for capacitors.

    >>> [round(one.value) for one in CombiningBench(values="10k, 10k").work().results]
    [20000, 5000]
    """

    name: ClassVar[str] = "combine"
    label: ClassVar[str] = "Series and parallel"
    what: ClassVar[str] = "What several parts make together, in a row and side by side."

    kind: str = choice("Parts", (OHM, FARAD))
    values: str = words("Values", "10k, 10k", "such as 4k7, 10k or 100n, 1u")
    tolerance_percent: float = number("Tolerance", "%", 5.0, 0.0, 50.0)

    def work(self) -> Worked:
        """The working."""
        try:
            values = [part_value(text) for text in listed(self.values)]
        except ValueError as error:
            raise ValueError(f"values: {error}") from error
        if not 1 <= len(values) <= MOST_PARTS:
            raise ValueError(f"values: 1 to {MOST_PARTS} of them")
        if min(values) <= 0.0:
            raise ValueError("values: each has to be above 0")
        unit = "Ω" if self.kind == OHM else "F"
        parts = tuple(
            toleranced(f"part {place}", value, unit, self.tolerance_percent / 100.0)
            for place, value in enumerate(values, start=1)
        )
        texts = [prefixed(value, unit) for value in values]
        names = ("in a row", "side by side") if self.kind == OHM else ("side by side", "in a row")
        added = worked_step(
            "sum",
            names[0],
            "Σ x",
            " + ".join(texts),
            unit,
            parts,
            lambda *x: math.fsum(x),
            "Kirchhoff's laws",
        )
        reciprocal = worked_step(
            "reciprocal",
            names[1],
            "1/Σ(1/x)",
            f"1 ÷ (1/{' + 1/'.join(texts)})",
            unit,
            parts,
            lambda *x: 1.0 / math.fsum(1.0 / one for one in x),
            "Kirchhoff's laws",
        )
        ordered = (added, reciprocal) if self.kind == OHM else (reciprocal, added)
        findings = []
        if len(values) > 1 and max(values) > 20 * min(values):
            findings.append(
                Finding(
                    "note",
                    "One part is over twenty times another.",
                    "In a row the large resistor decides, side by side the small one; the "
                    "tolerance of the one that decides is more than the other adds.",
                    "",
                )
            )
        results = tuple(result_of(step.label, step) for step in ordered)
        return Worked(ordered, results, tuple(findings))
