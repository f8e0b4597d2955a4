"""The triangulating infrared ranger: a voltage that falls with distance, and folds back."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.calibration.inverse_distance import InverseDistanceKind
from tickstone.core.calibration.kind import CalibrationKind
from tickstone.core.chain import Chain, Stage
from tickstone.core.chains.converter import CODE_UNITS, converter_stages
from tickstone.core.chains.kind import Form, Role, line_of
from tickstone.core.chains.ranging import METRES, Ranging, RangingParameters, mounted
from tickstone.core.display import grouped
from tickstone.core.finding import Finding
from tickstone.core.findings import share_said, where_said
from tickstone.core.inputs import number, whole
from tickstone.core.quantity import COUNTS, DISTANCE, VOLTAGE
from tickstone.core.reading_units import SMALL_LENGTH, small_length, typed_length
from tickstone.core.signal import Signal
from tickstone.core.stages.fold_watch import FoldWatch
from tickstone.core.stages.inverse_law import InverseLaw
from tickstone.core.status import Status
from tickstone.core.surroundings import Surroundings

_COPIES_DIFFER = 0.06
"""Standard uncertainty of a datasheet's curve for any one sensor, a share; from memory."""
_NEAR_ZONE = 1.1


@dataclass(frozen=True, slots=True)
class TriangulationParameters(RangingParameters):
    """What is known of one triangulating ranger. Lengths m, volts V.

    Its range is common practice, its curve from memory.
    """

    min_m: float = number(
        "Near limit", "m", 0.10, 0.0, 20.0, "nearer, the voltage falls again", node="range"
    )
    max_m: float = number("Farthest", "m", 0.80, 0.0, 40.0, node="range")
    bits: int = whole("Converter", 10, 4, 24, "bits", (8, 10, 12, 16), node="counts")
    reference_v: float = number("Reference", "V", 5.0, 0.05, 60.0, node="volts", decimals=2)
    reference_percent: float = number("Known to, ±", "%", 2.0, 0.0, 50.0, node="volts", decimals=1)
    a: float = number("a", "V·m", 0.288, 1e-4, 100.0, "of V = a/(d + d₀) + b", node="law")
    d0_m: float = number("d₀", "m", 0.028, -0.1, 1.0, node="law", shown_as=SMALL_LENGTH, decimals=1)
    b_v: float = number("b", "V", 0.052, -5.0, 5.0, node="law")
    twin_m: float = number(
        "A near thing reads up to", "m", 0.40, 0.0, 40.0, "beyond this it cannot be a fold",
        node="fold",
    )  # fmt: skip

    def __post_init__(self) -> None:
        self.check()


class Triangulation(Ranging):
    """A spot of infrared seen at an angle.

    >>> from tickstone.core.air.conditions import AirConditions
    >>> chain = Triangulation().build(
    ...     TriangulationParameters(median_n=1), Surroundings(AirConditions(20.0)))
    >>> chain.apply(Signal.of([0, 1], [220, 110]), "distance").value.round(2).tolist()
    [0.25, 0.56]
    """

    name: ClassVar[str] = "triangulation"
    label: ClassVar[str] = "Infrared ranger, by angle"
    parameters: ClassVar[type] = TriangulationParameters
    roles: ClassVar[tuple[Role, ...]] = (
        Role(
            "volts",
            "Its voltage",
            (
                Form(
                    "counts", "converter counts", COUNTS, CODE_UNITS, option="counts",
                    comes_as="converter counts",
                ),
                Form(
                    "volts", "volts", VOLTAGE, {"V": 1.0, "mV": 1e-3}, late="volts", option="volts"
                ),
                Form(
                    "distance", "distance, already worked out", DISTANCE, METRES, late="law",
                    option="distance-m",
                    loses="The volts are gone, so that its curve cannot be put right afterwards.",
                ),
            ),
            ("ir", "dist", "tri"),
        ),
    )  # fmt: skip
    calibrations: ClassVar[tuple[CalibrationKind, ...]] = (InverseDistanceKind(),)

    def build(
        self,
        parameters: TriangulationParameters,
        surroundings: Surroundings,
        calibrations: Mapping[str, Stage] | None = None,
        forms: Mapping[str, str] | None = None,
        lanes: Mapping[str, int] | None = None,
    ) -> Chain:
        """Counts to volts, by its curve to distance, and whether that may be folded."""
        form, entry = self.roles[0].entry(forms, lanes)
        known = (calibrations or {}).get(InverseDistanceKind.name)
        typed = InverseLaw(
            parameters.a, parameters.d0_m, parameters.b_v, relative_u=_COPIES_DIFFER,
            label="a datasheet’s curve, ± 12 % from one sensor to the next; from memory",
        )  # fmt: skip
        fold = FoldWatch(_NEAR_ZONE * parameters.min_m, parameters.twin_m)
        watch = [("fold", fold)] if parameters.mount_m < parameters.min_m else []
        stages: list[tuple[str, Stage]] = [
            *converter_stages(parameters),
            ("law", typed if known is None else known),
            *mounted(parameters, watch),
        ]
        nodes = line_of(stages, entry, form.late)
        return Chain((entry,), nodes, (("distance", stages[-1][0]),))

    def grounds(self, parameters: TriangulationParameters) -> dict[str, float | str]:
        """Converter and reference."""
        return {"converter": float(parameters.bits), "reference": parameters.reference_v}

    def findings(
        self, parameters: TriangulationParameters, surroundings: Surroundings, signal: Signal | None
    ) -> Sequence[Finding]:
        """How it is mounted, and readings that may be folded."""
        found = []
        if parameters.mount_m < parameters.min_m:
            back = small_length(parameters.min_m, 0)
            found.append(
                Finding(
                    "warning",
                    f"Nearer than {typed_length(parameters.min_m)} it reads as if farther.",
                    "Its voltage falls again there, so that two distances read the same.",
                    f"Set its face back by {back} behind the rig’s edge: then nothing can come so "
                    "near.",
                )
            )
        if signal is not None:
            folded = signal.flag == Status.TWO_VALUED
            count = int(np.count_nonzero(folded))
            if count:
                found.append(
                    Finding(
                        "warning",
                        f"{grouped(count, 0)} readings may be of something much nearer.",
                        f"That is {share_said(count, len(signal))}, "
                        f"{where_said(signal.time_s, folded)}: something came to the near limit.",
                        "Set the sensor back, or keep things away from it.",
                    )
                )
        return found

    def remedy(self, source: str) -> str:
        """For curve and reference."""
        return {
            "curve": "A curve by marks of its own",
            "reference": "Reading it against its own supply",
            "one code": "A converter with more bits, or a lower reference,",
        }.get(source, "")

    def raw_for(
        self,
        value: float,
        parameters: TriangulationParameters,
        surroundings: Surroundings,
        calibrations: Mapping[str, Stage] | None = None,
    ) -> dict[str, Signal] | None:
        """The counts at a distance within its range."""
        known = (calibrations or {}).get(InverseDistanceKind.name)
        law = (
            known
            if isinstance(known, InverseLaw)
            else InverseLaw(parameters.a, parameters.d0_m, parameters.b_v)
        )
        face_m = min(max(value + parameters.mount_m, parameters.min_m), parameters.max_m)
        count = law.volts(face_m) * 2**parameters.bits / parameters.reference_v - 0.5
        return {"volts": Signal.of([0.0], [count], COUNTS)}
