"""From what a row sees to what the rig does: a table with an action for every combination."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.chain import State
from tickstone.core.emit.code import Code, Emitted, EmittedLane
from tickstone.core.emit.terms import Kind, real, term, whole
from tickstone.core.emit.timing import lasting_of, latest, settled_of
from tickstone.core.line_codes import code_of, codes_of, combinations
from tickstone.core.misfit import MisfitError
from tickstone.core.one_sample import one_sample
from tickstone.core.quantity import DecisionState, Quantity
from tickstone.core.settling import NOTHING_DECIDED, NOTHING_DONE, lasting, settled
from tickstone.core.signal import Signal
from tickstone.core.status import Status
from tickstone.core.step import Operand, Reading, Step

LETTERS = "FlLrRSBK"
"""One for each action that may stand in a table; K keeps the last."""
ACTION = Quantity(
    "action",
    "",
    states=(
        DecisionState("straight", "straight on"),
        DecisionState("ease_left", "ease left"),
        DecisionState("hard_left", "hard left"),
        DecisionState("ease_right", "ease right"),
        DecisionState("hard_right", "hard right"),
        DecisionState("stop", "stop", is_alarm=True),
        DecisionState("back", "back up, turn", is_alarm=True),
    ),
)
_STOP = 5
_AT_ONCE = frozenset(float(n) for n, one in enumerate(ACTION.states) if one.is_alarm)
HOLE = "-"


@dataclass(frozen=True, slots=True)
class LineAction:
    """The action of each sample, once its combination has stood for a while; each lasts a while.

    table: a letter of LETTERS for each combination, by number, or HOLE, which stops. debounce_s: a
    combination counts once it has stood so long. least_s: an action lasts so long at least, except
    that a stop and backing up come at once. Before anything else, K stops too.
    State: the last action that was told; what is done; what counts, and what waits.

    >>> from tickstone.core.stages.lane_state import SURFACE
    >>> stage = LineAction("KlrF", True, False, 0.0, 0.0)
    >>> states = Signal.of([0, 1, 2], [[1, 1, 0], [1, 0, 0]], SURFACE.in_lanes("1", "2"))
    >>> [ACTION.states[int(one)].name for one in stage.run(stage.begin(), states)[0].value]
    ['straight', 'ease_left', 'ease_left']
    """

    name: ClassVar[str] = "action"
    own_times: ClassVar[bool] = False

    table: str
    line_is_dark: bool
    is_flipped: bool
    debounce_s: float
    least_s: float

    def __post_init__(self) -> None:
        count = len(self.table).bit_length() - 1
        if len(self.table) < 2 or len(self.table) != 2**count:
            raise ValueError("a table has 2, 4, 8 … 256 entries, one for each combination")
        wrong = set(self.table) - set(LETTERS + HOLE)
        if wrong:
            raise ValueError(f"“{sorted(wrong)[0]}” is no action; known are {LETTERS}")

    def gives(self, *taken: Quantity) -> Quantity:
        """An action. Raises MisfitError when the table is of another row."""
        count = len(self.table).bit_length() - 1
        if len(taken[0].lanes) != count:
            raise MisfitError(
                f"the table is for {count} sensors, but {len(taken[0].lanes)} are heard",
                "make it anew",
            )
        return ACTION

    def begin(self) -> State:
        """Nothing done yet."""
        return (None, NOTHING_DONE, *NOTHING_DECIDED)

    def run(self, state: State, *signals: Signal) -> tuple[Signal, State]:
        """The action at each sample."""
        states = signals[0]
        self.gives(states.quantity)
        n = len(states)
        if n == 0:
            empty = np.empty((1, 0))
            return states.replaced(empty, np.empty((1, 0), np.uint8), ACTION), state
        last, done, *waiting = state
        seen = codes_of(states.values, self.line_is_dark, self.is_flipped).astype(np.float64)
        counts, kept = settled(seen, states.time_s, self.debounce_s, tuple(waiting))
        actions = self._actions()[counts.astype(np.intp)]
        told = np.flatnonzero(actions >= 0)
        place = np.searchsorted(told, np.arange(n), side="right") - 1
        before = float(_STOP) if last is None else last
        result = (
            np.where(place >= 0, actions[told[np.maximum(place, 0)]], before)
            if told.size
            else (np.full(n, before))
        )
        after = float(result[-1]) if told.size or last is not None else None
        result, done = lasting(
            result.astype(np.float64), states.time_s, self.least_s, _AT_ONCE, done
        )
        status = np.zeros((1, n), dtype=np.uint8)
        return (
            Signal(states.time_s, result[None], status, ACTION, states.until_s),
            (after, done, *kept),
        )

    def _actions(self) -> np.ndarray:
        """The place of the action of each combination among the states; -1 keeps the last."""
        places = [
            _STOP if letter == HOLE else -1 if letter == "K" else LETTERS.index(letter)
            for letter in self.table
        ]
        return np.array(places, dtype=np.int64)

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        flow = entering[0]
        seen = real(code_of(code, flow, self.line_is_dark, self.is_flipped))
        counts = settled_of(code, code.let("seen", seen), flow.at, self.debounce_s)
        actions = code.table("actions", self._actions().tolist(), Kind.WHOLE)
        action = code.let("action", actions[whole(counts)])
        asked = latest(code, real(action), action >= 0, float(_STOP))
        done = lasting_of(code, asked, flow.at, self.least_s, _AT_ONCE)
        return flow.of(EmittedLane(done, term(Status.OK)))

    def explain(self, state: State, *readings: Reading) -> Step:
        """One sample: the combination, and its action."""
        reading = readings[0]
        here = one_sample(reading)
        result, _ = self.run(state, here)
        place = int(result.value[0])
        code = int(codes_of(here.values, self.line_is_dark, self.is_flipped)[0])
        seen = combinations(len(reading.lanes))[code]
        told = self._actions()[code]
        waits = ", while the one before still stands" if told >= 0 and told != place else ""
        return Step(
            stage=self.name,
            label="does",
            sign="→",
            operand=Operand(None, "", 0.0, seen.picture),
            formula="the action that its table has for what it sees",
            filled=f"{seen.picture}, {seen.name}: {ACTION.states[place].word}{waits}",
            value=float(place),
            quantity=ACTION,
            status=Status.OK,
            components=(),
            source="a table of states; common practice",
        )
