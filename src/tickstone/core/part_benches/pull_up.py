"""Pull-up window: from the sink current up to the rise time."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.display import prefixed
from tickstone.core.electric.colour_bands import bands_or_none
from tickstone.core.electric.pull_up import RISE_10_90, RISE_30_70, choose_pull_up, window
from tickstone.core.finding import Finding
from tickstone.core.inputs import choice, number
from tickstone.core.part_benches.bench import Worked, marked, result_of, toleranced, worked_step

BUS, PLAIN = "30–70 %, as for I²C", "10–90 %"


@dataclass(frozen=True, slots=True)
class PullUpBench:
    """R_min = (V − V_OL)/I_OL, R_max = t_r/(k·C).

    >>> [round(one.value) for one in PullUpBench(3.3, 0.4, 3.0, 300.0, 100.0).work().results[:2]]
    [967, 3541]
    """

    name: ClassVar[str] = "pull-up"
    label: ClassVar[str] = "Pull-up window"
    what: ClassVar[str] = "Low enough to rise in time, high enough for what pulls down."

    supply_v: float = number("Supply", "V", 3.3, 0.5, 30.0)
    low_v: float = number("Low has to be under", "V", 0.4, 0.0, 5.0)
    sink_ma: float = number("Output may sink", "mA", 3.0, 0.01, 1000.0, "I²C: 3 mA (UM10204)")
    rise_ns: float = number(
        "Rise time allowed", "ns", 300.0, 1.0, 1e9, "I²C: 1000 at 100 kHz, 300 at 400 kHz"
    )
    capacitance_pf: float = number("Wire, pins and devices", "pF", 100.0, 1.0, 1e6)
    measure: str = choice("Rise counted from", (BUS, PLAIN))
    capacitance_percent: float = number("Capacitance known to", "%", 30.0, 0.0, 90.0)

    def work(self) -> Worked:
        """The working."""
        factor = RISE_30_70 if self.measure == BUS else RISE_10_90
        sink, rise = self.sink_ma * 1e-3, self.rise_ns * 1e-9
        supply = toleranced("supply", self.supply_v, "V", 0.05)
        farad = toleranced(
            "capacitance", self.capacitance_pf * 1e-12, "F", self.capacitance_percent / 100.0
        )
        if self.low_v >= self.supply_v:
            raise ValueError("low_v: has to be below the supply")
        least = worked_step(
            "least",
            "at least",
            "R_min = (V − V_OL)/I_OL",
            f"({self.supply_v:g} V − {self.low_v:g} V) ÷ {self.sink_ma:g} mA",
            "Ω",
            (supply,),
            lambda v: (v - self.low_v) / sink,
            "UM10204 rev. 7, §7.1",
        )
        most = worked_step(
            "most",
            "at most",
            f"R_max = t_r/({factor:.4f}·C)",
            f"{prefixed(rise, 's')} ÷ ({factor:.4f} × {self.capacitance_pf:g} pF)",
            "Ω",
            (farad,),
            lambda c: rise / (factor * c),
            "UM10204 rev. 7, §7.1",
        )
        span = window(self.supply_v, self.low_v, sink, rise, self.capacitance_pf * 1e-12, factor)
        ohm = choose_pull_up(span)
        steps, results = [least, most], [result_of("at least", least), result_of("at most", most)]
        if ohm is not None:
            part = toleranced("resistor", ohm, "Ω", 0.05)
            chosen = worked_step(
                "chosen",
                "choose",
                "the middle, in ratio",
                f"√({prefixed(span.least_ohm, 'Ω')} × {prefixed(span.most_ohm, 'Ω')}) → E12",
                "Ω",
                (part,),
                lambda r: r,
                "IEC 60063 preferred values",
            )
            takes = worked_step(
                "rises",
                "then rises in",
                "t = k·R·C",
                f"{factor:.4f} × {prefixed(ohm, 'Ω')} × {self.capacitance_pf:g} pF",
                "s",
                (part, farad),
                lambda r, c: factor * r * c,
                "charging through a resistor",
            )
            steps += [chosen, takes]
            results += [marked("choose", part, 0.05), result_of("rise", takes)]
        findings = []
        if ohm is None:
            findings.append(
                Finding(
                    "error",
                    "No resistor does both.",
                    "What may be sunk asks for more ohms than the rise time allows.",
                    "Shorter wires, a slower clock, or an active buffer.",
                )
            )
        return Worked(
            tuple(steps), tuple(results), tuple(findings), bands_or_none(ohm, 0.05) if ohm else ()
        )
