"""Analogue accelerometer with three axes: a voltage for each."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np

from tickstone.core.calibration.kind import CalibrationKind
from tickstone.core.calibration.level_zero import LevelZeroKind
from tickstone.core.calibration.six_face import SixFaceKind
from tickstone.core.calibration.two_extremes import TwoExtremesKind
from tickstone.core.chain import Chain, Stage
from tickstone.core.chains.at_rest import rest_findings
from tickstone.core.chains.converter import CODE_UNITS, converter_stages
from tickstone.core.chains.inertial import (
    TILT_OUTPUTS,
    G,
    MountedParameters,
    entered_late,
    felt_by_module,
    felt_stages,
    tilt_nodes,
    tilt_outputs,
)
from tickstone.core.chains.kind import ChainKind, Form, Output, Role, line_of
from tickstone.core.digests.braking import Braking
from tickstone.core.digests.kind import DigestKind
from tickstone.core.digests.knocks import Knocks
from tickstone.core.digests.shaking import Shaking, ShakingBesideWheel
from tickstone.core.display import grouped
from tickstone.core.finding import Finding
from tickstone.core.findings import clipped_findings
from tickstone.core.inputs import number, switch, whole
from tickstone.core.quantity import COUNTS, FORCE, VOLTAGE
from tickstone.core.rules.bump import Bump
from tickstone.core.rules.kind import RuleKind
from tickstone.core.rules.lean_limit import LEANING, LeanLimit
from tickstone.core.rules.level_band import LEVELNESS, LevelBand
from tickstone.core.signal import Signal
from tickstone.core.stages.bump_watch import BUMP
from tickstone.core.stages.volts_force import VoltsForce
from tickstone.core.status import Status
from tickstone.core.surroundings import Surroundings
from tickstone.core.uncertainty import rectangular

_AXES = ("x", "y", "z")
_NOMINAL_V = 3.3
_FEWEST_CODES = 100
"""A part that moves fewer codes for each g than this is read coarsely."""


@dataclass(frozen=True, slots=True)
class Analogue3Parameters(MountedParameters):
    """What is known of the part and its converter. Volts V.

    0.33 V for each g and 1.65 V at 0 g on 3.3 V are common practice; what is doubted of them is
    from memory.

    Raises ValueError naming the first parameter that cannot be.
    """

    bits: int = whole(
        "Converter", 10, 4, 24, "bits", (8, 10, 12, 16), node="counts", option=("bits", 1.0)
    )
    reference_v: float = number(
        "Reference", "V", 5.0, 0.05, 60.0, "the nearer to the part’s 3.3 V the finer",
        node="volts", decimals=2,
    )  # fmt: skip
    reference_percent: float = number("Known to, ±", "%", 2.0, 0.0, 50.0, node="volts", decimals=1)
    supply_v: float = number(
        "The part runs on", "V", 3.3, 0.5, 60.0, "behind its regulator, if it has one",
        node="force", decimals=2,
    )  # fmt: skip
    is_ratiometric: bool = switch(
        "Goes with its supply", True, "zero and scale in proportion to it", node="force"
    )
    reads_own_supply: bool = switch(
        "The reference is that supply", False, "then what is off of it cancels", node="force"
    )
    zero_v: float = number("At 0 g", "V", 1.65, 0.0, 60.0, "on 3.3 V", node="force", decimals=3)
    per_g_v: float = number(
        "For each g", "V", 0.33, 1e-4, 60.0, "on 3.3 V", node="force", decimals=3
    )
    zero_percent: float = number(
        "Zero known to, ±", "%", 5.0, 0.0, 50.0, "until calibrated", node="force", decimals=1
    )
    scale_percent: float = number(
        "Scale known to, ±", "%", 5.0, 0.0, 50.0, "until calibrated", node="force", decimals=1
    )

    def __post_init__(self) -> None:
        self.check()

    @property
    def lsb_v(self) -> float:
        """Width of a code, V."""
        return float(self.reference_v / 2**self.bits)

    def stated(self) -> VoltsForce:
        """Zero and scale as they are stated."""
        part = self.supply_v / _NOMINAL_V if self.is_ratiometric else 1.0
        zero, per_g = self.zero_v * part, self.per_g_v * part
        supply_share = rectangular(self.reference_percent / 100.0) if self.is_ratiometric else 0.0
        return VoltsForce(
            (zero,) * 3, (per_g,) * 3,
            (rectangular(self.zero_percent / 100.0 * zero),) * 3,
            (rectangular(self.scale_percent / 100.0 * per_g),) * 3,
            "as stated",
            supply_share=supply_share,
            # One and the same error then, so that it bears one name.
            supply_is="reference" if self.reads_own_supply else "supply",
        )  # fmt: skip


class Analogue3(ChainKind):
    """An analogue accelerometer.

    >>> from tickstone.core.air.conditions import AirConditions
    >>> parameters = Analogue3Parameters(reference_v=3.3)
    >>> chain = Analogue3().build(parameters, Surroundings(AirConditions(20.0)))
    >>> flat = Signal.of([0], [[512], [512], [614]], COUNTS.in_lanes(*_AXES))
    >>> chain.apply(flat, "size").value.round(2).tolist()
    [9.82]
    """

    name: ClassVar[str] = "analogue3"
    label: ClassVar[str] = "Analogue accelerometer"
    parameters: ClassVar[type] = Analogue3Parameters
    roles: ClassVar[tuple[Role, ...]] = (
        Role(
            "accel", "Acceleration",
            (
                Form(
                    "counts", "converter counts", COUNTS.in_lanes(*_AXES),
                    CODE_UNITS, comes_as="converter counts",
                    also=("acceleration",),
                ),
                Form(
                    "volts", "volts", VOLTAGE.in_lanes(*_AXES), {"V": 1.0, "mV": 1e-3},
                    late="volts",
                    loses="Which code of the converter it was is gone, so that its ends cannot be "
                    "told.",
                ),
                Form(
                    "scaled", "g or m/s², already worked out", FORCE,
                    {"g": G, "mg": G / 1000.0, "m/s²": 1.0}, late="force",
                    comes_as="acceleration",
                    loses="The volts are gone, so that its two extremes cannot be put right.",
                ),
            ),
            ("ax", "ay", "az", "x", "y", "z", "acc"), 3, 3,
        ),
    )  # fmt: skip
    outputs: ClassVar[tuple[Output, ...]] = (
        *TILT_OUTPUTS, Output("volts", "Volts", VOLTAGE.in_lanes(*_AXES)),
        Output("stand", "Stands", LEANING),
        Output("levelness", "Is it level", LEVELNESS),
        Output("bump", "Bumps", BUMP),
    )  # fmt: skip
    calibrations: ClassVar[tuple[CalibrationKind, ...]] = (
        TwoExtremesKind(), SixFaceKind(), LevelZeroKind(),
    )  # fmt: skip
    rules: ClassVar[tuple[RuleKind, ...]] = (LeanLimit(), LevelBand(), Bump())
    digests: ClassVar[tuple[DigestKind, ...]] = (
        Shaking(), ShakingBesideWheel(), Knocks(), Braking(),
    )  # fmt: skip
    unfiltered: ClassVar[Mapping[str, Any]] = {"smooth": ""}
    filtered: ClassVar[str] = "force"
    judged: ClassVar[str] = "force"
    fine: ClassVar[tuple[Status, ...]] = (Status.MOVING, Status.NO_ANGLE)

    def build(
        self,
        parameters: Analogue3Parameters,
        surroundings: Surroundings,
        calibrations: Mapping[str, Stage] | None = None,
        forms: Mapping[str, str] | None = None,
        lanes: Mapping[str, int] | None = None,
    ) -> Chain:
        """Counts to volts to what is felt, and tilt."""
        known = dict(calibrations or {})
        form, entry = self.roles[0].entry(forms, lanes)
        stages: list[tuple[str, Stage]] = [
            *converter_stages(parameters),
            ("force", known.get("two-extremes") or parameters.stated()),
            *felt_stages(parameters, known),
        ]
        felt = stages[-1][0]
        late = form.late
        if form.name == "scaled":
            stated = parameters.stated()
            share, zero = (
                one[0] / abs(stated.per_g_v[0]) for one in (stated.per_g_u_v, stated.zero_u_v)
            )
            stages, late = entered_late(stages, late, share, zero * G), ""
        nodes = (*line_of(stages, entry, late), *tilt_nodes(parameters, felt))
        outputs = tilt_outputs(felt)
        if form.name != "scaled":
            outputs.append(("volts", "volts" if form.name == "counts" else entry.at))
        return Chain((entry,), nodes, tuple(outputs))

    def grounds(self, parameters: Analogue3Parameters) -> dict[str, float | str]:
        """Converter, reference, supply and mounting."""
        return {
            "converter": float(parameters.bits),
            "reference": parameters.reference_v,
            "supply": parameters.supply_v,
            "mounting": parameters.mount().says,
        }

    def findings(
        self, parameters: Analogue3Parameters, surroundings: Surroundings, signal: Signal | None
    ) -> Sequence[Finding]:
        """How finely it is read, and readings at the converter's ends."""
        found = []
        codes = parameters.stated().per_g_v[0] / parameters.lsb_v
        if codes < _FEWEST_CODES and parameters.reference_v > 1.2 * parameters.supply_v:
            better = codes * parameters.reference_v / parameters.supply_v
            found.append(
                Finding(
                    "note",
                    f"Each g is {grouped(codes, 0)} codes; with its own supply as the reference it "
                    f"would be {grouped(better, 0)}.",
                    "The part never goes above its supply, so that the upper codes are never used.",
                    "Join the board’s reference lead to the part’s supply, and choose it in the "
                    "program before the first reading.",
                )
            )
        if signal is not None:
            found += rest_findings(signal, parameters)
            found += clipped_findings(
                signal,
                "the converter",
                "Check the leads, and that the reference is not below the part’s supply.",
            )
        return found

    def no_number(self, parameters: Analogue3Parameters) -> str:
        """Nothing keeps it from reading but its columns."""
        return "this part tells nothing: its three axes have to be among its columns"

    def remedy(self, source: str) -> str:
        """For what calibrations take away."""
        if source.startswith("calibration"):
            return "Faces stood more squarely, on something flat,"
        if source.startswith(("scale", "zero", "supply")):
            return "Holding each axis up and down once"
        if source.startswith("reference"):
            return "The part’s own supply as the reference"
        return "A lower reference" if source.startswith("one code") else ""

    def raw_for(
        self,
        value: float,
        parameters: Analogue3Parameters,
        surroundings: Surroundings,
        calibrations: Mapping[str, Stage] | None = None,
    ) -> dict[str, Signal] | None:
        """Codes at that inclination, at rest."""
        known = (calibrations or {}).get("two-extremes")
        law = known if isinstance(known, VoltsForce) else parameters.stated()
        volts = np.array(law.zero_v) + np.array(law.per_g_v) * felt_by_module(value, parameters)
        codes = np.round(volts / parameters.lsb_v - 0.5)
        return {"accel": Signal.of([0.0], codes[:, None], COUNTS.in_lanes(*_AXES))}
