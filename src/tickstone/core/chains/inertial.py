"""What every accelerometer shares: how it sits in the rig, and tilt from gravity."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from tickstone.core.axes import AXES, mounting
from tickstone.core.chain import Node, Stage
from tickstone.core.chains.kind import Output
from tickstone.core.filters import check_words, stage_from_words
from tickstone.core.inputs import Choice, check_inputs, choice, number, words
from tickstone.core.quantity import ANGLE, FORCE
from tickstone.core.reading_units import GRAVITIES, STANDARD_GRAVITY_M_PER_S2
from tickstone.core.signal import FloatArray
from tickstone.core.stages.mount_rotation import MountRotation
from tickstone.core.stages.rest_watch import RestWatch
from tickstone.core.stages.tilt import Tilt
from tickstone.core.stages.untouched import Untouched
from tickstone.core.stages.vector_size import VectorSize
from tickstone.core.stages.vibration import Vibration
from tickstone.core.stages.worked_out import WorkedOut

G = STANDARD_GRAVITY_M_PER_S2
_AXES = tuple(Choice(one, one.replace("-", "−")) for one in AXES)

TILT_OUTPUTS = (
    Output("level", "Level", ANGLE.in_lanes("roll", "pitch")),
    Output("inclination", "Inclination", ANGLE),
    Output("roll", "Roll", ANGLE, is_part=True),
    Output("pitch", "Pitch", ANGLE, is_part=True),
    Output("force", "Felt", FORCE),
    Output("size", "Its size", FORCE.in_lanes("")),
    Output("vibration", "Vibration", FORCE.in_lanes("")),
)


@dataclass(frozen=True, slots=True)
class MountedParameters:
    """How an accelerometer sits in the rig. Angles rad, accelerations m/s², times s."""

    up_axis: str = choice("Up points its", _AXES, "+z", "as printed on the board", node="mount")
    forward_axis: str = choice("Forward points its", _AXES, "+x", node="mount")
    up_reads: str = choice(
        "At rest, up reads",
        (Choice("+1 g", "+1 g, as the parts do"), Choice("-1 g", "−1 g, as some programs do")),
        node="mount",
    )
    yaw_rad: float = number(
        "Turned further, to the left", "rad", 0.0, -math.pi, math.pi, node="mount", is_rare=True
    )
    nose_down_rad: float = number(
        "Nose further down", "rad", 0.0, -math.pi, math.pi, node="mount", is_rare=True
    )
    left_up_rad: float = number(
        "Left side further up", "rad", 0.0, -math.pi, math.pi, node="mount", is_rare=True
    )
    smooth: str = words(
        "Filter", "", "such as median:n=5 or low-pass:hz=5; none when empty", node="smooth"
    )
    rest_within: float = number(
        "At rest within, ±", "m/s²", 0.05 * G, 1e-3, 100.0,
        "of 1 g; else it is said to be moving", node="rest", shown_as=GRAVITIES, decimals=3,
    )  # fmt: skip
    vibration_s: float = number(
        "Vibration over", "s", 0.5, 0.01, 60.0, node="vibration", decimals=2
    )

    def check(self) -> None:
        """Raises ValueError naming the first parameter that cannot be."""
        check_inputs(self)
        try:
            mounting(self.up_axis, self.forward_axis)
        except ValueError as error:
            raise ValueError(f"forward_axis: {error}") from error
        check_words(self.smooth)

    def mount(self) -> MountRotation:
        """What turns its axes into those of the rig."""
        turned = self.yaw_rad, self.nose_down_rad, self.left_up_rad
        says = f"{self.up_axis} up, {self.forward_axis} forward".replace("-", "−")
        return MountRotation(
            mounting(self.up_axis, self.forward_axis, turned),
            1 if self.up_reads == "+1 g" else -1,
            says,
        )


def felt_stages(
    parameters: MountedParameters, calibrations: dict[str, Stage]
) -> list[tuple[str, Stage]]:
    """From the force as the module tells it to that in the rig."""
    stages: list[tuple[str, Stage]] = [
        ("correction", calibrations.get("six-face") or Untouched()),
        ("mount", parameters.mount()),
        ("level", calibrations.get("level-zero") or Untouched()),
    ]
    smooth = stage_from_words(parameters.smooth)
    if smooth is not None:
        stages.append(("smooth", smooth))
    return stages


def entered_late(
    stages: Sequence[tuple[str, Stage]], late: str, u_share: float, zero_u: float
) -> list[tuple[str, Stage]]:
    """The stages for what comes as one of them would have given it; as they are where `late` is
    empty. What the unit is off by does not go away by being worked out elsewhere.
    """
    names = [name for name, _ in stages]
    if not late:
        return list(stages)
    return [(late, WorkedOut(u_share, zero_u)), *stages[names.index(late) + 1 :]]


def tilt_nodes(parameters: MountedParameters, before: str) -> tuple[Node, ...]:
    """What is told of the force in the rig, which the node before gives."""
    return (
        Node("rest", RestWatch(parameters.rest_within), (before,)),
        Node("tilt", Tilt("level"), ("rest",)),
        Node("roll", Tilt("roll"), ("rest",)),
        Node("pitch", Tilt("pitch"), ("rest",)),
        Node("inclination", Tilt("inclination"), ("rest",)),
        Node("size", VectorSize(), (before,)),
        Node("vibration", Vibration(parameters.vibration_s), (before,)),
    )


def tilt_outputs(before: str) -> list[tuple[str, str]]:
    """Outputs by the nodes that give them."""
    return [
        ("level", "tilt"), ("inclination", "inclination"), ("roll", "roll"), ("pitch", "pitch"),
        ("force", before), ("size", "size"), ("vibration", "vibration"),
    ]  # fmt: skip


def felt_by_module(roll: float, parameters: MountedParameters) -> FloatArray:
    """What a module reads at rest that leans so far, left side up, g, shape (3,)."""
    mount = parameters.mount()
    rig = np.array([0.0, math.sin(roll), math.cos(roll)])
    result: FloatArray = mount.up_reads * np.array(mount.matrix).T @ rig
    return result
