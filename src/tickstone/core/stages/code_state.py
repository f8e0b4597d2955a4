"""Which of the states that go round the channels are in."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.chain import State
from tickstone.core.emit.code import Code, Emitted, EmittedLane
from tickstone.core.emit.terms import NOTHING, Kind, all_of, pick, real
from tickstone.core.one_sample import one_sample
from tickstone.core.quantity import Quantity
from tickstone.core.signal import Signal
from tickstone.core.stages.code_steps import codes_of, place_in, places_of
from tickstone.core.status import Status
from tickstone.core.step import Operand, Reading, Step

STATE = Quantity("state of the switches", "", decimals=0)


@dataclass(frozen=True, slots=True)
class CodeState:
    """Levels to the number of their state, 1 to the length of the cycle, whenever it changes.

    A code that cannot be has no number, and is flagged. cycle: see `CodeSteps`.
    State: the place it was in last, -1 of a code that cannot be, None before the first.

    >>> from tickstone.core.stages.code_steps import COMMUTATION_120
    >>> levels = Signal.of(range(4), [[1, 1, 1, 1], [0, 0, 0, 1], [1, 1, 0, 1]],
    ...                    STATE.in_lanes("A", "B", "C"))
    >>> state, _ = CodeState(COMMUTATION_120).run(None, levels)
    >>> state.time_s.tolist(), state.value.tolist(), state.flag.tolist()
    ([0.0, 2.0, 3.0], [1.0, 2.0, nan], [0, 0, 17])
    """

    name: ClassVar[str] = "state"
    own_times: ClassVar[bool] = True

    cycle: tuple[int, ...]

    def gives(self, *taken: Quantity) -> Quantity:
        """A number of a state."""
        return STATE

    def begin(self) -> State:
        """No state yet."""
        return None

    def run(self, state: State, *signals: Signal) -> tuple[Signal, State]:
        """The states of a block, where they change."""
        signal = signals[0]
        good, codes = codes_of(signal)
        at = places_of(self.cycle, len(signal.values))[codes]
        before = np.concatenate(([-2 if state is None else state], at[:-1])) if len(at) else at
        fresh = np.flatnonzero(at != before)
        place = at[fresh]
        values = np.where(place < 0, np.nan, place + 1.0)
        status = np.where(place < 0, Status.NO_STATE, Status.OK).astype(np.uint8)
        after = int(at[-1]) if len(at) else state
        time_s = signal.time_s[good[fresh]]
        return Signal(time_s, values[None], status[None], STATE, signal.until_s), after

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        flow = entering[0]
        last = code.state("last", -2.0, Kind.WHOLE)
        comes, place = code.variable("comes", False), code.variable("place", -1)
        with code.when(all_of([lane.ok for lane in flow.lanes])):
            code.set(place, place_in(code, self.cycle, flow))
            code.set(comes, place.is_not(last))
            code.set(last, place)
        value = pick(place < 0, NOTHING, real(place + 1))
        said = pick(place < 0, Status.NO_STATE, Status.OK)
        return Emitted((EmittedLane(value, said),), flow.at, comes)

    def explain(self, state: State, *readings: Reading) -> Step:
        """One state."""
        lanes = readings[0].lanes
        result, _ = self.run(None, one_sample(readings[0]))
        status = Status(int(result.flag[0]))
        levels = "".join(str(int(lane.value > 0.5)) for lane in lanes)
        names = "".join(readings[0].quantity.lanes)
        return Step(
            stage=self.name,
            label="state",
            sign="∈",
            operand=Operand(None, "", 0.0, levels),
            formula=f"{names} high or low",
            filled=f"{names} = {levels}",
            value=float(result.value[0]),
            quantity=STATE,
            status=status,
            components=(),
            source="the order in which the channels change; common practice",
            note=status.remark,
        )
