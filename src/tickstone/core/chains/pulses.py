"""Pulses of a turning thing: from edges to turns a minute, road speed and distance."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import ClassVar, cast

import numpy as np

from tickstone.core.calibration.gear import GearKind
from tickstone.core.calibration.kind import CalibrationKind
from tickstone.core.calibration.magnet_spacing import MagnetSpacingKind
from tickstone.core.calibration.per_turn import PerTurnKind, pulses_to_turns
from tickstone.core.calibration.roll_out import RollOutKind
from tickstone.core.calibration.strip import StripKind
from tickstone.core.chain import Chain, ChainInput, Node, Stage
from tickstone.core.chains.kind import Form, Output, Role
from tickstone.core.chains.turning import ROAD_OUTPUTS, RoadNodes, Turning, TurningParameters
from tickstone.core.finding import Finding
from tickstone.core.findings import share_said
from tickstone.core.inputs import Choice, choice, number, switch, whole
from tickstone.core.quantity import SPEED, TURN_RATE, Quantity
from tickstone.core.reading_units import MILLISECONDS
from tickstone.core.signal import Signal
from tickstone.core.stages.count_edges import CountEdges
from tickstone.core.stages.debounce import Debounce
from tickstone.core.stages.gap_edges import GapEdges
from tickstone.core.stages.gate_counts import GateCounts
from tickstone.core.stages.level_edges import LevelEdges
from tickstone.core.stages.missed_pulse import MissedPulse
from tickstone.core.stages.ratio import Ratio
from tickstone.core.stages.spacing import Spacing
from tickstone.core.stages.time_edges import TimeEdges
from tickstone.core.stages.timed_count_edges import TimedCountEdges
from tickstone.core.status import Status
from tickstone.core.surroundings import Surroundings

PULSE_COUNT = Quantity("pulse count", "", decimals=0)
PULSES_IN_GATE = Quantity("pulses in a gate", "", decimals=0)
PULSE_GAP = Quantity("pulse gap", "s", shown_as=MILLISECONDS, decimals=3)
LEVEL = Quantity("pulse", "", decimals=0)
EDGE = Quantity("edge", "", decimals=0)
CONVERTER = Quantity("converter counts", "", decimals=0)
BOTH = "both"
_TURNS_TO_KNOW = 5


@dataclass(frozen=True, slots=True)
class PulseParameters(TurningParameters):
    """What is known of one channel of pulses. Raises ValueError naming what cannot be."""

    strip_low: float = number(
        "Light below", "", 300.0, 0.0, 1e7, "counts; for a strip read by a converter",
        node="pulse", decimals=0, is_rare=True,
    )  # fmt: skip
    strip_high: float = number(
        "Dark above", "", 600.0, 0.0, 1e7, "counts; for a strip read by a converter",
        node="pulse", decimals=0, is_rare=True,
    )  # fmt: skip
    count_bits: int = whole(
        "Counter wraps at, bits", 16, 0, 32, "of a running count; 0 never wraps",
        (0, 8, 16, 32), node="pulse",
    )  # fmt: skip
    shortest_s: float = number(
        "Shortest gap", "s", 0.0004, 0.0, 10.0, "anything shorter is bounce",
        node="bounce", shown_as=MILLISECONDS, decimals=2,
    )  # fmt: skip
    flags_missed: bool = switch("Tell missed pulses", True, "gaps of two or three", node="missed")
    per_turn: int = whole(
        "Pulses a turn",
        1,
        1,
        10_000,
        "magnets, slots or strips that pass in one turn",
        node="turns",
    )
    edges: str = choice(
        "The program counts",
        (Choice("one", "one edge of each"), Choice(BOTH, "both edges of each")),
        help_text="an interrupt on change counts both, and doubles the reading",
        node="turns",
    )

    def __post_init__(self) -> None:
        self.check()
        if not self.strip_low <= self.strip_high:
            raise ValueError("strip_low: the lower threshold has to lie below the upper one")

    @property
    def pulses_a_turn(self) -> int:
        """As many as the program counts."""
        return self.per_turn * (2 if self.edges == BOTH else 1)


_TIMES = {"µs": 1e-6, "ms": 1e-3, "s": 1.0, "ns": 1e-9}
_FORMS = (
    Form("count", "a running count of pulses", PULSE_COUNT, {"": 1.0, "counts": 1.0}),
    Form("gap", "the gap between two pulses", PULSE_GAP, _TIMES, option="gap-us", is_events=True),
    Form("level", "a level, high or low", LEVEL, {"": 1.0, "V": 1.0}, comes_as="pulse"),
    Form(
        "changes",
        "a level, written down whenever it changes",
        LEVEL,
        {"": 1.0, "V": 1.0},
        comes_as="pulse changes",
        is_events=True,
    ),
    Form("gate", "pulses counted in a gate, time after time", PULSES_IN_GATE, {"": 1.0}),
    Form("edges", "an edge a line", EDGE, {"": 1.0}, comes_as="edge", is_events=True),
    Form("strip", "counts of a strip sensor", CONVERTER, {"": 1.0, "counts": 1.0}),
    Form(
        "turn-rate",
        "turns a minute, already worked out",
        TURN_RATE,
        {"RPM": 1.0 / 60.0},
        late="turns",
        loses=(
            "The pulses are gone: bounce, missed pulses and uneven magnets cannot be told any "
            "more, and a wrong number of pulses a turn stays in every reading."
        ),
        comes_as="revolutions",
    ),
    Form(
        "speed",
        "a speed, already worked out",
        SPEED,
        {"m/s": 1.0, "km/h": 1.0 / 3.6, "mph": 0.44704},
        late="speed",
        loses=(
            "The pulses are gone, and with them the turns: what the program took for the wheel "
            "stays in every reading."
        ),
    ),
)


class Pulses(Turning):
    """Hall switches, slotted and reflective encoders, roll wheels: one channel.

    >>> from tickstone.core.air.conditions import AirConditions
    >>> chain = Pulses().build(
    ...     PulseParameters(), Surroundings(AirConditions(20.0)), forms={"pulses": "gap"})
    >>> steps = chain.explain(Signal.of([0.0], [0.25641], PULSE_GAP), 0, "turns")
    >>> round(steps[-1].value * 60.0, 1), steps[-1].quantity.name
    (234.0, 'turn rate')
    """

    name: ClassVar[str] = "pulses"
    label: ClassVar[str] = "Pulses of a turning thing"
    parameters: ClassVar[type] = PulseParameters
    roles: ClassVar[tuple[Role, ...]] = (
        Role("pulses", "Pulses", _FORMS, ("hall", "wheel", "pulses", "count", "gap", "rpm")),
        Role("gap", "Gap beside a count", _FORMS[1:2], ("gap", "period"), is_needed=False),
    )
    outputs: ClassVar[tuple[Output, ...]] = ROAD_OUTPUTS
    calibrations: ClassVar[tuple[CalibrationKind, ...]] = (
        RollOutKind(),
        MagnetSpacingKind(),
        PerTurnKind(),
        GearKind(),
        StripKind(),
    )

    def build(
        self,
        parameters: PulseParameters,
        surroundings: Surroundings,
        calibrations: Mapping[str, Stage] | None = None,
        forms: Mapping[str, str] | None = None,
        lanes: Mapping[str, int] | None = None,
    ) -> Chain:
        """Pulses as they come to turn rate, speed and distance."""
        form, entry = self.role("pulses").entry(forms, lanes)
        entries = [entry]
        if "gap" in (forms or {}) and form.name == "count":
            entries.append(ChainInput("gap", PULSE_GAP))
        known = calibrations or {}
        parameters = self.settled(parameters, known)
        if form.late:
            tail = RoadNodes(parameters, known)
            return tail.late(entries, form.late)
        turns = known.get(PerTurnKind.name) or pulses_to_turns(
            float(parameters.pulses_a_turn),
            "both edges" if parameters.edges == BOTH else "one edge each",
            "common practice",
        )
        tail = RoadNodes(parameters, known, turns)
        if form.name == "gate":
            gate = Node("gate", GateCounts(parameters.gate_s), (entries[0].at,))
            return tail.after_rate(entries, [gate])
        first = self._edges_stage(form, parameters, is_timed=len(entries) > 1)
        if form.name == "strip":
            first = known.get(StripKind.name) or first
        nodes = [
            Node("pulse", first, tuple(entry.at for entry in entries)),
            Node("bounce", Debounce(parameters.shortest_s), ("pulse",)),
            Node("missed", MissedPulse(parameters.flags_missed), ("bounce",)),
        ]
        return tail.after_edges(entries, nodes)

    @staticmethod
    def _edges_stage(form: Form, parameters: PulseParameters, is_timed: bool) -> Stage:
        timing_s = parameters.timing_s
        if is_timed:
            return TimedCountEdges(parameters.count_bits, timing_s, parameters.shortest_s)
        if form.name == "count":
            return CountEdges(parameters.count_bits)
        if form.name == "gap":
            return GapEdges(timing_s)
        if form.name == "edges":
            return TimeEdges(timing_s)
        low, high = (
            (parameters.strip_low, parameters.strip_high) if form.name == "strip" else (0.5, 0.5)
        )
        return LevelEdges(low, high, is_exact=form.name == "changes", timing_s=timing_s)

    def settled(
        self, parameters: TurningParameters, calibrations: Mapping[str, Stage]
    ) -> PulseParameters:
        """Gear, and pulses a turn, as they were counted by hand, whichever edges those were."""
        parameters = cast(PulseParameters, super().settled(parameters, calibrations))
        counted = calibrations.get(PerTurnKind.name)
        if not isinstance(counted, Ratio):
            return parameters
        return replace(parameters, per_turn=round(counted.factor), edges="one")

    def grounds(self, parameters: PulseParameters) -> dict[str, float | str]:
        """Pulses a turn, and the gear."""
        return {"pulses a turn": float(parameters.pulses_a_turn), "gear": parameters.gear}

    def findings(
        self, parameters: PulseParameters, surroundings: Surroundings, signal: Signal | None
    ) -> Sequence[Finding]:
        """Bounce, missed pulses, and that one channel cannot know direction."""
        found = [] if signal is None else _flag_findings(signal)
        if parameters.edges == BOTH:
            found.append(
                Finding(
                    "note",
                    "Both edges of every pulse are counted.",
                    f"So {parameters.pulses_a_turn} counts make a turn. Had only one edge been "
                    "counted, every reading would be half of the truth.",
                    "",
                )
            )
        found.append(
            Finding(
                "note",
                "One channel cannot know direction.",
                "Rolling back counts like rolling on, in turns, speed and distance.",
                "A second sensor a quarter of a gap beside the first tells it.",
            )
        )
        return found

    def raw_for(
        self,
        value: float,
        parameters: PulseParameters,
        surroundings: Surroundings,
        calibrations: Mapping[str, Stage] | None = None,
    ) -> dict[str, Signal] | None:
        """Two edges, as far apart as that turn rate has them; or a few turns of the magnets as they
        were learnt to sit, so that which of them passes is known.
        """
        if not value > 0.0:
            return None
        parameters = self.settled(parameters, calibrations or {})
        gaps = np.array([1.0 / (value * parameters.pulses_a_turn)])
        spacing = (calibrations or {}).get(MagnetSpacingKind.name)
        if isinstance(spacing, Spacing) and spacing.pulses == parameters.pulses_a_turn:
            gaps = np.tile(np.array(spacing.shares) / value, _TURNS_TO_KNOW)
        return {"pulses": Signal.of(np.cumsum(gaps), gaps, PULSE_GAP)}


def _flag_findings(signal: Signal) -> list[Finding]:
    if not (signal.flag != Status.SLOW).any():
        return [
            Finding(
                "error",
                "No pulse came.",
                "It stood still, or no magnet passes near enough, or the lead is not wired: from "
                "here the three look alike.",
                "Turn it by hand once, and see whether the lamp or the count moves.",
            )
        ]
    found = []
    for status, titles, why, remedy in (
        (
            Status.BOUNCE,
            ("pulse is bounce", "pulses are bounce"),
            "They come sooner after another than the shortest gap: the switch chatters, or a "
            "wire picks something up. They are not counted.",
            "A capacitor of 100 nF at the pin, or a longer shortest gap.",
        ),
        (
            Status.MISSED_PULSE,
            ("gap is that of two or three pulses", "gaps are those of two or three pulses"),
            "A pulse was not heard there: a magnet too far away, or the program busy. The way "
            "takes them in, the rate is flagged.",
            "Bring the sensor nearer; let an interrupt count.",
        ),
        (
            Status.LINE_GAP,
            ("time nothing came over the line", "times nothing came over the line"),
            "What passed meanwhile is in no reading, and the way is short by it.",
            "Let the board count by itself, and send the count.",
        ),
        (
            Status.RAN_BACK,
            ("time the count ran back", "times the count ran back"),
            "The board was reset, or its counter wraps at fewer bits than is set.",
            "Set how many bits its counter has, in the first cell.",
        ),
    ):
        number_of = int(np.count_nonzero(signal.flag == status))
        if number_of:
            share = share_said(number_of, len(signal))
            severity = "warning" if number_of > 0.02 * len(signal) else "note"
            found.append(
                Finding(
                    severity,
                    f"{number_of} {titles[number_of > 1]}.",
                    f"{share[:1].upper()}{share[1:]}. {why}",
                    remedy,
                )
            )
    return found
