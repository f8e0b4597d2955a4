"""Accelerometer and gyroscope in one: what is felt, tilt, turning, and both put together."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np

from tickstone.core.attitude import LONGEST_S, TOGETHER, Fusion, Trust
from tickstone.core.calibration.kind import CalibrationKind
from tickstone.core.calibration.level_zero import LevelZeroKind
from tickstone.core.calibration.rest_bias import RestBiasKind
from tickstone.core.calibration.six_face import SixFaceKind
from tickstone.core.calibration.turn_scale import TurnScaleKind
from tickstone.core.chain import Chain, ChainInput, Node, Stage
from tickstone.core.chains.at_rest import rest_findings
from tickstone.core.chains.converter import CODE_UNITS
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
from tickstone.core.digests.braking import BrakingOnSlopes
from tickstone.core.digests.fusions import Fusions
from tickstone.core.digests.kind import DigestKind
from tickstone.core.digests.knocks import Knocks
from tickstone.core.digests.shaking import Shaking, ShakingBesideWheel
from tickstone.core.finding import Finding
from tickstone.core.findings import clipped_findings
from tickstone.core.inputs import Choice, choice, number
from tickstone.core.quantity import ANGLE, ATTITUDE, COUNTS, FORCE, ROTATION, TEMPERATURE
from tickstone.core.reading_units import GRAVITIES, MILLI_GRAVITIES
from tickstone.core.rules.bump import Bump
from tickstone.core.rules.kind import RuleKind
from tickstone.core.rules.lean_limit import LEANING, FusedLeanLimit
from tickstone.core.rules.level_band import LEVELNESS, FusedLevelBand
from tickstone.core.rules.turned_by import TURNING, TurnedBy
from tickstone.core.signal import Signal
from tickstone.core.stages.axis_kalman import AxisKalman
from tickstone.core.stages.bump_watch import BUMP
from tickstone.core.stages.code_scale import CodeScale
from tickstone.core.stages.complementary import Complementary
from tickstone.core.stages.converter_ends import ConverterEnds
from tickstone.core.stages.lane_scale import LaneScale
from tickstone.core.stages.lane_shift import LaneShift
from tickstone.core.stages.lean_of import LeanOf
from tickstone.core.stages.madgwick import Madgwick
from tickstone.core.stages.mahony import Mahony
from tickstone.core.stages.mount_rotation import MountRotation
from tickstone.core.stages.plumb_rate import PlumbRate
from tickstone.core.stages.turned import Turned
from tickstone.core.stages.untouched import Untouched
from tickstone.core.status import Status
from tickstone.core.surroundings import Surroundings

_DEGREE = math.pi / 180.0
_CODES = COUNTS.in_lanes("x", "y", "z")
_TILT_U = 0.01
"""Standard deviation of one tilt at rest by noise alone, rad; from memory."""
_RAISE = "Raise the range: the same codes then reach twice as far."

_FORCE_FORMS = (
    Form(
        "counts", "codes, as it gives them", _CODES, CODE_UNITS,
        comes_as="acceleration",
    ),
    Form(
        "scaled", "g or m/s², already worked out", FORCE,
        {"g": G, "mg": G / 1000.0, "m/s²": 1.0}, late="scale", comes_as="acceleration",
        loses="Which code it was is gone, so that the end of its range cannot be told.",
    ),
)  # fmt: skip
_RATE_FORMS = (
    Form(
        "counts", "codes, as it gives them", _CODES, CODE_UNITS,
        comes_as="rotation rate",
    ),
    Form(
        "scaled", "°/s or rad/s, already worked out", ROTATION,
        {"°/s": _DEGREE, "rad/s": 1.0}, late="rate", comes_as="rotation rate",
        loses="Which code it was is gone, so that the end of its range cannot be told.",
    ),
)  # fmt: skip
_DIE_FORMS = (
    Form("codes", "codes, as it gives them", COUNTS, CODE_UNITS, comes_as="temperature"),
    Form(
        "temperature", "°C, already worked out", TEMPERATURE, {"°C": 1.0}, late="die",
        comes_as="temperature",
    ),
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class SixAxisParameters(MountedParameters):
    """What is known of one unit. Angles rad, accelerations m/s², times s.

    Codes for each g and °/s are common practice; what is doubted of them is from memory.

    Raises ValueError naming the first parameter that cannot be.
    """

    lsb_per_g: float = number(
        "Codes for 1 g", "", 16_384.0, 1.0, 1e7,
        "± 2 g: 16 384; ± 4 g: 8 192; ± 8 g: 4 096; ± 16 g: 2 048", node="scale", decimals=0,
    )  # fmt: skip
    lsb_per_dps: float = number(
        "Codes for 1 °/s", "", 131.0, 0.01, 1e6,
        "± 250: 131; ± 500: 65.5; ± 1 000: 32.8; ± 2 000: 16.4", node="rate", decimals=1,
    )  # fmt: skip
    force_percent: float = number(
        "Known to, ±", "%", 3.0, 0.0, 50.0, "until its faces are held", node="scale", decimals=1
    )
    force_zero: float = number(
        "0 g is known to, ±", "m/s²", 0.06 * G, 0.0, 50.0, "until its faces are held",
        node="scale", shown_as=MILLI_GRAVITIES, decimals=0,
    )  # fmt: skip
    rate_percent: float = number(
        "Rate known to, ±", "%", 3.0, 0.0, 50.0, "until it is turned by whole turns", node="rate",
        decimals=1,
    )  # fmt: skip
    rate_zero: float = number(
        "Rest is known to, ±", "rad/s", 20.0 * _DEGREE, 0.0, 10.0, "until it was left at rest",
        node="rate", decimals=1,
    )  # fmt: skip
    fusion: str = choice(
        "Put together by",
        (
            Choice("complementary", "complementary filter"),
            Choice("kalman", "Kalman, each axis"),
            Choice("madgwick", "Madgwick"),
            Choice("mahony", "Mahony"),
        ),
        node="attitude",
    )
    over_s: float = number(
        "Gravity decides over", "s", 0.5, 1e-3, 1000.0, "longer: smoother, and drifts further",
        node="attitude", when=("fusion", "complementary"), decimals=2,
    )  # fmt: skip
    kalman_angle: float = number(
        "Q, angle by the gyro", "rad²/s", 1e-4, 1e-12, 1e3, "how fast it walks off",
        node="attitude", when=("fusion", "kalman"), decimals=6,
    )  # fmt: skip
    kalman_bias: float = number(
        "Q, its bias", "rad²/s³", 1e-6, 1e-15, 1e3, node="attitude", when=("fusion", "kalman"),
        decimals=8,
    )  # fmt: skip
    kalman_tilt: float = number(
        "R, a tilt at rest", "rad²", 1e-3, 1e-12, 1e3, node="attitude", when=("fusion", "kalman"),
        decimals=6,
    )  # fmt: skip
    beta: float = number(
        "β", "rad/s", 0.033, 1e-6, 100.0, "more than the bias that is left",
        node="attitude", when=("fusion", "madgwick"), decimals=2,
    )  # fmt: skip
    kp: float = number("kp", "1/s", 1.0, 1e-6, 1e3, node="attitude", when=("fusion", "mahony"))
    ki: float = number("ki", "1/s²", 0.1, 0.0, 1e3, node="attitude", when=("fusion", "mahony"))
    gate: float = number(
        "Gravity counts within, ±", "m/s²", 0.1 * G, 0.0, 100.0,
        "of 1 g; 0: always, also while it is shaken", node="attitude", shown_as=GRAVITIES,
        decimals=3,
    )  # fmt: skip
    turn_about: str = choice(
        "Turned about",
        (
            Choice("up", "the rig’s own upright"),
            Choice("plumb", "the plumb line: in the floor plane"),
            Choice("forward", "its lengthwise axis"),
            Choice("left", "its crosswise axis"),
        ),
        node="turned",
    )

    def __post_init__(self) -> None:
        self.check()

    def fusion_stage(self, trust: Trust) -> Fusion:
        """The way the two are put together."""
        if self.fusion == "kalman":
            return AxisKalman(self.kalman_angle, self.kalman_bias, self.kalman_tilt, trust)
        if self.fusion == "madgwick":
            return Madgwick(self.beta, trust)
        if self.fusion == "mahony":
            return Mahony(self.kp, self.ki, trust)
        return Complementary(self.over_s, trust)


class SixAxis(ChainKind):
    """A six-axis unit.

    >>> from tickstone.core.air.conditions import AirConditions
    >>> chain = SixAxis().build(SixAxisParameters(), Surroundings(AirConditions(20.0)))
    >>> flat = Signal.of([0, 1], [[0, 16_384], [0, 0], [16_384, 0]], _CODES)
    >>> still = Signal.of([0, 1], [[0, 0]] * 3, _CODES)
    >>> told = chain.apply({"accel": flat, "gyro": still}, "pitch")
    >>> told.value.round(4).tolist()
    [-0.0, -1.5708]
    """

    name: ClassVar[str] = "six_axis"
    label: ClassVar[str] = "Six-axis unit"
    parameters: ClassVar[type] = SixAxisParameters
    roles: ClassVar[tuple[Role, ...]] = (
        Role("accel", "Acceleration", _FORCE_FORMS, ("ax", "ay", "az", "acc"), 3, 3),
        Role(
            "gyro", "Rotation rate", _RATE_FORMS, ("gx", "gy", "gz", "gyro"), 3, 3,
            is_needed=False,
        ),
        Role("die", "Its temperature", _DIE_FORMS, ("die", "chip"), is_needed=False),
    )  # fmt: skip
    outputs: ClassVar[tuple[Output, ...]] = (
        *TILT_OUTPUTS,
        Output("attitude", "Fused", ATTITUDE),
        Output("lean", "Leans", ANGLE),
        Output("rotation", "Turn rate", ROTATION),
        Output("turned", "Turned by", ANGLE, is_from_zero=True),
        Output("temperature", "Die", TEMPERATURE),
        Output("stand", "Stands", LEANING),
        Output("levelness", "Is it level", LEVELNESS),
        Output("turning", "Turns", TURNING),
        Output("bump", "Bumps", BUMP),
    )
    calibrations: ClassVar[tuple[CalibrationKind, ...]] = (
        SixFaceKind(), RestBiasKind(), LevelZeroKind(), TurnScaleKind(),
    )  # fmt: skip
    rules: ClassVar[tuple[RuleKind, ...]] = (
        FusedLeanLimit(), FusedLevelBand(), TurnedBy(), Bump(),
    )  # fmt: skip
    digests: ClassVar[tuple[DigestKind, ...]] = (
        Fusions(), Shaking(), ShakingBesideWheel(), Knocks(), BrakingOnSlopes(),
    )  # fmt: skip
    unfiltered: ClassVar[Mapping[str, Any]] = {"smooth": ""}
    filtered: ClassVar[str] = "force"
    judged: ClassVar[str] = "force"
    fine: ClassVar[tuple[Status, ...]] = (Status.MOVING, Status.NO_ANGLE)

    def build(
        self,
        parameters: SixAxisParameters,
        surroundings: Surroundings,
        calibrations: Mapping[str, Stage] | None = None,
        forms: Mapping[str, str] | None = None,
        lanes: Mapping[str, int] | None = None,
    ) -> Chain:
        """What is felt and tilt; with a gyroscope, turning and both together."""
        known = dict(calibrations or {})
        entries: list[ChainInput] = []
        nodes: list[Node] = []
        outputs: list[tuple[str, str]] = []
        form, entry = self.role("accel").entry(forms, lanes)
        entries.append(entry)
        stages: list[tuple[str, Stage]] = [
            ("counts", ConverterEnds(16, is_signed=True, remedy=_RAISE)),
            (
                "scale",
                CodeScale(
                    parameters.lsb_per_g, G, FORCE, parameters.force_percent / 200.0,
                    "as stated", zero_u=parameters.force_zero / 2.0,
                ),
            ),
            *felt_stages(parameters, known),
        ]  # fmt: skip
        share, zero = parameters.force_percent / 200.0, parameters.force_zero / 2.0
        nodes += line_of(entered_late(stages, form.late, share, zero), entry)
        felt = stages[-1][0]
        nodes += tilt_nodes(parameters, felt)
        outputs += tilt_outputs(felt)
        if not lanes or "gyro" in lanes:
            form, entry = self.role("gyro").entry(forms, lanes)
            entries.append(entry)
            nodes += self._turning(parameters, known, form, entry, felt)
            outputs += [
                ("attitude", "attitude"), ("lean", "lean"), ("rotation", "rotation"),
                ("turned", "turned"),
            ]  # fmt: skip
        if lanes and "die" in lanes:
            form, entry = self.role("die").entry(forms, lanes)
            entries.append(entry)
            die = CodeScale(340.0, 1.0, TEMPERATURE, 0.0, "rough", 36.53, zero_u=3.0)
            # A node of its own even where it comes worked out, so that it can be an output.
            told = Node("die", Untouched() if form.late else die, (entry.at,))
            nodes.append(told)
            outputs.append(("temperature", "die"))
        order = [one.name for one in self.outputs]
        outputs.sort(key=lambda one: order.index(one[0]))
        return Chain(tuple(entries), tuple(nodes), tuple(outputs))

    def _turning(
        self,
        parameters: SixAxisParameters,
        known: dict[str, Stage],
        form: Form,
        entry: ChainInput,
        felt: str,
    ) -> list[Node]:
        bias, scale = known.get("rest-bias"), known.get("turn-scale")
        mount = parameters.mount()
        # A gyroscope has no sign of its own to choose: only how it sits.
        turn = MountRotation(mount.matrix, 1, mount.says)
        stages: list[tuple[str, Stage]] = [
            ("rate-counts", ConverterEnds(16, is_signed=True, remedy=_RAISE)),
            (
                "rate",
                CodeScale(
                    parameters.lsb_per_dps, _DEGREE, ROTATION, parameters.rate_percent / 200.0,
                    "as stated", zero_u=parameters.rate_zero / 2.0,
                ),
            ),
            ("bias", bias or Untouched()),
            ("turn-scale", scale or Untouched()),
            ("rotation", turn),
        ]  # fmt: skip
        share, zero = parameters.rate_percent / 200.0, parameters.rate_zero / 2.0
        nodes = list(line_of(entered_late(stages, form.late, share, zero), entry))
        bias_u = _u_of(bias, LaneShift, zero)
        scale_u = _u_of(scale, LaneScale, share)
        trust = Trust(parameters.gate, bias_u, _TILT_U, _walk_of(bias), scale_u)
        about = {"up": 2, "forward": 0, "left": 1}.get(parameters.turn_about, 0)
        turned = Turned(about, LONGEST_S, bias_u, _walk_of(bias), scale_u)
        before = "rotation"
        nodes += [
            Node("together", TOGETHER, (felt, "rotation")),
            Node("attitude", parameters.fusion_stage(trust), (felt, "together")),
            Node("lean", LeanOf(), ("attitude",)),
        ]
        if parameters.turn_about == "plumb":
            nodes.append(Node("plumb-rate", PlumbRate(), ("together", "attitude")))
            before = "plumb-rate"
        nodes.append(Node("turned", turned, (before,)))
        return nodes

    def decides_on(self, chain: Chain, rule: RuleKind) -> str:
        """The lean that a gyroscope helps to tell; where none is heard, the inclination."""
        given = dict(chain.outputs)
        if rule.takes == "lean" and "lean" not in given:
            return given["inclination"]
        return super().decides_on(chain, rule)

    def grounds(self, parameters: SixAxisParameters) -> dict[str, float | str]:
        """Ranges and mounting."""
        return {
            "codes for 1 g": parameters.lsb_per_g,
            "codes for 1 °/s": parameters.lsb_per_dps,
            "mounting": parameters.mount().says,
        }

    def findings(
        self, parameters: SixAxisParameters, surroundings: Surroundings, signal: Signal | None
    ) -> Sequence[Finding]:
        """What it feels held still, and clipped readings."""
        if signal is None:
            return ()
        remedy = "Raise the range, and tell the codes for 1 g anew."
        return [*rest_findings(signal, parameters), *clipped_findings(signal, "the range", remedy)]

    def no_number(self, parameters: SixAxisParameters) -> str:
        """Nothing keeps it from reading but its columns."""
        return "this unit tells nothing: its three accelerations have to be among its columns"

    def remedy(self, source: str) -> str:
        """For what calibrations take away."""
        if source.startswith(("sensitivity", "zero")):
            return "Holding it still on its six faces"
        if source.startswith("calibration"):
            return "Faces stood more squarely, on something flat,"
        if source.startswith("bias"):
            return "Leaving it at rest for longer"
        if source.startswith("level"):
            return "A floor known to be level"
        return "A lower range" if source.startswith("one code") else ""

    def raw_for(
        self,
        value: float,
        parameters: SixAxisParameters,
        surroundings: Surroundings,
        calibrations: Mapping[str, Stage] | None = None,
    ) -> dict[str, Signal] | None:
        """Codes of a module at that inclination, at rest."""
        codes = np.round(felt_by_module(value, parameters) * parameters.lsb_per_g)
        nothing = Signal.of([0.0], [[0.0]] * 3, _CODES)
        return {"accel": Signal.of([0.0], codes[:, None], _CODES), "gyro": nothing}


def _u_of(made: Stage | None, kind: type[LaneShift] | type[LaneScale], stated: float) -> float:
    """The widest standard uncertainty that a calibration left; what is stated, without one."""
    return (max(made.u) if isinstance(made, kind) else 0.0) or stated


def _walk_of(bias: Stage | None) -> float:
    """Angle random walk that is known with the bias, rad/√s; common for such parts without."""
    return getattr(bias, "walk", 0.0) or 0.005 * _DEGREE
