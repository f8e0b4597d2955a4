"""What a row of sensors sees of a line: on it, lost to a side, a crossing, a bar, lifted."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from typing import ClassVar

import numpy as np
import numpy.typing as npt

from tickstone.core.chain import State
from tickstone.core.emit.code import Code, Emitted, EmittedLane
from tickstone.core.emit.terms import Kind, all_of, any_of, is_among, pick, seconds_between
from tickstone.core.line_codes import code_of, codes_of
from tickstone.core.line_row import Row
from tickstone.core.one_sample import one_sample
from tickstone.core.quantity import DecisionState, Quantity
from tickstone.core.signal import FloatArray, Signal
from tickstone.core.status import Status
from tickstone.core.step import Operand, Reading, Step

SITUATION = Quantity(
    "situation",
    "",
    states=(
        DecisionState("line", "on the line"),
        DecisionState("several", "seen twice"),
        DecisionState("crossing", "crossing"),
        DecisionState("bar", "bar"),
        DecisionState("lost_left", "lost, left", is_alarm=True),
        DecisionState("lost_right", "lost, right", is_alarm=True),
        DecisionState("lost", "lost", is_alarm=True),
        DecisionState("lifted", "lifted", is_alarm=True),
        DecisionState("blind", "blind", is_alarm=True),
    ),
)
LINE, SEVERAL, CROSSING, BAR, LOST_LEFT, LOST_RIGHT, LOST, LIFTED, BLIND = range(9)
_NONE, _GROUP, _GROUPS, _ALL = range(4)


@dataclass(frozen=True, slots=True)
class LineSituation:
    """What the states of a row come to.

    row: of sensors. line_is_dark: or light, on dark. bar_after_s: all sensors on the line for
        longer than this is a bar, not a crossing. is_flipped: whether the first lane is the
        rightmost.
    When none is on it, the side on which the line was seen last. Off the floor all are darker than
    black. Blind where no lane has a value, or black and white are not known.
    State: the last side, -1, 0, 1; since when all are on it, s.

    >>> from tickstone.core.stages.lane_state import SURFACE
    >>> stage = LineSituation(Row((-0.02, 0.0, 0.02), 0.02, 0.005), True, 0.5)
    >>> states = Signal.of([0, 1, 2], [[0, 0, 0], [1, 0, 0], [0, 1, 0]], SURFACE.in_lanes(*"123"))
    >>> [SITUATION.states[int(one)].name for one in stage.run(stage.begin(), states)[0].value]
    ['line', 'line', 'lost_right']
    """

    name: ClassVar[str] = "situation"
    own_times: ClassVar[bool] = False

    row: Row
    line_is_dark: bool
    bar_after_s: float
    is_flipped: bool = False
    _kinds: npt.NDArray[np.uint8] = field(init=False, repr=False, compare=False)
    _sides: npt.NDArray[np.int8] = field(init=False, repr=False, compare=False)

    def __post_init__(self) -> None:
        count = len(self.row.places_m)
        on = np.arange(2**count)[:, np.newaxis] >> np.arange(count) & 1
        many = on.sum(axis=1)
        groups = on[:, 0] + (np.diff(on, axis=1) > 0).sum(axis=1)
        kinds = np.where(many == 0, _NONE, np.where(groups > 1, _GROUPS, _GROUP))
        if not self.row.is_covered and count > 1:
            kinds[-1] = _ALL
        mean = on @ self.row.of_lanes(self.is_flipped) / np.maximum(many, 1)
        sides = np.where(kinds == _NONE, 0, np.sign(np.round(mean, 9)))
        object.__setattr__(self, "_kinds", kinds.astype(np.uint8))
        object.__setattr__(self, "_sides", sides.astype(np.int8))

    def gives(self, *taken: Quantity) -> Quantity:
        """A situation. Raises ValueError when the row has other sensors."""
        if len(taken[0].lanes) != len(self.row.places_m):
            raise ValueError(
                f"{len(self.row.places_m)} places are told, but {len(taken[0].lanes)} sensors are "
                "heard"
            )
        return SITUATION

    def begin(self) -> State:
        """Never seen."""
        return (0, None)

    def run(self, state: State, *signals: Signal) -> tuple[Signal, State]:
        """The situation at each sample."""
        states = signals[0]
        self.gives(states.quantity)
        n = len(states)
        if n == 0:
            empty = np.empty((1, 0))
            return states.replaced(empty, np.empty((1, 0), np.uint8), SITUATION), state
        side, since_s = state
        codes = codes_of(states.values, self.line_is_dark, is_flipped=False)
        kinds, sides = self._kinds[codes], self._sides[codes]
        result = np.full(n, float(LINE))
        result[kinds == _GROUPS] = SEVERAL
        status = np.zeros(n, dtype=np.uint8)
        lifted, blind = self._judged(states, status)
        after_side = self._lost(result, kinds, sides, int(side), lifted | blind)
        after_since = self._crossed(result, kinds, states.time_s, since_s, lifted | blind)
        result[lifted], result[blind] = LIFTED, BLIND
        return (
            Signal(states.time_s, result[None], status[None], SITUATION, states.until_s),
            (after_side, after_since),
        )

    def _judged(
        self, states: Signal, status: npt.NDArray[np.uint8]
    ) -> tuple[npt.NDArray[np.bool_], npt.NDArray[np.bool_]]:
        """Where it is off the floor, and where it sees nothing; `status` says why."""
        nowhere = np.zeros(len(states), dtype=np.bool_)
        if not states.status.any():
            return nowhere, nowhere
        lifted = np.equal(states.status, Status.TOO_DARK).all(axis=0)
        deaf = np.logical_not(np.isin(states.status, _HEARD).any(axis=0))
        status[deaf] = states.status[0, deaf]
        return np.asarray(lifted), np.asarray(deaf)

    def _lost(
        self,
        result: FloatArray,
        kinds: npt.NDArray[np.uint8],
        sides: npt.NDArray[np.int8],
        side: int,
        unseen: npt.NDArray[np.bool_],
    ) -> int:
        """Tell where it was last seen, where it is not; the last side after the block."""
        tells = (kinds == _GROUP) & ~unseen
        lost = np.flatnonzero((kinds == _NONE) & ~unseen)
        told = np.flatnonzero(tells)
        if lost.size:
            place = np.searchsorted(told, lost) - 1
            last = np.full(len(lost), side, dtype=np.int64)
            last[place >= 0] = sides[told[place[place >= 0]]]
            result[lost] = np.where(last < 0, LOST_LEFT, np.where(last > 0, LOST_RIGHT, LOST))
        return int(sides[told[-1]]) if told.size else side

    def _crossed(
        self,
        result: FloatArray,
        kinds: npt.NDArray[np.uint8],
        time_s: FloatArray,
        since_s: float | None,
        unseen: npt.NDArray[np.bool_],
    ) -> float | None:
        """Tell crossings from bars; since when all are on it after the block."""
        over = (kinds == _ALL) & ~unseen
        if not over.any():
            return None
        begins = over & ~np.concatenate(([since_s is not None], over[:-1]))
        places = np.maximum.accumulate(np.where(begins, np.arange(len(over)), -1))
        first_s = math.nan if since_s is None else since_s
        began_s = np.where(places >= 0, time_s[places], first_s)
        at = np.flatnonzero(over)
        lasting = time_s[at] - began_s[at] > self.bar_after_s
        result[at] = np.where(lasting, BAR, CROSSING)
        return float(began_s[-1]) if over[-1] else None

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        flow = entering[0]
        count = len(flow.lanes)
        kinds = code.table("kinds", self._kinds.tolist(), Kind.WHOLE)
        sides = code.table("sides", self._sides.tolist(), Kind.WHOLE)
        number = code.let("number", code_of(code, flow, self.line_is_dark, is_flipped=False))
        kind, side = code.let("kind", kinds[number]), code.let("side", sides[number])
        lifted = code.let(
            "is_lifted", all_of([one.status.is_(Status.TOO_DARK) for one in flow.lanes])
        )
        deaf = code.let(
            "is_deaf",
            ~any_of([is_among(one.status, tuple(map(Status, _HEARD))) for one in flow.lanes]),
        )
        unseen = code.let("is_unseen", lifted | deaf)
        last = code.state("last_side", 0.0, Kind.WHOLE)
        lost = pick(last < 0, float(LOST_LEFT), pick(last > 0, float(LOST_RIGHT), float(LOST)))
        over = code.let("is_over", kind.is_(_ALL) & ~unseen)
        begun, since = (
            code.state("is_crossing", 0.0, Kind.FLAG),
            code.state("since_us", 0.0, Kind.CLOCK),
        )
        is_bar = code.state("is_bar", 0.0, Kind.FLAG)
        code.set(since, pick(over & ~begun, flow.at, since))
        code.set(
            is_bar, over & begun & (is_bar | (seconds_between(flow.at, since) > self.bar_after_s))
        )
        code.set(begun, over)
        seen = pick(
            kind.is_(_ALL),
            pick(is_bar, float(BAR), float(CROSSING)),
            pick(kind.is_(_NONE), lost, pick(kind.is_(_GROUPS), float(SEVERAL), float(LINE))),
        )
        told = code.let("told", pick(deaf, float(BLIND), pick(lifted, float(LIFTED), seen)))
        code.set(last, pick(kind.is_(_GROUP) & ~unseen, side, last))
        status = pick(deaf, flow.lanes[0].status, Status.OK)
        assert count == len(self.row.places_m)
        return flow.of(EmittedLane(told, status))

    def explain(self, state: State, *readings: Reading) -> Step:
        """One sample: which sensors are on the line, and what that is."""
        reading = readings[0]
        result, _ = self.run(state, one_sample(reading))
        place = int(result.value[0])
        on = 1.0 if self.line_is_dark else 0.0
        picture = "".join("■" if lane.value == on else "□" for lane in reading.lanes)
        return Step(
            stage=self.name,
            label="sees",
            sign="→",
            operand=Operand(None, "", 0.0, picture),
            formula="none: lost; one group: on the line; all: crossing, and a bar if it lasts",
            filled=f"{picture}: {SITUATION.states[place].word}",
            value=float(place),
            quantity=SITUATION,
            status=Status(int(result.flag[0])),
            components=(),
            source="common practice",
        )


_HEARD = (
    int(Status.OK), int(Status.SATURATED), int(Status.TOO_DARK), int(Status.FLOODED),
)  # fmt: skip
"""Flags of lanes that say something of the surface all the same."""
