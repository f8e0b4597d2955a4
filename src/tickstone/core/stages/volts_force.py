"""Volts of an analogue accelerometer to what it feels, axis by axis."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.chain import Pointwise, State
from tickstone.core.doubt import Sources, lane_of
from tickstone.core.emit.code import Code, Emitted
from tickstone.core.quantity import FORCE, Quantity
from tickstone.core.reading_units import STANDARD_GRAVITY_M_PER_S2
from tickstone.core.signal import Signal
from tickstone.core.step import Lane, Operand, Reading, Step
from tickstone.core.uncertainty import Component

Three = tuple[float, float, float]


@dataclass(frozen=True, slots=True)
class VoltsForce(Pointwise):
    """a = (V − V₀)/s·g, with V₀ and s of each axis.

    zero_v: V₀, at 0 g. per_g_v: s, V for each g; negative where the axis points the other way.
    zero_u_v, per_g_u_v: standard uncertainties. label: what they rest on. supply_share: standard
    uncertainty of the part's supply as a share, to which both are in proportion; where the
    converter's reference is that same supply, `supply_is` bears its name, and it cancels.
    absorbs_shared: whether zero and scale were measured through the converter that reads now.

    Raises ValueError when an axis has no scale.

    >>> stage = VoltsForce((1.65,) * 3, (0.33,) * 3)
    >>> stage.apply(Signal.of([0], [[1.65], [1.98], [1.32]], FORCE)).values[:, 0].round(4).tolist()
    [0.0, 9.8067, -9.8066]
    """

    name: ClassVar[str] = "force"

    zero_v: Three
    per_g_v: Three
    zero_u_v: Three = (0.0, 0.0, 0.0)
    per_g_u_v: Three = (0.0, 0.0, 0.0)
    label: str = "as stated"
    supply_share: float = 0.0
    supply_is: str = "supply"
    absorbs_shared: bool = False

    def __post_init__(self) -> None:
        if any(not abs(one) > 0.0 for one in self.per_g_v):
            raise ValueError("an axis without volts for each g tells nothing")

    def gives(self, *taken: Quantity) -> Quantity:
        """Specific force, three lanes. Raises ValueError for another number of lanes."""
        if len(taken[0].lanes) != 3:
            raise ValueError("an accelerometer has three axes")
        return FORCE

    def apply(self, *signals: Signal) -> Signal:
        """Every sample of every axis."""
        scale = STANDARD_GRAVITY_M_PER_S2 / np.array(self.per_g_v)
        values = (signals[0].values - np.array(self.zero_v)[:, None]) * scale[:, None]
        return signals[0].replaced(values, quantity=FORCE)

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        """The same for one sample."""
        flow, values = entering[0], []
        for n, lane in enumerate(flow.lanes):
            axis = FORCE.lanes[n]
            zero = code.constant(f"zero_{axis}", self.zero_v[n], "V", self.zero_u_v[n], self.label)
            per_g = code.constant(
                f"per_g_{axis}", self.per_g_v[n], "V", self.per_g_u_v[n], self.label
            )
            values.append((lane.value - zero) * (STANDARD_GRAVITY_M_PER_S2 / per_g))
        return flow.with_values(*values)

    def explain(self, state: State, *readings: Reading) -> Step:
        """One sample of each axis."""
        reading = readings[0]
        lanes = [self._lane(place, lane) for place, lane in enumerate(reading.lanes)]
        g = lanes[0].value / STANDARD_GRAVITY_M_PER_S2
        return Step(
            stage=self.name,
            label="felt",
            sign="÷",
            operand=Operand(self.per_g_v[0] * 1000.0, "mV", 0.0, "for each g"),
            formula="a = (V − V₀)/s",
            filled=(
                f"({reading.value:.4f} V − {self.zero_v[0]:.4f} V) ÷ {self.per_g_v[0]:.4f} V/g = "
                f"{g:.3f} g"
            ),
            value=lanes[0].value,
            quantity=FORCE,
            status=lanes[0].status,
            components=lanes[0].components,
            source="a part whose output goes with its supply; common practice",
            note=lanes[0].status.remark,
            facts=(("zero", f"{self.zero_v[0]:.4f} V"), ("from", self.label)),
            others=tuple(lanes[1:]),
        )

    def _lane(self, place: int, lane: Lane) -> Lane:
        sources, axis = Sources(), FORCE.lanes[place]
        if self.absorbs_shared:
            kept = tuple(part for part in lane.components if not part.shared)
            lane = Lane(lane.value, lane.status, kept)
        zero = Component(f"zero, {axis}", self.zero_u_v[place], "V", 0.0, True, self.label)
        per_g = Component(f"scale, {axis}", self.per_g_u_v[place], "V/g", 0.0, True, self.label)
        share = self.supply_share
        supply = sources.known(
            Component(self.supply_is, share, "", 0.0, True, f"± {200.0 * share:.2g} %"), 1.0
        )
        result = (
            (sources.of(lane) - sources.known(zero, self.zero_v[place]) * supply)
            / (sources.known(per_g, self.per_g_v[place]) * supply)
            * STANDARD_GRAVITY_M_PER_S2
        )
        return lane_of(result, sources, lane)
