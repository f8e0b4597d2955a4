"""One look at a level floor: what roll and pitch read there is how aslant the module sits."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np

from tickstone.core.calibration.faces import STEADY, moved
from tickstone.core.calibration.guiding import see_rest
from tickstone.core.calibration.kind import CalibrationKind, Fit, Line, Pose, Span
from tickstone.core.calibration.poses import (
    Held,
    good_samples,
    held_between,
    held_result,
    longest_still,
)
from tickstone.core.calibration.seen import Seen
from tickstone.core.finding import Finding, worst_first
from tickstone.core.quantity import ANGLE
from tickstone.core.reading_units import STANDARD_GRAVITY_M_PER_S2
from tickstone.core.signal import Signal
from tickstone.core.stages.level_turn import LevelTurn, tilt_of
from tickstone.core.uncertainty import expanded

_FLOOR_RAD = math.radians(0.1)
"""What a floor is level to that a spirit level calls so; from memory."""
_STANDS_S = 3.0
_STEEP_RAD = math.radians(15.0)


class LevelZeroKind(CalibrationKind):
    """Roll and pitch of the module on what is called level."""

    name = "level-zero"
    label = "Level"
    node = "level"
    done = "it stood on a level floor"
    deed = "Mark level"
    unset = "Level has not been shown to it: it tells the tilt of the module, not of the rig."
    interval_days = 180
    is_needed = False
    undone_by = ("the module was moved on the rig", "another tyre or wheel")
    guide = (
        "Put the rig on a floor that a spirit level calls level, and leave it for three seconds. "
        "Turn it half round and mark that as well: then what the floor is off by cancels."
    )
    poses = (Pose("level", "Stand the rig on a level floor.", "Let go of it."),)
    takes_any_pose = True
    is_guided = True

    def fit(self, spans: Sequence[Span], parameters: Any) -> Fit:
        """The mean tilt of what was still.

        Raises ValueError when nothing was, or it stood too steep to be called level.

        >>> from tickstone.core.quantity import FORCE
        >>> level = Signal.of(range(5), [[0.1] * 5, [0.0] * 5, [9.8] * 5], FORCE)
        >>> fit = LevelZeroKind().fit([Span("level", level)], None)
        >>> round(fit.parameters["pitch_rad"], 4)
        -0.0102
        """
        looks = [(span, _held(span)) for span in spans]
        floor = min((float(np.linalg.norm(h.scatter)) for _, h in looks if h), default=0.0)
        used = [(span, h) for span, h in looks if h is not None and not moved(h, floor)]
        if not used:
            raise ValueError("nothing under the marks was still; let go of it for three seconds")
        tilts = [tilt_of(held.mean) for _, held in used]
        roll, pitch = (float(np.mean([one[axis] for one in tilts])) for axis in (0, 1))
        if max(abs(roll), abs(pitch)) > _STEEP_RAD:
            raise ValueError(
                f"it stands at roll {ANGLE.said(roll)}, pitch {ANGLE.said(pitch)}: that is no "
                "level floor. Say in the cell of its mount which axis points up and which forward"
            )
        noise = [float(np.linalg.norm(held.u)) / STANDARD_GRAVITY_M_PER_S2 for _, held in used]
        # Turned half round, what the floor is off by has the other sign.
        apart = float(np.ptp(tilts, axis=0).max())
        floor_u = apart / 2.0 / math.sqrt(len(used)) if len(used) > 1 else _FLOOR_RAD
        u = math.hypot(max(floor_u, _FLOOR_RAD / math.sqrt(len(used)) / 4.0), max(noise))
        return Fit(
            parameters={"roll_rad": roll, "pitch_rad": pitch},
            covariance=np.diag([u * u, u * u]),
            statistics={"spans": float(len(used)), "apart_rad": apart},
            spans=tuple(
                held_result(span, held, 2, held is not None and not moved(held, floor))
                for span, held in looks
            ),
            remarks=worst_first(
                Finding(
                    "warning", f"“{span.name}” is left out.", "It moved.",
                    "Mark a stretch after you let go.",
                )
                for span, held in looks
                if held is None or moved(held, floor)
            ),
        )  # fmt: skip

    def check(self, fit: Fit) -> None:
        """Two small angles."""
        for name in ("roll_rad", "pitch_rad"):
            value = fit.parameters.get(name)
            if not (isinstance(value, int | float) and abs(value) <= math.pi):
                raise ValueError(f"{name}: is no angle")
        fit.check_covariance(2, "roll and pitch")

    def stage(self, fit: Fit, absorbs_shared: bool, label: str) -> LevelTurn:
        """The turn back."""
        roll, pitch = (float(fit.parameters[one]) for one in ("roll_rad", "pitch_rad"))  # type: ignore[arg-type]
        u = math.sqrt(max(0.0, float(fit.covariance[0][0])))
        return LevelTurn(roll, pitch, u, label)

    def certificate(self, fit: Fit) -> Sequence[Line]:
        """Both angles."""
        stage = self.stage(fit, False, "")
        u = ANGLE.said(expanded(stage.u_rad), 2)
        return (
            Line("roll there", f"{ANGLE.said(stage.roll_rad, 2)} ± {u}"),
            Line("pitch there", f"{ANGLE.said(stage.pitch_rad, 2)} ± {u}"),
        )

    def short(self, fit: Fit) -> str:
        """What the module leans."""
        lean = math.hypot(*(fit.numbers(one)[0] for one in ("roll_rad", "pitch_rad")))
        return f"leans {ANGLE.said(lean, 1)}"

    def see(self, signal: Signal, parameters: Any) -> Seen:
        """How long it has stood there."""
        return see_rest(signal, STEADY, self.poses[0].name, _STANDS_S)

    def still(self, signal: Signal) -> list[tuple[float, float]]:
        """The longest still stretch."""
        longest = longest_still(signal, STEADY)
        return [] if longest is None else [(longest.start_s, longest.end_s)]


def _held(span: Span) -> Held | None:
    time_s, values = good_samples(span.signal)
    return held_between(time_s, values) if len(time_s) >= 3 else None
