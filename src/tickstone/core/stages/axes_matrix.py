"""Offsets, scales and cross-axis of three axes, put right at once."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import ClassVar

import numpy as np

from tickstone.core.axes import Matrix, told_apart
from tickstone.core.chain import Pointwise, State
from tickstone.core.doubt import Sources, lane_of
from tickstone.core.emit.code import Code, Emitted, EmittedLane
from tickstone.core.emit.terms import Term, pick, term
from tickstone.core.quantity import Quantity
from tickstone.core.signal import FloatArray, Signal
from tickstone.core.status import Status
from tickstone.core.step import Lane, Operand, Reading, Step
from tickstone.core.uncertainty import Component

Three = tuple[float, float, float]


def mixed(signal: Signal, matrix: FloatArray, offset: FloatArray | None = None) -> Signal:
    """M·(x − o), sample by sample; a flag on any lane is on all, since all are mixed.

    >>> mixed(Signal.of([0], [[1], [2], [3]], Quantity("x", "", lanes=tuple("xyz"))),
    ...       np.diag([1.0, 2.0, 3.0])).values[:, 0].tolist()
    [1.0, 4.0, 9.0]
    """
    values = signal.values if offset is None else signal.values - offset[:, None]
    status = signal.status
    if status.any():
        status = np.broadcast_to(first_flag(status), status.shape).copy()
    return signal.replaced(matrix @ values, status)


def first_flag(status: np.ndarray) -> np.ndarray:
    """For every sample the flag of the first lane that has one, shape (n,)."""
    flag: np.ndarray = status[0].copy()
    if not status[1:].any():
        return flag
    for lane in status[1:]:
        np.copyto(flag, lane, where=flag == Status.OK)
    return flag


def first_flag_of(flow: Emitted) -> Term:
    """The same for a board."""
    found = flow.lanes[-1].status
    for lane in reversed(flow.lanes[:-1]):
        found = pick(lane.ok, found, lane.status)
    return found


def mixed_of(
    code: Code, flow: Emitted, matrix: Sequence[Sequence[float]], rests_on: str
) -> Emitted:
    """The same as `mixed`, for a board."""
    values = []
    for n, row in enumerate(matrix, start=1):
        # A module that sits straight has nothing but these, which need no name.
        m = [
            term(float(value))
            if value in (0.0, 1.0, -1.0)
            else code.constant(f"m{n}{k}", value, "", None, rests_on)
            for k, value in enumerate(row, start=1)
        ]
        x, y, z = (one.value for one in flow.lanes)
        values.append(code.let("turned", m[0] * x + m[1] * y + m[2] * z))
    first = code.let("first_flag", first_flag_of(flow))
    return flow.of(*(EmittedLane(value, first) for value in values))


def flag_of(lanes: tuple[Lane, ...]) -> Status:
    """The same for one reading."""
    return next((lane.status for lane in lanes if lane.status != Status.OK), Status.OK)


@dataclass(frozen=True, slots=True)
class AxesMatrix(Pointwise):
    """a = M·(x − o), any unit to itself.

    offset: o, in its unit. matrix: M, by rows, no unit. covariance: of o, then of M row by row,
    12 × 12; empty where nothing is known of it. label: what it rests on.
    absorbs_shared: whether what is shared by all readings was there when it was made, and so is in
    it already.

    >>> from tickstone.core.quantity import FORCE
    >>> stage = AxesMatrix((0.1, 0.0, 0.0), ((1, 0, 0), (0, 2, 0), (0, 0, 1)), (), "6 faces")
    >>> felt = stage.apply(Signal.of([0], [[0.1], [1.0], [9.8]], FORCE))
    >>> felt.values[:, 0].tolist()
    [0.0, 2.0, 9.8]
    """

    name: ClassVar[str] = "correction"

    offset: Three
    matrix: Matrix
    covariance: tuple[tuple[float, ...], ...]
    label: str
    absorbs_shared: bool = True

    def gives(self, *taken: Quantity) -> Quantity:
        """The same. Raises ValueError unless there are three lanes."""
        if len(taken[0].lanes) != 3:
            raise ValueError("a matrix of three axes takes three lanes")
        return taken[0]

    def apply(self, *signals: Signal) -> Signal:
        """Every sample."""
        return mixed(signals[0], np.array(self.matrix), np.array(self.offset))

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        flow = entering[0]
        offsets = [
            code.constant(f"offset_{n + 1}", value, None, self._known_to(n), self.label)
            for n, value in enumerate(self.offset)
        ]
        off = flow.with_values(*(a.value - b for a, b in zip(flow.lanes, offsets, strict=True)))
        return mixed_of(code, off, self.matrix, self.label)

    def _known_to(self, place: int) -> float | None:
        """Standard uncertainty of one offset."""
        return float(np.sqrt(self.covariance[place][place])) if self.covariance else None

    def explain(self, state: State, *readings: Reading) -> Step:
        """One sample, with what the fit itself doubts in place of what it has taken in."""
        reading = readings[0]
        lanes = reading.lanes
        if self.absorbs_shared:
            lanes = tuple(
                replace(lane, components=tuple(p for p in lane.components if not p.shared))
                for lane in lanes
            )
        names = reading.quantity.lanes
        lanes = told_apart(lanes, names)
        given = np.array([lane.value for lane in lanes]) - np.array(self.offset)
        status, unit = flag_of(lanes), reading.quantity.unit
        told = []
        for place, row in enumerate(self.matrix):
            sources = Sources()
            entering = [sources.of(lane) for lane in lanes]
            result = sum(
                (m * (x - o) for m, x, o in zip(row, entering, self.offset, strict=True)), 0.0
            )
            u = self._u(place, given)
            if u > 0.0:
                own = Component(f"calibration, {names[place]}", u, unit, u, True, self.label)
                result = result + sources.known(own, 0.0)
            told.append(lane_of(result, sources, Lane(0.0, status)))
        said = reading.quantity.said
        offset = said(self.offset[0], 4)
        row_said = " ".join(f"{one:+.4f}" for one in self.matrix[0]).replace("-", "−")
        return Step(
            stage=self.name,
            label="offsets, scales, cross-axis",
            sign="×",
            operand=Operand(self.matrix[0][0], "", 0.0, self.label),
            formula="a = M·(x − o)",
            filled=f"({row_said}) · (x − o), o = {offset} …",
            value=told[0].value,
            quantity=reading.quantity,
            status=status,
            components=told[0].components,
            source="least squares on still faces; JCGM 100 eq. 13",
            note=status.remark,
            facts=(("offset", offset), ("scale", f"{self.matrix[0][0]:.4f}")),
            others=tuple(told[1:]),
        )

    def _u(self, place: int, given: FloatArray) -> float:
        """Standard uncertainty of one axis by the fit: offset and row together."""
        if not self.covariance:
            return 0.0
        slope = np.zeros(12)
        slope[:3] = -np.array(self.matrix[place])
        slope[3 + 3 * place : 6 + 3 * place] = given
        return float(np.sqrt(max(0.0, slope @ np.array(self.covariance) @ slope)))
