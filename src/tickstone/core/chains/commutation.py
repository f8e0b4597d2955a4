"""Three switches around a brushless motor: its six states, which way, and how fast."""

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
from tickstone.core.chains.kind import Output, Role
from tickstone.core.chains.quadrature import level_forms, step_findings, stepping
from tickstone.core.chains.turning import (
    DIRECTION_OUTPUT,
    ROAD_OUTPUTS,
    RoadNodes,
    Turning,
    TurningParameters,
)
from tickstone.core.digests.kind import DigestKind
from tickstone.core.digests.placement import Placement
from tickstone.core.digests.trip import Trip
from tickstone.core.finding import Finding
from tickstone.core.inputs import Choice, choice, number, switch, whole
from tickstone.core.quantity import FREQUENCY
from tickstone.core.reading_units import MILLISECONDS, SMALL_LENGTH
from tickstone.core.signal import Signal
from tickstone.core.stages.code_state import STATE, CodeState
from tickstone.core.stages.code_steps import COMMUTATION_60, COMMUTATION_120, CodeSteps
from tickstone.core.stages.ratio import Ratio
from tickstone.core.status import Status
from tickstone.core.surroundings import Surroundings

CYCLES = {"120": COMMUTATION_120, "60": COMMUTATION_60}
_STEP, _ROUND = "step", "round"
_MANY_NONE = 0.15


@dataclass(frozen=True, slots=True)
class CommutationParameters(TurningParameters):
    """What is known of a motor and its three switches. Raises ValueError naming what cannot be."""

    spacing: str = choice(
        "Switches sit",
        (
            Choice("120", "120° electrical apart"),
            Choice("60", "60° electrical apart"),
        ),
        node="pulse",
    )
    counts: str = choice(
        "Time",
        (
            Choice(_STEP, "every one of the six steps"),
            Choice(_ROUND, "once round all six: placement leaves no ripple"),
        ),
        node="pulse",
    )
    swapped: bool = switch("Forward is C before B", False, "as when two are swapped", node="pulse")
    gate_s: float = number(
        "Gate open for", "s", 0.2, 0.001, 86_400.0, node="better", shown_as=MILLISECONDS, decimals=0
    )
    pole_pairs: int = whole("Pole pairs", 7, 1, 60, "half as many as magnets", node="turns")
    radius_m: float = number(
        "Switches’ radius", "m", 0.02, 0.001, 1.0, "from the shaft to where they look",
        node="state", shown_as=SMALL_LENGTH, decimals=1,
    )  # fmt: skip

    def __post_init__(self) -> None:
        self.check()

    @property
    def pulses_a_turn(self) -> int:
        """Steps, or times round all six, in a turn of the shaft."""
        return self.pole_pairs * (6 if self.counts == _STEP else 1)

    @property
    def pulses_a_round(self) -> int:
        """The same in an electrical turn."""
        return 6 if self.counts == _STEP else 1


