"""What a stage says for a board is what it does here: the same values, every sample."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import ClassVar

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from tests.core.inertial_trials import INERTIAL
from tests.core.stage_trials import TRIALS as GENERAL

from tickstone.core.attitude import Fusion
from tickstone.core.chain import Chain, ChainInput, Node, Pointwise, Stage
from tickstone.core.emit.code import Code, Emitted, EmittedLane
from tickstone.core.emit.routine import routine_of
from tickstone.core.emit.running import Runner
from tickstone.core.emit.terms import Kind, Operation
from tickstone.core.quantity import NUMBER
from tickstone.core.signal import Signal

TRIALS = GENERAL | INERTIAL
SAID = [
    kind
    for kind in TRIALS
    if isinstance(kind, type) and hasattr(kind, "emit") and not kind.own_times
]


@dataclass(frozen=True, slots=True)
class Flag(Pointwise):
    """Gives the first signal the statuses that the second has for values, as a line may."""

    name: ClassVar[str] = "flag"

    def apply(self, *signals: Signal) -> Signal:
        return signals[0].replaced(signals[0].values, signals[1].values.astype(np.uint8))

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        value, status = entering
        return value.of(
            *(
                EmittedLane(one.value, Operation("status", (other.value,), Kind.STATUS))
                for one, other in zip(value.lanes, status.lanes, strict=True)
            )
        )


def in_whole_us(signal: Signal) -> Signal:
    """Times as a board counts them, and none of them just as long apart as something lasts."""
    apart = np.cumsum(1 + np.arange(len(signal)) % 7)
    return replace(signal, time_s=(np.rint(signal.time_s * 1e6) + apart) * 1e-6, until_s=math.nan)


def flagging(stage: Stage, entering: list[Signal]) -> tuple[Chain, dict[str, Signal]]:
    """A chain of this one stage, whose inputs come with their statuses beside them."""
    entries, nodes, given = [], [], {}
    for n, signal in enumerate(entering):
        lanes = signal.quantity.lanes
        entries += [
            ChainInput(f"x{n}", signal.quantity),
            ChainInput(f"s{n}", NUMBER.in_lanes(*lanes)),
        ]
        nodes.append(Node(f"f{n}", Flag(), (f"@x{n}", f"@s{n}")))
        plain = np.zeros_like(signal.status)
        given[f"x{n}"] = signal.replaced(signal.values, plain)
        given[f"s{n}"] = Signal(
            signal.time_s, signal.status.astype(np.float64), plain, NUMBER.in_lanes(*lanes)
        )
    nodes.append(Node("it", stage, tuple(f"f{n}" for n in range(len(entering)))))
    return Chain(tuple(entries), tuple(nodes), (("y", "it"),)), given


def stepped(
    chain: Chain, given: dict[str, Signal], runner: Runner
) -> tuple[np.ndarray, np.ndarray]:
    """Every sample through the routine: values and statuses, shape (lanes, n)."""
    first = next(iter(given.values()))
    values, statuses = [], []
    for k, time_s in enumerate(first.time_s):
        named = {
            name: float(given[entry.role].values[lane, k])
            for entry in runner.routine.entries
            for lane, name in enumerate(entry.names)
        }
        told = runner.step(round(float(time_s) * 1e6), named)["y"]
        values.append(told[0])
        statuses.append(told[1])
    return np.array(values).T, np.array(statuses).T


def steepest(attitude: Signal) -> float:
    return float(np.nanmax(np.abs(attitude.values[1]), initial=0.0))


@pytest.mark.parametrize("kind", SAID, ids=lambda kind: kind.name)
@settings(max_examples=40)
@given(data=st.data())
def test_a_routine_does_what_its_stage_does(kind: type[Stage], data: st.DataObject) -> None:
    trial = TRIALS[kind]
    stage = data.draw(trial.settings)
    entering = [in_whole_us(one) for one in data.draw(trial.entering())]
    chain, given = flagging(stage, entering)
    whole = chain.apply(given)
    # Straight up, angles of a fusion turn by anything at all for the last digit of a time.
    assume(not isinstance(stage, Fusion) or steepest(whole) < 1.5)
    runner = Runner(routine_of(chain, "it", ["y"]))
    values, statuses = stepped(chain, given, runner)
    np.testing.assert_array_equal(statuses, whole.status)
    scale = np.nanmax(np.abs(whole.values), initial=1e-3)
    due = whole.values
    if whole.quantity.unit == "rad":
        # Half a turn to the left is half a turn to the right.
        due = due + 2.0 * math.pi * np.rint(np.nan_to_num(values - due) / (2.0 * math.pi))
    np.testing.assert_allclose(values, due, rtol=1e-9, atol=1e-9 * scale)


NOT_YET = {
    *("BetterRate", "CodeState", "CodeSteps", "CountEdges", "Debounce", "GapEdges", "GateCounts"),
    *("GateRate", "LevelEdges", "MissedPulse", "PeriodRate", "RollOut", "SlowWatch", "Spacing"),
    *("TimeEdges", "TimedCountEdges", "Travelled"),
}
"""Stages on the times of edges, of which several may come with one line."""


def test_stages_that_cannot_be_said_yet_are_known() -> None:
    """Whoever adds a stage says it for a board too, or writes down here that it is not said."""
    assert {kind.__name__ for kind in TRIALS if not hasattr(kind, "emit")} == NOT_YET
