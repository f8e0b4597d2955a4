"""Roll, pitch and inclination from gravity."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any, ClassVar, Literal

import numpy as np
from uncertainties import umath

from tickstone.core.axes import told_apart
from tickstone.core.chain import Pointwise, State
from tickstone.core.doubt import Sources, lane_of
from tickstone.core.emit.code import Code, Emitted, EmittedLane
from tickstone.core.emit.terms import NOTHING, Term, angle, is_number, pick, root
from tickstone.core.quantity import ANGLE, Quantity
from tickstone.core.signal import FloatArray, Signal
from tickstone.core.stages.axes_matrix import first_flag, first_flag_of, flag_of
from tickstone.core.status import Status
from tickstone.core.step import Lane, Operand, Reading, Step

Angle = Literal["roll", "pitch", "inclination"]
Which = Angle | Literal["level"]

FORMULAS = {
    "roll": "roll = atan2(a_y, a_z)",
    "pitch": "pitch = atan2(−a_x, √(a_y² + a_z²))",
    "inclination": "inclination = atan2(√(a_x² + a_y²), a_z)",
    "level": "roll = atan2(a_y, a_z), pitch = atan2(−a_x, √(a_y² + a_z²))",
}
_WRONG = {
    "roll": (
        "The plain arctangent of a_y/a_z jumps by half a turn at 90°, and one axis’ arcsine tells "
        "less and less towards it; here both are kept apart by their signs."
    ),
    "pitch": "The arcsine of a_x alone loses its fineness towards 90°.",
    "inclination": "The arccosine of a_z alone is coarse near level; this is not.",
}
_UPRIGHT = 0.05
"""Share of what is felt that has to lie across the axis a roll is about: within 3° of it, none."""
_LEAST = 1e-9
"""m/s²: less across than this says nothing of a direction."""


@dataclass(frozen=True, slots=True)
class Tilt(Pointwise):
    """An angle, rad, of the force felt at rest; frame: x forward, y left, z up.

    which: roll, about x, left side up; pitch, about y, nose down; inclination, of z off the
    vertical, never below 0; level: roll and pitch, two lanes. No angle where the axis it turns
    about points straight up, and none to be trusted within 3° of that.

    >>> from tickstone.core.quantity import FORCE
    >>> felt = Signal.of([0, 1], [[0.0, 1.0], [1.0, 0.0], [1.0, 0.0]], FORCE)
    >>> Tilt("roll").apply(felt).value.round(4).tolist(), Tilt("roll").apply(felt).flag.tolist()
    ([0.7854, nan], [0, 35])
    """

    name: ClassVar[str] = "tilt"

    which: Which

    @property
    def angles(self) -> tuple[Angle, ...]:
        """Of each lane."""
        return ("roll", "pitch") if self.which == "level" else (self.which,)

    def gives(self, *taken: Quantity) -> Quantity:
        """An angle, or two. Raises ValueError unless three lanes enter."""
        if len(taken[0].lanes) != 3:
            raise ValueError("tilt takes three axes")
        return ANGLE if self.which != "level" else ANGLE.in_lanes("roll", "pitch")

    def apply(self, *signals: Signal) -> Signal:
        """Every sample."""
        signal = signals[0]
        x, y, z = signal.values
        values, status = [], []
        missing = np.isnan(x + y + z)
        for one in self.angles:
            angle, is_none = _angle(one, x, y, z)
            flag = first_flag(signal.status)
            flag[(flag == Status.OK) & (is_none | _is_poor(one, x, y, z))] = Status.NO_ANGLE
            values.append(np.where(is_none | missing, np.nan, angle))
            status.append(flag)
        quantity = self.gives(signal.quantity)
        return Signal(signal.time_s, np.stack(values), np.stack(status), quantity, signal.until_s)

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        flow = entering[0]
        x, y, z = (one.value for one in flow.lanes)
        missing = code.let("is_missing", ~is_number(x + y + z))
        poor = code.let("is_poor", _hypot(y, z) < _UPRIGHT * root(x * x + y * y + z * z))
        lanes = []
        for one in self.angles:
            told, length = _emitted_angle(one, x, y, z)
            none = code.let("is_none", length < _LEAST)
            useless = none | poor if one == "roll" else none
            value = code.let("angle", pick(none | missing, NOTHING, told))
            lanes.append(
                EmittedLane(value, first_flag_of(flow)).flagged((useless, Status.NO_ANGLE))
            )
        return flow.of(*lanes)

    def explain(self, state: State, *readings: Reading) -> Step:
        """One sample, with what each axis adds to its doubt."""
        reading = readings[0]
        entering = told_apart(reading.lanes, reading.quantity.lanes)
        told = [_lane(one, entering) for one in self.angles]
        said = [reading.quantity.said(lane.value) for lane in entering]
        first = self.angles[0]
        return Step(
            stage=self.name,
            label="roll and pitch" if self.which == "level" else self.which,
            sign="∠",
            operand=Operand(None, "", 0.0, "from gravity"),
            formula=FORMULAS[self.which],
            filled=", ".join(_filled(one, said) for one in self.angles),
            value=told[0].value,
            quantity=self.gives(reading.quantity),
            status=told[0].status,
            components=told[0].components,
            source="rotation of gravity into the frame, roll after pitch; from memory",
            note=told[0].status.remark or _WRONG[first],
            others=tuple(told[1:]),
        )


def _angle(which: Angle, x: Any, y: Any, z: Any) -> tuple[FloatArray, np.ndarray]:
    """The angle, and where there is none."""
    if which == "roll":
        return np.arctan2(y, z), np.hypot(y, z) < _LEAST
    if which == "pitch":
        across = np.hypot(y, z)
        return np.arctan2(-x, across), np.hypot(x, across) < _LEAST
    across = np.hypot(x, y)
    return np.arctan2(across, z), np.hypot(across, z) < _LEAST


def _hypot(one: Term, other: Term) -> Term:
    return root(one * one + other * other)


def _emitted_angle(which: Angle, x: Term, y: Term, z: Term) -> tuple[Term, Term]:
    """The angle, and how long what it is told from is."""
    if which == "roll":
        return angle(y, z), _hypot(y, z)
    if which == "pitch":
        return angle(-x, _hypot(y, z)), root(x * x + y * y + z * z)
    return angle(_hypot(x, y), z), root(x * x + y * y + z * z)


def _is_poor(which: Angle, x: Any, y: Any, z: Any) -> np.ndarray:
    """Where it points so nearly straight up that its roll is all noise."""
    size = np.sqrt(x * x + y * y + z * z)
    result: np.ndarray = np.hypot(y, z) < _UPRIGHT * size
    return result if which == "roll" else np.zeros_like(result)


def _lane(which: Angle, lanes: tuple[Lane, ...]) -> Lane:
    values = [lane.value for lane in lanes]
    status = flag_of(lanes)
    x, y, z = np.array(values)[:, None]
    is_none = bool(_angle(which, x, y, z)[1][0])
    if (is_none or _is_poor(which, x, y, z)[0]) and status == Status.OK:
        status = Status.NO_ANGLE
    if is_none or any(math.isnan(one) for one in values):
        return Lane(math.nan, status)
    sources = Sources()
    ux, uy, uz = (sources.of(lane) for lane in lanes)
    if which == "roll":
        angle = umath.atan2(uy, uz)
    elif which == "pitch":
        angle = umath.atan2(-ux, umath.sqrt(uy * uy + uz * uz))
    elif (across := math.hypot(values[0], values[1])) < _LEAST:
        # Straight up the slope is that of a cone’s tip: as doubtful as the wider of the two.
        widest = max(lanes[:2], key=lambda lane: lane.u)
        parts = tuple(part.through(1.0 / abs(values[2])) for part in widest.components)
        return Lane(math.atan2(across, values[2]), status, parts)
    else:
        angle = umath.atan2(umath.sqrt(ux * ux + uy * uy), uz)
    return lane_of(angle, sources, Lane(0.0, status))


def _filled(which: Angle, said: list[str]) -> str:
    return {
        "roll": f"atan2({said[1]}, {said[2]})",
        "pitch": f"atan2(−({said[0]}), √(({said[1]})² + ({said[2]})²))",
        "inclination": f"atan2(√(({said[0]})² + ({said[1]})²), {said[2]})",
    }[which]
