"""What turns, once its edges are known: turns a minute, road speed, distance, acceleration."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any, ClassVar

from tickstone.core.calibration.gear import GearKind
from tickstone.core.calibration.kind import CalibrationKind
from tickstone.core.calibration.magnet_spacing import MagnetSpacingKind
from tickstone.core.calibration.roll_out import RollOutKind
from tickstone.core.chain import Chain, ChainInput, Node, Stage
from tickstone.core.chains.kind import ChainKind, Output
from tickstone.core.checks.kind import CheckKind
from tickstone.core.checks.speed_display import SpeedDisplay
from tickstone.core.checks.turn_reference import AgainstReference
from tickstone.core.digests.kind import DigestKind
from tickstone.core.digests.trip import Trip
from tickstone.core.inputs import Choice, check_inputs, choice, number, words
from tickstone.core.quantity import ACCELERATION, DISTANCE, FREQUENCY, SPEED, TURN_RATE
from tickstone.core.reading_units import MILLISECONDS, SMALL_LENGTH
from tickstone.core.rules.kind import RuleKind
from tickstone.core.rules.speed_limit import SpeedLimit
from tickstone.core.stages.better_rate import BetterRate
from tickstone.core.stages.direction import DIRECTION, Direction
from tickstone.core.stages.gate_rate import GateRate
from tickstone.core.stages.magnitude import Magnitude
from tickstone.core.stages.period_rate import PeriodRate
from tickstone.core.stages.rate_of_change import RateOfChange
from tickstone.core.stages.ratio import Ratio
from tickstone.core.stages.roll_out import RollOut
from tickstone.core.stages.slow_watch import SlowWatch
from tickstone.core.stages.spacing import Spacing
from tickstone.core.stages.travelled import Travelled
from tickstone.core.stages.untouched import Untouched
from tickstone.core.status import Status
from tickstone.core.surroundings import Surroundings
from tickstone.core.tyres import SIZE_DOUBT, tyre_size
from tickstone.core.uncertainty import rectangular

ROAD_OUTPUTS = (
    Output("rpm", "Turns", TURN_RATE),
    Output("speed", "Speed", SPEED),
    Output("distance", "Distance", DISTANCE),
    Output("acceleration", "Acceleration", ACCELERATION),
    Output("frequency", "Pulses", FREQUENCY),
    Output("limit", "Limit", SpeedLimit.decision),
)
PACE = "pace"
"""The node of a speed without its sign."""
DIRECTION_OUTPUT = Output("direction", "Direction", DIRECTION)


@dataclass(frozen=True, slots=True)
class TurningParameters:
    """What is known of what turns, however it is heard. Times s, lengths m.

    The defaults are common practice, but for the doubt of the spacing, which is from memory.

    Raises ValueError naming the first parameter that cannot be.
    """

    tick_us: float = number(
        "Timer tick", "µs", 4.0, 0.0, 1e6, "4 µs on the common 8-bit boards", node="pulse"
    )
    method: str = choice(
        "Measure by",
        (
            Choice("auto", "whichever doubts less"),
            Choice("period", "the time of one period"),
            Choice("gate", "counting in a gate"),
        ),
        node="better",
    )
    gate_s: float = number(
        "Gate open for", "s", 1.0, 0.001, 86_400.0, node="better", shown_as=MILLISECONDS, decimals=0
    )
    slow_after_s: float = number(
        "Slow after", "s", 2.0, 0.05, 600.0, "no pulse for this long", node="slow", decimals=1
    )
    spacing_percent: float = number(
        "Evenly spaced to, ±", "%", 3.0, 0.0, 50.0, "of a gap, for more than one a turn",
        node="spacing", decimals=1,
    )  # fmt: skip
    wheel_m: float = number(
        "Wheel, across", "m", 0.15, 0.001, 20.0, node="speed", shown_as=SMALL_LENGTH, decimals=1
    )
    wheel_tolerance_m: float = number(
        "Known to, ±", "m", 0.002, 0.0, 1.0, node="speed", shown_as=SMALL_LENGTH, decimals=1
    )
    tyre: str = words(
        "Tyre", "", "size as printed, such as 47-622; stands in for what is measured across",
        node="speed", is_rare=True,
    )  # fmt: skip
    gear: float = number(
        "Wheel turns per turn", "", 1.0, 1e-4, 1e4, "of what the magnets sit on", node="speed"
    )
    change_s: float = number(
        "Change over", "s", 0.5, 0.01, 60.0, "longer is calmer, and later by half of it",
        node="acceleration", decimals=2,
    )  # fmt: skip

    def __post_init__(self) -> None:
        self.check()

    def check(self) -> None:
        """Raises ValueError naming the first that cannot be."""
        check_inputs(self)
        if self.tyre.strip():
            try:
                tyre_size(self.tyre)
            except ValueError as error:
                raise ValueError(f"tyre: {error}") from error

    @property
    def timing_s(self) -> float:
        """A timer that counts whole ticks tells a time to half a tick either way."""
        return self.tick_us * 0.5e-6

    @property
    def pulses_a_turn(self) -> int:
        """As many as come in a turn of what is heard."""
        raise NotImplementedError


class Turning(ChainKind):
    """What all kinds share that hear something turn."""

    rules: ClassVar[tuple[RuleKind, ...]] = (SpeedLimit(),)
    checks: ClassVar[tuple[CheckKind, ...]] = (AgainstReference(), SpeedDisplay())
    digests: ClassVar[tuple[DigestKind, ...]] = (Trip(),)
    sample: ClassVar[str] = "lines"
    fine: ClassVar[tuple[Status, ...]] = (Status.SLOW, Status.FIRST_PULSE, Status.NOT_YET)

    def settled(
        self, parameters: TurningParameters, calibrations: Mapping[str, Stage]
    ) -> TurningParameters:
        """The gear as it was counted."""
        counted = calibrations.get(GearKind.name)
        if isinstance(counted, Ratio):
            return replace(parameters, gear=counted.factor)
        return parameters

    def compared_with(
        self,
        calibration: CalibrationKind,
        parameters: Any,
        surroundings: Surroundings,
        calibrations: Mapping[str, Stage],
        forms: Mapping[str, str],
        lanes: Mapping[str, int] | None = None,
    ) -> tuple[Chain, str]:
        """As ever; what looks at `edges` sees those that count, as the way does."""
        chain, node = super().compared_with(
            calibration, parameters, surroundings, calibrations, forms, lanes
        )
        if node != "edges":
            return chain, node
        way = next((one for one in chain.nodes if one.name == "travelled"), None)
        if way is None:
            raise ValueError("there are no pulses left in this recording to count")
        return chain, way.after[0]

    def decides_on(self, chain: Chain, rule: RuleKind) -> str:
        """As ever; whichever way it turns, where its speed has a sign."""
        if any(one.name == PACE for one in chain.nodes):
            return PACE
        return super().decides_on(chain, rule)

    def remedy(self, source: str) -> str:
        """For timing, spacing and wheel."""
        return {
            "edge timing": "Letting the board time the edges itself, with an interrupt,",
            "one pulse more or less": "A longer gate, or measuring by period,",
            "magnet spacing": "Learning the spacing, or measuring over whole turns,",
            "wheel": "A roll-out along a tape",
            "tyre size": "A roll-out along a tape",
            "gear": "More turns of the wheel",
            "roll-out": "More turns along the tape",
        }.get(source, "")


@dataclass(frozen=True, slots=True)
class RoadNodes:
    """The end that all these chains share, given what they know.

    turns: makes turns of a rate of pulses. has_sign: whether gaps say which way it turned.
    """

    parameters: TurningParameters
    known: Mapping[str, Stage]
    turns: Stage = field(default_factory=Untouched)
    has_sign: bool = False

    def after_edges(self, entries: Sequence[ChainInput], nodes: Sequence[Node]) -> Chain:
        """From clean edges, the last of `nodes`, all the way."""
        edges, rates = nodes[-1].name, list(nodes)
        if self.parameters.pulses_a_turn > 1:
            rates.append(Node("spacing", self._spacing(), (edges,)))
        rates += self._rates(rates[-1].name)
        way = Node("travelled", self._travelled(), (edges,))
        return self.after_rate(entries, rates, (way,))

    def after_rate(
        self, entries: Sequence[ChainInput], nodes: Sequence[Node], ways: Sequence[Node] = ()
    ) -> Chain:
        """From a rate of pulses, the last of `nodes`. ways: how far it went, where that is known.

        A gate’s rates are a mean each: what is between them has no edges to tell a way by.
        """
        rate = nodes[-1].name
        more = [*nodes, Node("turns", self.turns, (rate,)), *ways]
        outputs = [("frequency", rate), *(("distance", one.name) for one in ways)]
        if self.has_sign:
            more.append(Node("direction", Direction(), (rate,)))
            outputs.append(("direction", "direction"))
        return self._from_turns(entries, more, outputs)

    def late(self, entries: Sequence[ChainInput], node: str) -> Chain:
        """From a turn rate or a speed that somebody else worked out."""
        entering = Node(node, Untouched(), (entries[0].at,))
        if node == "speed":
            return self._from_speed(entries, [entering], [])
        return self._from_turns(entries, [entering], [])

    def _from_turns(
        self,
        entries: Sequence[ChainInput],
        nodes: list[Node],
        outputs: list[tuple[str, str]],
    ) -> Chain:
        wheel, gear = wheel_of(self.parameters, self.known), self._counted_gear()
        if gear is None:
            nodes = [*nodes, Node("speed", wheel.speed(self.parameters.gear), ("turns",))]
        else:
            more = (Node("gear", gear, ("turns",)), Node("speed", wheel.speed(1.0), ("gear",)))
            nodes = [*nodes, *more]
        return self._from_speed(entries, nodes, [*outputs, ("rpm", "turns")])

    def _counted_gear(self) -> Ratio | None:
        known = self.known.get(GearKind.name)
        return known if isinstance(known, Ratio) else None

    def _from_speed(
        self,
        entries: Sequence[ChainInput],
        nodes: list[Node],
        outputs: list[tuple[str, str]],
    ) -> Chain:
        change = RateOfChange(self.parameters.change_s, ACCELERATION)
        nodes = [*nodes, Node("acceleration", change, ("speed",))]
        outputs = [*outputs, ("speed", "speed"), ("acceleration", "acceleration")]
        if self.has_sign:
            nodes.append(Node(PACE, Magnitude(), ("speed",)))
        order = [one.name for one in (*ROAD_OUTPUTS, DIRECTION_OUTPUT)]
        outputs.sort(key=lambda one: order.index(one[0]))
        return Chain(tuple(entries), tuple(nodes), tuple(outputs))

    def _rates(self, edges: str) -> list[Node]:
        method: Any = self.parameters.method
        gate_s = self.parameters.gate_s
        by_period = Node("period", PeriodRate(), (edges,))
        by_gate = Node("gate", GateRate(gate_s), (edges,))
        ways = {"period": (by_period,), "gate": (by_gate,)}.get(method, (by_period, by_gate))
        entering = tuple(node.name for node in ways) + ((edges,) if len(ways) > 1 else ())
        return [
            *ways,
            Node("better", BetterRate(method, gate_s), entering),
            Node("slow", SlowWatch(self.parameters.slow_after_s), ("better",)),
        ]

    def _spacing(self) -> Stage:
        """A spacing learnt for another number of pulses a turn says nothing here."""
        known, pulses = self.known.get(MagnetSpacingKind.name), self.parameters.pulses_a_turn
        if known is not None and (not isinstance(known, Spacing) or known.pulses == pulses):
            return known
        share = self.parameters.spacing_percent / 100.0
        return Spacing(
            pulses, rectangular(share), basis=f"each gap within ± {100.0 * share:g} % of even"
        )

    def _travelled(self) -> Travelled:
        wheel, gear = wheel_of(self.parameters, self.known), self._counted_gear()
        ratio = self.parameters.gear if gear is None else gear.factor
        per_pulse = wheel.circumference_m * ratio / self.parameters.pulses_a_turn
        of_wheel = wheel.u_m / wheel.circumference_m
        of_gear = 0.0 if gear is None else gear.u / gear.factor
        part = wheel.part if of_wheel >= of_gear else "gear"
        u_m = per_pulse * math.hypot(of_wheel, of_gear)
        return Travelled(per_pulse, u_m, part, wheel.basis)


def wheel_of(parameters: TurningParameters, known: Mapping[str, Stage]) -> RollOut:
    """What a turn rolls: as it was calibrated, as its tyre’s size says, or π times what was
    measured across it.
    """
    stage = known.get(RollOutKind.name)
    if isinstance(stage, RollOut):
        return stage
    if parameters.tyre.strip():
        around_m = tyre_size(parameters.tyre).roll_out_m
        return RollOut(
            around_m,
            rectangular(SIZE_DOUBT * around_m),
            "tyre size",
            "π·(rim + 2·width) of ISO 5775; tread, pressure and load from memory",
        )
    return RollOut(
        math.pi * parameters.wheel_m,
        math.pi * rectangular(parameters.wheel_tolerance_m),
        "wheel",
        "π times what was measured across it",
    )
