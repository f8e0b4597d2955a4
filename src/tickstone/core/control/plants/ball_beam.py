"""A ball on a beam over a ranger: tilt in, place out."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, ClassVar

from tickstone.core.control.plant import Plant
from tickstone.core.control.plants.kind import PlantKind
from tickstone.core.inputs import check_inputs, number
from tickstone.core.quantity import ANGLE, DISTANCE, Quantity
from tickstone.core.reading_units import MILLISECONDS, STANDARD_GRAVITY_M_PER_S2

_ROLLS = 5.0 / 7.0
"""Of gravity along the beam: a full ball that rolls without slipping, its inertia 2/5·m·r²."""
_DEGREE = math.pi / 180.0


@dataclass(frozen=True, slots=True)
class BeamParameters:
    """A ball that rolls on a beam, a servo that tilts it."""

    length_m: float = number("The beam is long", "m", 0.40, 0.02, 5.0, decimals=2)
    lag_s: float = number("Tilts after", "s", 0.08, 0.001, 10.0, "to 63 %",
                          shown_as=MILLISECONDS, decimals=0)  # fmt: skip
    delay_s: float = number("Seen after", "s", 0.05, 0.0, 10.0, "of echo and program",
                            shown_as=MILLISECONDS, decimals=0)  # fmt: skip
    sticks: float = number("The ball lies still below", "rad", 0.3 * _DEGREE, 0.0, 0.5, "of tilt",
                           decimals=1)  # fmt: skip

    def __post_init__(self) -> None:
        check_inputs(self)


class BallBeam(PlantKind):
    """Where a ball lies on a beam, measured from the ranger's end."""

    name: ClassVar[str] = "ball-beam"
    label: ClassVar[str] = "Ball on a beam"
    what: ClassVar[str] = (
        "A servo tilts the beam, a ranger sees the ball: the tilt makes it roll, and it rolls on. "
        "Without D it never comes to rest."
    )
    parameters: ClassVar[type] = BeamParameters
    measured: ClassVar[Quantity] = DISTANCE
    steered: ClassVar[Quantity] = ANGLE
    usual: ClassVar[Mapping[str, Any]] = {
        "kp": 0.5, "ki": 0.05, "kd": 0.45, "low": -8 * _DEGREE, "high": 8 * _DEGREE, "start": 0.10,
        "target": 0.20, "sample_s": 0.05, "noise_u": 0.001, "zeros": 0.5, "lasts_s": 14.0,
        "step_at_s": 1.0, "load": 1.0 * _DEGREE, "load_at_s": 9.0, "derivative_lag_s": 0.1,
    }  # fmt: skip
    caution: ClassVar[str] = "Keep fingers off the linkage; a servo does not feel them."

    def plant(self, parameters: BeamParameters) -> Plant:
        """5/7·g·sin(tilt), small tilts; a lag and two integrators."""
        return Plant(
            _ROLLS * STANDARD_GRAVITY_M_PER_S2, parameters.lag_s, parameters.delay_s, 2,
            parameters.sticks, 0.0, parameters.length_m, measured=self.measured,
            steered=self.steered,
        )  # fmt: skip
