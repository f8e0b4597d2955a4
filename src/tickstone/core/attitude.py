"""What every way of putting accelerometer and gyroscope together has in common."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np

from tickstone.core.chain import State
from tickstone.core.emit.code import Code, Emitted, EmittedLane
from tickstone.core.emit.terms import (
    NOTHING,
    Kind,
    Name,
    Term,
    all_of,
    angle,
    arc_sine,
    cosine,
    floor,
    is_number,
    pick,
    root,
    seconds_between,
    sine,
)
from tickstone.core.loops.attitude import made_ready, sides
from tickstone.core.one_sample import one_sample
from tickstone.core.quantity import ATTITUDE, Quantity
from tickstone.core.reading_units import STANDARD_GRAVITY_M_PER_S2
from tickstone.core.signal import FloatArray, Signal
from tickstone.core.stages.align import Align
from tickstone.core.stages.axes_matrix import first_flag_of
from tickstone.core.stages.tilt import Angle, Tilt
from tickstone.core.stages.turned import drift_parts
from tickstone.core.status import Status
from tickstone.core.step import Lane, Operand, Reading, Step
from tickstone.core.uncertainty import Component

_PIECE = 32_768
HEADING_SAYS = (
    "Heading counts from where it began, and drifts: a unit without a compass knows no north."
)


@dataclass(frozen=True, slots=True)
class Trust:
    """What is known of the two sensors that are put together.

    rest_within: m/s²: the force says which way is up only where its size is so near 1 g; 0: always.
    bias_u: of the gyroscope at rest, rad/s. tilt_u: of one tilt at rest, by noise alone, rad.
    walk: angle random walk, rad/√s. scale_u: of the sensitivity to turning, a share.
    """

    rest_within: float = 0.0
    bias_u: float = 0.0
    tilt_u: float = 0.0
    walk: float = 0.0
    scale_u: float = 0.0


ALL_TRUST = Trust()
LONGEST_S = 0.25
"""A turn rate that came longer ago says nothing of now."""
TOGETHER = Align(LONGEST_S, 0.0)
"""Brings turn rates to the times of the forces they are put together with."""


def at_the_times_of(force: Signal, rotation: Signal) -> Signal:
    """Turn rates as they were last told at the time of every force."""
    return TOGETHER.run(TOGETHER.begin(), force, rotation)[0]


class _Room:
    """Arrays that the pieces of a run are worked out in, one after the other: new ones for each
    would cost more than the work.
    """

    def __init__(self, n: int) -> None:
        self.felt, self.turned, self.dt_s = np.empty((3, n)), np.empty((3, n)), np.empty(n)
        self.is_good, self.is_told = np.empty(n, dtype=np.bool_), np.empty(n, dtype=np.bool_)
        self.flag = np.empty(n, dtype=np.uint8)
        self.quaternion, self.sides = np.empty((4, n)), np.empty((5, n))


def _lanes(values: Any) -> tuple[Any, ...]:
    """Three arrays of their own kind: a loop is compiled for one kind of array only."""
    return tuple(map(_own, values))


def _own(lane: Any) -> Any:
    flags = lane.flags
    return lane if flags.c_contiguous and flags.writeable else np.array(lane)


def angles_of(
    quaternion: FloatArray, out: FloatArray | None = None, room: FloatArray | None = None
) -> FloatArray:
    """Roll, pitch and heading, rad, shape (3, n), of unit quaternions w, x, y, z, shape (4, n).

    out: filled, if given. room: to work in, shape (5, n).

    >>> angles_of(np.array([[1.0], [0.0], [0.0], [0.0]])).ravel().tolist()
    [0.0, 0.0, 0.0]
    """
    n = quaternion.shape[1]
    out = np.empty((3, n)) if out is None else out
    room = np.empty((5, n)) if room is None else room
    sides(quaternion, room)
    np.arctan2(room[0], room[3], out=out[0])
    np.arcsin(room[1], out=out[1])
    np.arctan2(room[2], room[4], out=out[2])
    return out


class Fusion:
    """Roll, pitch and heading, rad, from specific force and turn rate at the same times.

    State: the loop's own numbers, then the times of the last rate, of the last force that told,
    and of the beginning, s.
    """

    __slots__ = ()
    own_times: ClassVar[bool] = False
    name: ClassVar[str]
    label: ClassVar[str]
    formula: ClassVar[str]
    source: ClassVar[str]
    size: ClassVar[int]
    is_quaternion: ClassVar[bool] = False
    trust: Trust

    def loop(
        self,
        force: FloatArray,
        rate: FloatArray,
        dt_s: FloatArray,
        is_good: Any,
        is_told: Any,
        out: FloatArray,
        state: FloatArray,
    ) -> None:
        """Fill `out`, shape (3, n) or a quaternion of shape (4, n), and carry `state` on."""
        raise NotImplementedError

    def lag_s(self, dt_s: float) -> float:
        """Over about how long it weighs the two against each other, s."""
        raise NotImplementedError

    def operand(self) -> Operand:
        """What it is set to."""
        raise NotImplementedError

    def gives(self, *taken: Quantity) -> Quantity:
        """Attitude. Raises ValueError unless both have three lanes."""
        if [len(one.lanes) for one in taken] != [3, 3]:
            raise ValueError("an attitude takes three axes of force and three of rotation")
        return ATTITUDE

    def begin(self) -> State:
        """Nothing known."""
        return (*(0.0,) * self.size, None, None, None)

    def run(self, state: State, *signals: Signal) -> tuple[Signal, State]:
        """The attitude at every sample; a flagged rate keeps the one before."""
        force, rate = signals
        n = len(force)
        out, status = np.empty((3, n)), np.empty((3, n), dtype=np.uint8)
        # A piece at a time: what is worked out on the way then stays in the processor's cache.
        room = _Room(min(n, _PIECE))
        for first in range(0, n, _PIECE):
            last = min(n, first + _PIECE)
            if last - first != len(room.flag):
                room = _Room(last - first)
            piece = (force.between(first, last), rate.between(first, last))
            state = self._piece(state, *piece, room, out[:, first:last])
            status[:, first:last] = room.flag
        return Signal(force.time_s, out, status, ATTITUDE, force.until_s), state

    def _piece(
        self, state: State, force: Signal, rate: Signal, room: _Room, out: FloatArray
    ) -> State:
        since = np.array([math.nan if one is None else one for one in state[self.size :]])
        made_ready(
            _lanes(force.values), _lanes(force.status), _lanes(rate.values), _lanes(rate.status),
            _own(rate.time_s), STANDARD_GRAVITY_M_PER_S2, self.trust.rest_within,
            room.felt, room.turned, room.dt_s, room.is_good, room.is_told, room.flag, since,
        )  # fmt: skip
        numbers = np.array(state[: self.size])
        told = room.quaternion if self.is_quaternion else room.sides[:3]
        self.loop(room.felt, room.turned, room.dt_s, room.is_good, room.is_told, told, numbers)
        if self.is_quaternion:
            angles_of(told, out, room.sides)
        else:
            out[:] = told
        if np.isnan(out[0, 0]):
            room.flag[(room.flag == Status.OK) & np.isnan(out[0])] = Status.NOT_YET
        times = (None if one != one else one for one in since.tolist())
        return (*numbers.tolist(), *times)

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        force, rate = entering
        flag = code.let("first_flag", first_flag_of(rate))
        p, q, r = (one.value for one in rate.lanes)
        x, y, z = (one.value for one in force.lanes)
        square = code.let("square", x * x + y * y + z * z)
        tells = all_of([one.ok for one in force.lanes]) & is_number(square)
        if self.trust.rest_within > 0.0:
            low = STANDARD_GRAVITY_M_PER_S2 - self.trust.rest_within
            high = STANDARD_GRAVITY_M_PER_S2 + self.trust.rest_within
            tells = tells & (square >= low * abs(low)) & (square <= high * high)
        told = code.let("is_told", tells)
        felt = tuple(code.let(f"felt_{n}", pick(told, one, 0.0)) for n, one in enumerate((x, y, z)))
        last = code.state("last_us", 0.0, Kind.CLOCK)
        has_last, begun = (code.state(hint, 0.0, Kind.FLAG) for hint in ("has_last", "is_begun"))
        with code.when(flag.is_(Status.OK) & is_number(p + q + r)):
            dt = code.let("dt", pick(has_last, seconds_between(rate.at, last), 0.0))
            angles = self.emit_loop(code, felt, (p, q, r), dt, told, begun)
            code.set(last, rate.at)
            code.set(has_last, True)
        status = pick(flag.is_(Status.OK) & ~begun, Status.NOT_YET, flag)
        return force.of(*(EmittedLane(pick(begun, one, NOTHING), status) for one in angles))

    def emit_loop(
        self, code: Code, force: Sequence[Term], rate: Sequence[Term], dt: Term, told: Term,
        begun: Name,
    ) -> tuple[Term, Term, Term]:  # fmt: skip
        """The same as `loop`, for one good sample; roll, pitch and heading, told once begun."""
        raise NotImplementedError

    def explain(self, state: State, *readings: Reading) -> Step:
        """One attitude, and what it may be off by."""
        force, rate = readings
        told, after = self.run(state, one_sample(force), one_sample(rate))
        last_s = state[self.size]
        _, told_s, began_s = after[self.size :]
        over_s = rate.time_s - began_s if began_s is not None else 0.0
        dt_s = rate.time_s - last_s if last_s is not None else 0.0
        status = Status(int(told.flag[0]))
        lag_s = self.lag_s(dt_s) if dt_s > 0.0 else 0.0
        alone_s = rate.time_s - told_s if told_s is not None else 0.0
        lanes = []
        for place, name in enumerate(ATTITUDE.lanes):
            value = float(told.values[place, 0])
            parts: tuple[Component, ...] = ()
            if value == value and name == "heading":
                trust = self.trust
                parts = drift_parts(trust.bias_u, trust.walk, trust.scale_u, value, over_s)
            elif value == value:
                parts = self._parts(name, force, lag_s, alone_s, dt_s)
            lanes.append(Lane(value, status, parts))
        said = [ATTITUDE.said(lane.value, 2) for lane in lanes]
        moving = "" if alone_s <= 0.0 else " by the gyroscope alone just now."
        return Step(
            stage=self.name,
            label=self.label,
            sign="⊕",
            operand=self.operand(),
            formula=self.formula,
            filled=f"roll {said[0]}, pitch {said[1]}, heading {said[2]}",
            value=lanes[0].value,
            quantity=ATTITUDE,
            status=status,
            components=lanes[0].components,
            source=self.source,
            note=status.remark or f"{'Told' + moving if moving else ''} {HEADING_SAYS}".strip(),
            others=tuple(lanes[1:]),
        )

    def _parts(
        self, name: str, force: Reading, lag_s: float, alone_s: float, dt_s: float
    ) -> tuple[Component, ...]:
        bias_u, tilt_u = self.trust.bias_u, self.trust.tilt_u
        shared = tuple(
            Lane(lane.value, Status.OK, tuple(one for one in lane.components if one.shared))
            for lane in force.lanes
        )
        which: Angle = "roll" if name == "roll" else "pitch"
        tilted = Tilt(which).explain(None, Reading(force.time_s, force.quantity, shared))
        # A mean over the lag, of what is told once every dt.
        noise = tilt_u * math.sqrt(min(1.0, dt_s / (2.0 * lag_s))) if lag_s > 0.0 else tilt_u
        off = bias_u * (lag_s + alone_s)
        return (
            *tilted.components,
            Component("noise left", tilt_u, "rad", noise, False, "of the tilt at rest"),
            Component("bias left", bias_u, "rad/s", off, True, "over what it weighs"),
        )


def tilts_of(force: Sequence[Term]) -> tuple[Term, Term]:
    """Roll and pitch of a force felt, for a board."""
    x, y, z = force
    return angle(y, z), angle(-x, root(y * y + z * z))


def within_a_turn(code: Code, one: Term) -> Term:
    """An angle from −π to π, for a board."""
    turn = 2.0 * math.pi
    return one - turn * floor((one + math.pi) / turn)


def rates_of(code: Code, rate: Sequence[Term], roll: Term, pitch: Term) -> tuple[Term, Term, Term]:
    """How fast roll, pitch and heading change, for a board."""
    p, q, r = rate
    sr, cr = code.let("sr", sine(roll)), code.let("cr", cosine(roll))
    low = code.let("low", cosine(pitch))
    near = (low < 1e-6) & (low > -1e-6)
    turn = code.let("turn", (q * sr + r * cr) / pick(near, 1e-6, low))
    return p + turn * sine(pitch), q * cr - r * sr, turn


class Quaternion:
    """w, x, y, z on a board."""

    def __init__(self, code: Code) -> None:
        self._code = code
        self.w, self.x, self.y, self.z = (code.state(hint) for hint in "wxyz")

    def begin(self, force: Sequence[Term]) -> None:
        """From a force felt."""
        code = self._code
        roll, pitch = tilts_of(force)
        half_roll, half_pitch = code.let("half", roll / 2.0), code.let("half", pitch / 2.0)
        cr, sr = code.let("cr", cosine(half_roll)), code.let("sr", sine(half_roll))
        cp, sp = code.let("cp", cosine(half_pitch)), code.let("sp", sine(half_pitch))
        for place, value in zip(
            (self.w, self.x, self.y, self.z), (cr * cp, sr * cp, cr * sp, -(sr * sp)), strict=True
        ):
            code.set(place, value)

    def turning(self, rate: Sequence[Term]) -> list[Term]:
        """How fast each part changes: ½·q⊗ω."""
        p, q, r = rate
        w, x, y, z = self.w, self.x, self.y, self.z
        return [
            self._code.let(f"d{name}", 0.5 * value)
            for name, value in (
                ("w", -x * p - y * q - z * r),
                ("x", w * p + y * r - z * q),
                ("y", w * q - x * r + z * p),
                ("z", w * r + x * q - y * p),
            )
        ]

    def go_on(self, change: Sequence[Term], dt: Term) -> None:
        """By so much a second, and back to length 1."""
        code, parts = self._code, (self.w, self.x, self.y, self.z)
        for place, one in zip(parts, change, strict=True):
            code.set(place, place + one * dt)
        w, x, y, z = parts
        square = code.let("square", w * w + x * x + y * y + z * z)
        near = (square - 1.0 < 1e-5) & (square - 1.0 > -1e-5)
        by = code.let("by", pick(near, 1.5 - 0.5 * square, 1.0 / root(square)))
        for place in parts:
            code.set(place, place * by)

    def angles(self) -> tuple[Term, Term, Term]:
        """Roll, pitch and heading."""
        w, x, y, z = self.w, self.x, self.y, self.z
        up = 2.0 * (w * y - z * x)
        held = pick(up > 1.0, 1.0, pick(up < -1.0, -1.0, up))
        return (
            angle(2.0 * (w * x + y * z), 1.0 - 2.0 * (x * x + y * y)),
            arc_sine(held),
            angle(2.0 * (w * z + x * y), 1.0 - 2.0 * (y * y + z * z)),
        )
