"""Current budget: what is drawn, against what a pin, a port, a regulator or a USB port gives."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.display import prefixed
from tickstone.core.finding import Finding
from tickstone.core.inputs import number, words
from tickstone.core.part_benches.bench import Worked, result_of, toleranced, worked_step

MOST_LOADS = 30


@dataclass(frozen=True, slots=True)
class CurrentBudgetBench:
    """Σ counts × currents, what is left, and the heat of a linear regulator.

    >>> round(CurrentBudgetBench(loads_ma="2x15, 22").work().results[0].value, 4)
    0.052
    """

    name: ClassVar[str] = "current-budget"
    label: ClassVar[str] = "Current budget"
    what: ClassVar[str] = "Adds up loads and holds them against what a supply gives."

    loads_ma: str = words(
        "Loads, mA", "2x15, 22, 5, 4, 1.5", "such as 2x15, 22: two of 15 and one of 22"
    )
    known_percent: float = number("Currents known to", "%", 20.0, 0.0, 90.0)
    limit_ma: float = number("The supply gives", "mA", 500.0, 0.1, 1e6)
    input_v: float = number("Before the regulator, 0 for none", "V", 0.0, 0.0, 60.0)
    output_v: float = number("After it", "V", 5.0, 0.5, 60.0)

    def work(self) -> Worked:
        """The working."""
        loads = _loads(self.loads_ma)
        share = self.known_percent / 100.0
        known = tuple(
            toleranced(f"load {place}", count * current * 1e-3, "A", share)
            for place, (count, current) in enumerate(loads, start=1)
        )
        total = worked_step(
            "total",
            "drawn",
            "Σ n·I",
            " + ".join(f"{count:g} × {current:g} mA" for count, current in loads),
            "A",
            known,
            lambda *parts: sum(parts),
            "Kirchhoff's current law",
        )
        limit = self.limit_ma * 1e-3
        left = worked_step(
            "left",
            "left",
            "limit − drawn",
            f"{self.limit_ma:g} mA − {prefixed(total.value, 'A')}",
            "A",
            known,
            lambda *parts: limit - sum(parts),
            "difference",
        )
        steps, results = [total, left], [result_of("drawn", total), result_of("left", left)]
        if self.input_v > self.output_v:
            heat = worked_step(
                "heat",
                "regulator's heat",
                "P = (V_in − V_out)·I",
                f"({self.input_v:g} V − {self.output_v:g} V) × {prefixed(total.value, 'A')}",
                "W",
                known,
                lambda *parts: (self.input_v - self.output_v) * sum(parts),
                "linear regulator",
            )
            steps.append(heat)
            results.append(result_of("regulator's heat", heat))
        findings = []
        if left.value < 0.0:
            findings.append(
                Finding(
                    "error",
                    f"{prefixed(-left.value, 'A')} more is drawn than the supply gives.",
                    "The volts sag and the board resets.",
                    "A supply of its own for the largest load, with a common ground.",
                )
            )
        elif left.value < 0.2 * limit:
            findings.append(
                Finding(
                    "warning",
                    "Less than a fifth of the supply is left.",
                    "Motors and servos draw several times their usual current when they start.",
                    "Leave room, or give the largest load its own supply.",
                )
            )
        return Worked(tuple(steps), tuple(results), tuple(findings))


def _loads(text: str) -> list[tuple[float, float]]:
    loads = []
    for part in text.split(","):
        count, times, current = part.strip().lower().replace("×", "x").rpartition("x")
        try:
            pair = (float(count) if times else 1.0, float(current))
        except ValueError as error:
            raise ValueError(
                f"loads_ma: “{part.strip()[:30]}” is no load; write 2x15 or 22"
            ) from error
        if not (0.0 <= pair[0] <= 1e4 and 0.0 <= pair[1] <= 1e6):
            raise ValueError(f"loads_ma: “{part.strip()[:30]}” cannot be")
        loads.append(pair)
    if len(loads) > MOST_LOADS:
        raise ValueError(f"loads_ma: {MOST_LOADS} loads at most")
    return loads
