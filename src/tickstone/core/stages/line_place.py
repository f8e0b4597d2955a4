"""Where the middle of the line lies under a row of sensors, by a weighted mean of their places."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.chain import Pointwise, State
from tickstone.core.emit.code import Code, Emitted, EmittedLane
from tickstone.core.emit.terms import (
    NOTHING,
    Given,
    Name,
    Term,
    any_of,
    floor,
    is_number,
    pick,
    whole,
)
from tickstone.core.line_row import FLOOR, Row, above_floor, reading_of, spread_m
from tickstone.core.one_sample import one_sample
from tickstone.core.quantity import PLACE, Quantity
from tickstone.core.reading_units import small_length
from tickstone.core.signal import FloatArray, Signal
from tickstone.core.stages.line_situation import (
    BLIND,
    LIFTED,
    LINE,
    LOST,
    LOST_LEFT,
    LOST_RIGHT,
    SEVERAL,
    SITUATION,
)
from tickstone.core.status import Status
from tickstone.core.step import Operand, Reading, Step
from tickstone.core.uncertainty import Component

_HIDDEN = "gap between sensors"


@dataclass(frozen=True, slots=True)
class LinePlace(Pointwise):
    """From lightness and situation: Σ wₖ·xₖ ÷ Σ wₖ, where wₖ is how far sensor k is on the line,
    and from that mean to where a line of this width lies.

    row: of sensors. line_is_dark: or light, on dark. middle_m: of the row, to the right of the
    cart's. noise: standard deviation of a lane, a share. is_flipped: whether the first lane is the
    rightmost.
    Lost, the place is where the line leaves the row on the side it was seen last.

    >>> from tickstone.core.quantity import LIGHTNESS
    >>> stage = LinePlace(Row((-0.02, 0.0, 0.02), 0.02, 0.02), True, 0.0, 0.01)
    >>> light = Signal.of([0, 1], [[1, 1], [0, 0.5], [1, 0.5]], LIGHTNESS.in_lanes(*"123"))
    >>> on = Signal.of([0, 1], [0, 0], SITUATION)
    >>> (stage.apply(light, on).value.round(3) + 0.0).tolist()
    [0.0, 0.01]
    """

    name: ClassVar[str] = "position"

    row: Row
    line_is_dark: bool
    middle_m: float
    noise: float
    is_flipped: bool = False

    def gives(self, *taken: Quantity) -> Quantity:
        """A place. Raises ValueError when the row has other sensors."""
        if len(taken[0].lanes) != len(self.row.places_m):
            raise ValueError(
                f"{len(self.row.places_m)} places are told, but {len(taken[0].lanes)} sensors are "
                "heard"
            )
        return PLACE

    @property
    def edge_m(self) -> float:
        """How far from the middle of the row the middle of a line lies that just left it: under
        half of the outermost sensor.
        """
        half = (self.row.places_m[-1] - self.row.places_m[0]) / 2.0
        return half + self.row.line_m / 2.0

    def _means(self, lightness: FloatArray) -> FloatArray:
        """The weighted mean of each sample, NaN where nothing is on the line."""
        share = np.subtract(1.0, lightness) if self.line_is_dark else lightness.copy()
        share = above_floor(share)
        both = np.stack([self.row.of_lanes(self.is_flipped), np.ones(len(share))]) @ share
        total = both[1]
        with np.errstate(divide="ignore", invalid="ignore"):
            mean: FloatArray = both[0] / total
        return mean

    def apply(self, *signals: Signal) -> Signal:
        """The place at each sample."""
        light, situation = signals
        self.gives(light.quantity)
        known = reading_of(self.row, self.noise)
        mean = self._means(light.values)
        value = np.interp(mean, known.mean_m, known.place_m)
        value[np.isnan(mean)] = np.nan
        value += self.middle_m
        status = np.zeros(len(value), dtype=np.uint8)
        what = situation.value
        if (what != LINE).any() or light.status.any() or np.isnan(value).any():
            self._judge(value, status, what, light, situation)
        return Signal(light.time_s, value[None], status[None], PLACE, light.until_s)

    def _judge(
        self,
        value: FloatArray,
        status: np.ndarray,
        what: FloatArray,
        light: Signal,
        situation: Signal,
    ) -> None:
        """Flag what is no place, and say what is known instead."""
        middle = self.middle_m + (self.row.places_m[0] + self.row.places_m[-1]) / 2.0
        unheard = np.isnan(light.values).any(axis=0)
        if unheard.any():
            where = np.flatnonzero(unheard)
            lanes = np.argmax(np.isnan(light.values[:, where]), axis=0)
            value[where], status[where] = np.nan, light.status[lanes, where]
        flooded = (light.status == Status.FLOODED).any(axis=0)
        status[flooded & (status == 0)] = Status.FLOODED
        status[what == SEVERAL] = Status.SEEN_TWICE
        for state, side in ((LOST_LEFT, -1.0), (LOST_RIGHT, 1.0), (LOST, math.nan)):
            here = what == state
            value[here], status[here] = middle + side * self.edge_m, Status.LOST
        over = (what > SEVERAL) & (what < LOST_LEFT)
        value[over], status[over] = np.nan, Status.ALL_ON_LINE
        lifted = what == LIFTED
        value[lifted], status[lifted] = np.nan, Status.LIFTED
        blind = what == BLIND
        value[blind], status[blind] = np.nan, situation.flag[blind]
        none = np.isnan(value) & (status == 0)
        status[none] = Status.LOST

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        light, situation = entering
        places = self.row.of_lanes(self.is_flipped).tolist()
        total, moment = code.variable("total", 0.0), code.variable("moment", 0.0)
        for lane, place in zip(light.lanes, places, strict=True):
            raw = 1.0 - lane.value if self.line_is_dark else lane.value
            over = code.let("over", (raw - FLOOR) * (1.0 / (1.0 - FLOOR)))
            on = code.let("on", pick(over < 0.0, 0.0, over))
            code.set(total, total + on)
            code.set(moment, moment + on * place)
        value = code.variable("place", self._emitted_place(code, moment / total))
        status = code.variable("flag", Status.OK)
        self._emitted_judgement(code, value, status, light, situation)
        return light.of(EmittedLane(value, status))

    def _emitted_place(self, code: Code, mean: Term) -> Term:
        """Where the line lies by the mean: a table, evenly spaced, and straight in between."""
        known = reading_of(self.row, self.noise)
        table = code.table("place_of", known.place_m.tolist())
        last = len(known.mean_m) - 1
        if last == 0:
            return pick(is_number(mean), table[0] + self.middle_m, NOTHING)
        step = (known.mean_m[-1] - known.mean_m[0]) / last
        at = code.let("at", (mean - float(known.mean_m[0])) / float(step))
        held = code.let("held", pick(at < 0.0, 0.0, pick(at > float(last), float(last), at)))
        below = code.let("below", pick(held < float(last), floor(held), float(last - 1)))
        index = code.let("index", whole(pick(is_number(below), below, 0.0)))
        low, high = table[index], table[index + 1]
        return low + (high - low) * (held - below) + self.middle_m

    def _emitted_judgement(
        self, code: Code, value: Name, status: Name, light: Emitted, situation: Emitted
    ) -> None:
        """The same as `_judge`."""
        middle = self.middle_m + (self.row.places_m[0] + self.row.places_m[-1]) / 2.0
        what = situation.value

        def judged(condition: Term, said: Given, verdict: Given) -> None:
            with code.when(condition):
                code.set(value, said)
                code.set(status, verdict)

        for lane in reversed(light.lanes):
            judged(~is_number(lane.value), NOTHING, lane.status)
        flooded = any_of([one.status.is_(Status.FLOODED) for one in light.lanes])
        code.set(status, pick(flooded & status.is_(Status.OK), Status.FLOODED, status))
        code.set(status, pick(what.is_(float(SEVERAL)), Status.SEEN_TWICE, status))
        for state, side in ((LOST_LEFT, -1.0), (LOST_RIGHT, 1.0)):
            judged(what.is_(float(state)), middle + side * self.edge_m, Status.LOST)
        judged(what.is_(float(LOST)), NOTHING, Status.LOST)
        over = (what > float(SEVERAL)) & (what < float(LOST_LEFT))
        judged(over, NOTHING, Status.ALL_ON_LINE)
        judged(what.is_(float(LIFTED)), NOTHING, Status.LIFTED)
        judged(what.is_(float(BLIND)), NOTHING, situation.status)
        code.set(status, pick(~is_number(value) & status.is_(Status.OK), Status.LOST, status))

    def explain(self, state: State, *readings: Reading) -> Step:
        """One place: the mean, and where a line that gives it lies."""
        light, situation = readings
        signals = [one_sample(one) for one in readings]
        result = self.apply(*signals)
        value, status = float(result.value[0]), Status(int(result.flag[0]))
        mean = float(self._means(signals[0].values)[0])
        parts: tuple[Component, ...] = ()
        filled = status.word if status != Status.OK else ""
        is_seen = int(situation.value) in (LINE, SEVERAL) and math.isfinite(mean)
        if is_seen and math.isfinite(value):
            parts = self._budget(light, mean, value)
            filled = f"mean {small_length(mean, 1)} → {small_length(value, 1)}"
        elif status == Status.LOST and math.isfinite(value):
            filled = (
                f"{SITUATION.states[int(situation.value)].word}: beyond {small_length(value, 0)}"
            )
        return Step(
            stage=self.name,
            label="weighted mean",
            sign="∑",
            operand=Operand(None, "", 0.0, _pictured(light, self.line_is_dark)),
            formula="Σ wₖ·xₖ ÷ Σ wₖ, then where a line of this width gives that mean",
            filled=filled,
            value=value,
            quantity=PLACE,
            status=status,
            components=parts,
            source="weighted mean: common practice; its steps evened out by the row’s geometry",
            note=status.remark,
            below=f"mean {small_length(mean, 1)}" if math.isfinite(mean) else "",
        )

    def _budget(self, light: Reading, mean: float, value: float) -> tuple[Component, ...]:
        """The ±: 95 of 100 lines that give this mean lie within it. What the lanes do not account
        for lies between the sensors, where no edge is seen.
        """
        share = np.array(
            [1.0 - one.value if self.line_is_dark else one.value for one in light.lanes]
        )
        on = above_floor(share.copy())
        total = float(on.sum())
        levers = np.where(on > 0.0, self.row.of_lanes(self.is_flipped) - mean, 0.0)
        known = reading_of(self.row, self.noise)
        step = 1e-5
        ends = np.interp([mean - step, mean + step], known.mean_m, known.place_m)
        slope = float(ends[1] - ends[0]) / (2.0 * step)
        by_name: dict[str, list[Component]] = {}
        shared: dict[str, float] = {}
        for lane, lever in zip(light.lanes, levers.tolist(), strict=True):
            scale = lever / (total * (1.0 - FLOOR)) * slope * (-1.0 if self.line_is_dark else 1.0)
            for part in lane.components:
                name = part.name.rpartition(" ")[0] or part.name
                if part.shared:
                    shared[part.name] = shared.get(part.name, 0.0) + part.contribution * scale
                    by_name.setdefault(part.name, [part])
                else:
                    by_name.setdefault(name, []).append(part.through(scale))
        parts = []
        for name, found in by_name.items():
            first = found[0]
            size = shared.get(name)
            if size is None:
                size = math.sqrt(math.fsum(one.contribution**2 for one in found))
            if size != 0.0:
                parts.append(
                    Component(
                        name, first.u_input, first.input_unit, size, first.shared, first.basis
                    )
                )
        whole = spread_m(self.row, self.noise, mean, value - self.middle_m) / 2.0
        so_far = math.sqrt(math.fsum(one.contribution**2 for one in parts))
        if so_far < whole:
            rest = math.sqrt(whole**2 - so_far**2)
            basis = "no edge of the line is under a sensor; by places, line and spot"
            parts.append(Component(_HIDDEN, rest, "m", rest, False, basis))
        return tuple(parts)


def _pictured(light: Reading, line_is_dark: bool) -> str:
    """How far each sensor is on the line, as blocks that rise."""
    blocks = "▁▂▃▄▅▆▇█"
    shares = [1.0 - lane.value if line_is_dark else lane.value for lane in light.lanes]
    return "".join(
        blocks[round(7 * min(1.0, max(0.0, one)))] if math.isfinite(one) else "?" for one in shares
    )
