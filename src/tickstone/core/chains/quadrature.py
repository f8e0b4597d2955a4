"""Two channels a quarter apart: how fast, how far, and which way."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.calibration.gear import GearKind
from tickstone.core.calibration.kind import CalibrationKind
from tickstone.core.calibration.per_turn import pulses_to_turns
from tickstone.core.calibration.roll_out import RollOutKind
from tickstone.core.chain import Chain, Node, Stage
from tickstone.core.chains.kind import Form, Output, Role
from tickstone.core.chains.turning import (
    DIRECTION_OUTPUT,
    ROAD_OUTPUTS,
    RoadNodes,
    Turning,
    TurningParameters,
)
from tickstone.core.finding import Finding
from tickstone.core.inputs import Choice, choice, number, switch, whole
from tickstone.core.quantity import Quantity
from tickstone.core.reading_units import MILLISECONDS
from tickstone.core.signal import Signal
from tickstone.core.stages.code_steps import QUADRATURE, CodeSteps
from tickstone.core.status import Status
from tickstone.core.surroundings import Surroundings

LEVELS = Quantity("pulse", "", decimals=0)
_FOUR, _TWO, _ONE = "four", "two", "one"
_EACH = {_FOUR: 1, _TWO: 2, _ONE: 4}


def level_forms(*channels: str) -> tuple[Form, ...]:
    """How levels of several channels may come: read time after time, or at each change."""
    levels, units = LEVELS.in_lanes(*channels), {"": 1.0, "V": 1.0}
    return (
        Form("level", "levels, high or low", levels, units),
        Form(
            "changes", "levels, written down whenever one changes", levels, units,
            comes_as="pulse changes", is_events=True,
        ),
    )  # fmt: skip


@dataclass(frozen=True, slots=True)
class QuadratureParameters(TurningParameters):
    """What is known of two channels. Raises ValueError naming what cannot be."""

    counts: str = choice(
        "Counts a line",
        (
            Choice(_FOUR, "four, every edge"),
            Choice(_TWO, "two, both edges of A"),
            Choice(_ONE, "one, A rising: no ripple from how the channels stand"),
        ),
        node="pulse",
    )
    swapped: bool = switch("Forward is B before A", False, "as when the two are swapped")
    gate_s: float = number(
        "Gate open for", "s", 0.2, 0.001, 86_400.0, node="better", shown_as=MILLISECONDS, decimals=0
    )
    lines: int = whole("Lines a turn", 20, 1, 100_000, "of each channel", node="turns")

    def __post_init__(self) -> None:
        self.check()

    @property
    def pulses_a_turn(self) -> int:
        """Lines times what is counted of each."""
        return self.lines * 4 // _EACH[self.counts]


class Quadrature(Turning):
    """A quadrature encoder: channel A comes a quarter of a line before B, or after it.

    >>> from tickstone.core.air.conditions import AirConditions
    >>> chain = Quadrature().build(
    ...     QuadratureParameters(lines=1), Surroundings(AirConditions(20.0)),
    ...     forms={"channels": "changes"})
    >>> backward = Signal.of([0, 1, 2, 3, 4], [[0, 0, 1, 1, 0], [0, 1, 1, 0, 0]],
    ...                      LEVELS.in_lanes("A", "B"))
    >>> chain.apply(backward, "rpm").value.tolist()
    [nan, -0.25, -0.25, -0.25]
    """

    name: ClassVar[str] = "quadrature"
    label: ClassVar[str] = "Two channels a quarter apart"
    parameters: ClassVar[type] = QuadratureParameters
    roles: ClassVar[tuple[Role, ...]] = (
        Role(
            "channels", "Channels A and B", level_forms("A", "B"), ("a", "b"),
            most_lanes=2, least_lanes=2,
        ),
    )  # fmt: skip
    outputs: ClassVar[tuple[Output, ...]] = (*ROAD_OUTPUTS, DIRECTION_OUTPUT)
    calibrations: ClassVar[tuple[CalibrationKind, ...]] = (RollOutKind(), GearKind())
    fine: ClassVar[tuple[Status, ...]] = (*Turning.fine, Status.REVERSED)

    def build(
        self,
        parameters: QuadratureParameters,
        surroundings: Surroundings,
        calibrations: Mapping[str, Stage] | None = None,
        forms: Mapping[str, str] | None = None,
        lanes: Mapping[str, int] | None = None,
    ) -> Chain:
        """Levels to steps with a sign, and on as every thing that turns."""
        form, entry = self.roles[0].entry(forms, lanes)
        entries = [entry]
        steps = CodeSteps(
            QUADRATURE,
            _EACH[parameters.counts],
            parameters.swapped,
            form.name == "changes",
            parameters.timing_s,
        )
        turns = pulses_to_turns(
            float(parameters.pulses_a_turn), f"{parameters.lines} lines", "common practice"
        )
        tail = RoadNodes(parameters, calibrations or {}, turns, has_sign=True)
        return tail.after_edges(entries, [Node("pulse", steps, (entries[0].at,))])

    def grounds(self, parameters: QuadratureParameters) -> dict[str, float | str]:
        """Counts a turn, and the gear."""
        return {"pulses a turn": float(parameters.pulses_a_turn), "gear": parameters.gear}

    def findings(
        self, parameters: QuadratureParameters, surroundings: Surroundings, signal: Signal | None
    ) -> Sequence[Finding]:
        """Steps that were not seen, and a channel that never changes."""
        return () if signal is None else step_findings(signal)

    def raw_for(
        self,
        value: float,
        parameters: QuadratureParameters,
        surroundings: Surroundings,
        calibrations: Mapping[str, Stage] | None = None,
    ) -> dict[str, Signal] | None:
        """Twice round all four, as far apart as that turn rate has them."""
        levels = stepping(QUADRATURE, 4.0 * value * parameters.lines, parameters.slow_after_s)
        return None if levels is None else {"channels": levels}


def stepping(cycle: tuple[int, ...], steps_hz: float, slow_after_s: float) -> Signal | None:
    """Levels that go round the cycle twice and one step more; backward below 0. None when slow.

    >>> levels = stepping(QUADRATURE, 4.0, 2.0)
    >>> levels.values.astype(int).tolist()[0], float(levels.time_s[-1])
    ([0, 1, 1, 0, 0, 1, 1, 0, 0], 2.0)
    """
    if not abs(steps_hz) * slow_after_s > len(cycle):
        return None
    count = 2 * len(cycle) + 1
    way = 1 if steps_hz > 0.0 else -1
    codes = np.array([cycle[way * n % len(cycle)] for n in range(count)])
    channels = max(cycle).bit_length()
    levels = [codes >> n & 1 for n in range(channels)]
    return Signal.of(np.arange(count) / abs(steps_hz), levels, LEVELS.in_lanes(*"ABC"[:channels]))


def step_findings(signal: Signal) -> list[Finding]:
    """What steps with a sign say of the wiring and of how often they are read."""
    if not (signal.flag != Status.SLOW).any():
        return [
            Finding(
                "error",
                "No step came.",
                "It stood still, or no channel ever changed: from here the two look alike.",
                "Turn it by hand, and see whether every channel goes high and low.",
            )
        ]
    found = []
    for status, title, why, remedy in (
        (
            Status.SKIPPED_STEP,
            "Steps were not seen.",
            "Two came between one look and the next. Where it can have gone either way it is taken "
            "to go on as before, so the way may be off.",
            "Let an interrupt look at every channel, or look more often.",
        ),
        (
            Status.LINE_GAP,
            "Nothing came over the line for a while.",
            "Steps that came meanwhile are in no reading, and the way is off by them.",
            "Let the board count by itself, and send the count.",
        ),
        (
            Status.NO_STATE,
            "The channels stood as they never can.",
            "One of them is not wired, is stuck, or sits where it does not belong.",
            "Turn it by hand slowly and watch each channel by itself.",
        ),
    ):
        number_of = int(np.count_nonzero(signal.flag == status))
        if number_of:
            severity = "warning" if number_of > 0.01 * len(signal) else "note"
            times = "Once" if number_of == 1 else f"{number_of} times"
            found.append(Finding(severity, title, f"{times}. {why}", remedy))
    turned = int(np.count_nonzero(signal.flag == Status.REVERSED))
    if turned > 0.3 * len(signal):
        found.append(
            Finding(
                "warning",
                "It turns round at nearly every step.",
                "It trembles on an edge, or only one of the channels changes.",
                "Turn it on by hand: both channels have to go high and low in turn.",
            )
        )
    return found