class Commutation(Turning):
    """Three Hall switches: states, steps, electrical and mechanical speed.

    >>> import numpy as np
    >>> from tickstone.core.air.conditions import AirConditions
    >>> chain = Commutation().build(
    ...     CommutationParameters(pole_pairs=1), Surroundings(AirConditions(20.0)),
    ...     forms={"channels": "changes"})
    >>> codes = np.array([COMMUTATION_120[n % 6] for n in range(8)])
    >>> levels = Signal.of(range(8), [codes & 1, codes >> 1 & 1, codes >> 2],
    ...                    Commutation.roles[0].forms[1].quantity)
    >>> round(float(chain.apply(levels, "rpm").value[-1]), 6)
    0.166667
    """

    name: ClassVar[str] = "commutation"
    label: ClassVar[str] = "Three switches on a motor"
    parameters: ClassVar[type] = CommutationParameters
    roles: ClassVar[tuple[Role, ...]] = (
        Role(
            "channels", "Switches A, B and C", level_forms("A", "B", "C"),
            ("ha", "hb", "hc", "a", "b", "c"), most_lanes=3, least_lanes=3,
        ),
    )  # fmt: skip
    outputs: ClassVar[tuple[Output, ...]] = (
        *ROAD_OUTPUTS,
        DIRECTION_OUTPUT,
        Output("electrical", "Electrical", FREQUENCY),
        Output("state", "State", STATE),
    )
    calibrations: ClassVar[tuple[CalibrationKind, ...]] = (RollOutKind(), GearKind())
    fine: ClassVar[tuple[Status, ...]] = (*Turning.fine, Status.REVERSED)
    digests: ClassVar[tuple[DigestKind, ...]] = (Placement(), Trip())

    def build(
        self,
        parameters: CommutationParameters,
        surroundings: Surroundings,
        calibrations: Mapping[str, Stage] | None = None,
        forms: Mapping[str, str] | None = None,
        lanes: Mapping[str, int] | None = None,
    ) -> Chain:
        """Levels to steps, on as every thing that turns, and the states beside it."""
        form, entry = self.roles[0].entry(forms, lanes)
        entries = [entry]
        cycle, at = CYCLES[parameters.spacing], (entries[0].at,)
        is_exact, each = form.name == "changes", 1 if parameters.counts == _STEP else 6
        steps = CodeSteps(cycle, each, parameters.swapped, is_exact, parameters.timing_s)
        turns = pulses_to_turns(
            float(parameters.pulses_a_turn), f"{parameters.pole_pairs} pole pairs",
            "n = f/(6·p); common practice",
        )  # fmt: skip
        tail = RoadNodes(parameters, calibrations or {}, turns, has_sign=True)
        chain = tail.after_edges(entries, [Node("pulse", steps, at)])
        rounds = Ratio(
            float(parameters.pulses_a_round), 0.0, is_divided=True, becomes=FREQUENCY,
            label="steps a round", formula="fₑ = f/6", shown_as="", part="", basis="",
            source="six states make an electrical turn; common practice",
        )  # fmt: skip
        more = (Node("electrical", rounds, ("slow",)), Node("state", CodeState(cycle), at))
        return Chain(
            chain.inputs,
            (*chain.nodes, *more),
            (*chain.outputs, ("electrical", "electrical"), ("state", "state")),
        )

    def grounds(self, parameters: CommutationParameters) -> dict[str, float | str]:
        """Pole pairs, and the gear."""
        return {"pole pairs": float(parameters.pole_pairs), "gear": parameters.gear}

    def findings(
        self, parameters: CommutationParameters, surroundings: Surroundings, signal: Signal | None
    ) -> Sequence[Finding]:
        """Illegal states, steps that were not seen, and how near a spinning motor is."""
        found = [] if signal is None else step_findings(signal)
        if signal is not None and np.mean(signal.flag == Status.NO_STATE) > _MANY_NONE:
            other = "60" if parameters.spacing == "120" else "120"
            found.append(
                Finding(
                    "warning",
                    f"Do the switches sit {other}° apart?",
                    f"Far too many states are none that switches {parameters.spacing}° apart have.",
                    f"Set “Switches sit” to {other}° in the first cell, or invert the middle one.",
                )
            )
        found.append(
            Finding(
                "note",
                "Spinning rotors throw what is loose.",
                "Turn it by hand first, and look at the order of the states.",
                "Guard it, wear eye protection, keep a stop within reach.",
            )
        )
        return found

    def raw_for(
        self,
        value: float,
        parameters: CommutationParameters,
        surroundings: Surroundings,
        calibrations: Mapping[str, Stage] | None = None,
    ) -> dict[str, Signal] | None:
        """Twice round all six, as far apart as that turn rate has them."""
        steps_hz = 6.0 * value * parameters.pole_pairs
        levels = stepping(CYCLES[parameters.spacing], steps_hz, parameters.slow_after_s)
        return None if levels is None else {"channels": levels}
