"""Battery through its divider: volts, and volts of each cell."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, ClassVar

from tickstone.core.chain import Chain, Node, Stage
from tickstone.core.chains.converter import CODE_UNITS, converter_stages
from tickstone.core.chains.kind import ChainKind, Form, Output, Role, line_of
from tickstone.core.finding import Finding
from tickstone.core.inputs import check_inputs, number, whole
from tickstone.core.quantity import COUNTS, VOLTAGE
from tickstone.core.rules.cell_cut_off import CHARGE, CellCutOff
from tickstone.core.rules.kind import RuleKind
from tickstone.core.signal import Signal
from tickstone.core.stages.divided import Divided
from tickstone.core.stages.each_of import EachOf
from tickstone.core.stages.moving_average import MovingAverage
from tickstone.core.surroundings import Surroundings

_FULL_V = 4.25
"""No lithium cell is ever above this; from memory."""


@dataclass(frozen=True, slots=True)
class BatteryParameters:
    """Converter, divider and cells. Volts V, resistances Ω; all common practice.

    Raises ValueError naming the first parameter that cannot be.
    """

    bits: int = whole(
        "Converter", 10, 4, 24, "bits", (8, 10, 12, 16), node="counts", option=("bits", 1.0)
    )
    reference_v: float = number("Reference", "V", 5.0, 0.05, 60.0, node="volts", decimals=2)
    reference_percent: float = number("Known to, ±", "%", 2.0, 0.0, 50.0, node="volts", decimals=1)
    top_ohm: float = number("To the battery", "Ω", 20e3, 0.0, 1e8, node="divider", decimals=0)
    bottom_ohm: float = number("To ground", "Ω", 10e3, 1.0, 1e8, node="divider", decimals=0)
    ohm_percent: float = number("Both to, ±", "%", 1.0, 0.0, 50.0, node="divider", decimals=1)
    mean_n: int = whole("Mean of", 10, 1, 1000, "readings", (1, 5, 10, 30), node="mean")
    cells: int = whole("Cells in a row", 2, 1, 30, "", (1, 2, 3, 4, 6), node="cell")

    def __post_init__(self) -> None:
        check_inputs(self)


class Battery(ChainKind):
    """A battery.

    >>> from tickstone.core.air.conditions import AirConditions
    >>> chain = Battery().build(BatteryParameters(mean_n=1), Surroundings(AirConditions(20.0)))
    >>> chain.apply(Signal.of([0], [512.0], COUNTS), "cell").value.round(3).tolist()
    [3.754]
    """

    name: ClassVar[str] = "battery"
    label: ClassVar[str] = "Battery"
    parameters: ClassVar[type] = BatteryParameters
    roles: ClassVar[tuple[Role, ...]] = (
        Role(
            "volts", "Its voltage",
            (
                Form(
                    "counts", "converter counts", COUNTS, CODE_UNITS, option="counts",
                    comes_as="converter counts",
                ),
                Form(
                    "battery", "volts of the battery, already worked out", VOLTAGE,
                    {"V": 1.0, "mV": 1e-3}, late="divider", option="volts", comes_as="voltage",
                    loses="What the divider’s resistors are off by is in every reading.",
                ),
                Form("pin", "volts at the pin", VOLTAGE, {"V": 1.0, "mV": 1e-3}, late="volts"),
            ),
            ("batt", "battery", "vbat"),
        ),
    )  # fmt: skip
    unfiltered: ClassVar[Mapping[str, Any]] = {"mean_n": 1}
    outputs: ClassVar[tuple[Output, ...]] = (
        Output("battery", "Battery", VOLTAGE),
        Output("cell", "Each cell", VOLTAGE),
        Output("charge", "Charge", CHARGE),
    )
    rules: ClassVar[tuple[RuleKind, ...]] = (CellCutOff(),)

    def build(
        self,
        parameters: BatteryParameters,
        surroundings: Surroundings,
        calibrations: Mapping[str, Stage] | None = None,
        forms: Mapping[str, str] | None = None,
        lanes: Mapping[str, int] | None = None,
    ) -> Chain:
        """Counts to volts at the pin, to those of the battery, to those of a cell."""
        form, entry = self.roles[0].entry(forms, lanes)
        stages: list[tuple[str, Stage]] = [
            *converter_stages(parameters),
            (
                "divider",
                Divided(parameters.top_ohm, parameters.bottom_ohm, parameters.ohm_percent / 100.0),
            ),
        ]
        if parameters.mean_n > 1:
            stages.append(("mean", MovingAverage(parameters.mean_n)))
        nodes = line_of(stages, entry, form.late)
        last = nodes[-1].name if nodes else entry.at
        cell = Node("cell", EachOf(parameters.cells, "cells"), (last,))
        return Chain((entry,), (*nodes, cell), (("battery", last), ("cell", "cell")))

    def findings(
        self, parameters: BatteryParameters, surroundings: Surroundings, signal: Signal | None
    ) -> Sequence[Finding]:
        """More than the converter can tell, or than so many cells can have."""
        reach_v = parameters.reference_v * (
            (parameters.top_ohm + parameters.bottom_ohm) / parameters.bottom_ohm
        )
        found = []
        if reach_v < _FULL_V * parameters.cells:
            found.append(
                Finding(
                    "warning",
                    f"It can tell up to {VOLTAGE.said(reach_v, 1)} only.",
                    f"{parameters.cells} full lithium cells have up to "
                    f"{VOLTAGE.said(_FULL_V * parameters.cells, 1)}, which puts more than its "
                    "reference on the pin.",
                    "A larger resistor to the battery.",
                )
            )
        if signal is not None and signal.ok.any():
            most_v = float(signal.value[signal.ok].max())
            if most_v > _FULL_V * parameters.cells * 1.02:
                found.append(
                    Finding(
                        "warning",
                        f"It reads up to {VOLTAGE.said(most_v, 1)}.",
                        f"That is more than {parameters.cells} cells can have.",
                        "Check how many cells, and both resistors.",
                    )
                )
        return found

    def filter_lag_s(self, parameters: BatteryParameters, sample_s: float) -> float:
        """That of the mean."""
        return (parameters.mean_n - 1) / 2 * sample_s

    def remedy(self, source: str) -> str:
        """For resistors and reference."""
        return {
            "reference": "A reference of its own, or a meter’s word for it,",
            "R₁": "Resistors of 0.1 %", "R₂": "Resistors of 0.1 %",
        }.get(source, "")  # fmt: skip

    def raw_for(
        self,
        value: float,
        parameters: BatteryParameters,
        surroundings: Surroundings,
        calibrations: Mapping[str, Stage] | None = None,
    ) -> dict[str, Signal] | None:
        """The counts at so many volts of the battery."""
        part = parameters.bottom_ohm / (parameters.top_ohm + parameters.bottom_ohm)
        count = value * part / parameters.reference_v * 2**parameters.bits - 0.5
        return {"volts": Signal.of([0.0], [float(round(count))], COUNTS)}
