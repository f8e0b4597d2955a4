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
from tickstone.core.stages.align import Align
from tickstone.core.stages.better_rate import BetterRate
from tickstone.core.status import Status

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


@dataclass(frozen=True, slots=True)
class Sometimes(Pointwise):
    """Lets the first signal through where the second says so: at some lines nothing comes."""

    name: ClassVar[str] = "sometimes"
    own_times: ClassVar[bool] = True

    def apply(self, *signals: Signal) -> Signal:
        at = np.flatnonzero(signals[1].value > 0.5)
        one = signals[0]
        return replace(
            one, time_s=one.time_s[at], values=one.values[:, at], status=one.status[:, at]
        )

    def emit(self, code: Code, *entering: Emitted) -> Emitted:
        return replace(entering[0], is_new=code.let("now", entering[1].value > 0.5))


def at_some_lines(
    stage: Stage, entering: list[Signal], comes: list[bool]
) -> tuple[Chain, dict[str, Signal]]:
    """The chain of one stage, whose inputs say something new only at some of the lines."""
    chain, given = flagging(stage, entering)
    first = entering[0]
    nodes = [
        *chain.nodes[:-1],
        *(Node(f"g{n}", Sometimes(), (f"f{n}", "@comes")) for n in range(len(entering))),
        replace(chain.nodes[-1], after=tuple(f"g{n}" for n in range(len(entering)))),
    ]
    given["comes"] = Signal.of(first.time_s, [float(one) for one in comes], NUMBER)
    given = {name: replace(one, until_s=float(first.time_s[-1])) for name, one in given.items()}
    return replace(chain, inputs=(*chain.inputs, ChainInput("comes", NUMBER)), nodes=nodes), given


def by_line(told: Signal, times: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """What was told last at each of these times."""
    lanes = len(told.values)
    values = np.hstack([told.values, np.full((lanes, 1), np.nan)])
    status = np.hstack([told.status, np.full((lanes, 1), Status.NOT_YET, np.uint8)])
    at = np.searchsorted(told.time_s, times, side="right") - 1
    return values[:, at], status[:, at]


ON_LINES = {"CountEdges", "TimedCountEdges", "GapEdges", "TimeEdges", "LevelEdges", "CodeSteps",
            "CodeState"}  # fmt: skip
"""What takes in what a program reads, line by line."""


@pytest.mark.parametrize(
    "kind", [one for one in TRIALS if one.own_times and one not in (Align, BetterRate)],
    ids=lambda kind: kind.name,
)  # fmt: skip
@settings(max_examples=60)
@given(data=st.data())
def test_what_comes_now_and_then_is_told_by_the_line(
    kind: type[Stage], data: st.DataObject
) -> None:
    trial = TRIALS[kind]
    stage = data.draw(trial.settings)
    entering = [in_whole_us(one) for one in data.draw(trial.entering())]
    begins_s = entering[0].time_s[0]  # gates are counted from the first line on
    entering = [replace(one, time_s=one.time_s - begins_s) for one in entering]
    size = len(entering[0])
    comes = [True] * size
    if kind.__name__ not in ON_LINES:
        comes = data.draw(st.lists(st.booleans(), min_size=size, max_size=size))
    chain, given = at_some_lines(stage, entering, comes)
    whole = chain.apply(given)
    runner = Runner(routine_of(chain, "it", ["y"]))
    values, statuses = stepped(chain, given, runner)
    due, said = by_line(whole, entering[0].time_s)
    np.testing.assert_array_equal(statuses, said)
    scale = np.nanmax(np.abs(due), initial=1e-3)
    np.testing.assert_allclose(values, due, rtol=1e-9, atol=1e-9 * scale)


def test_every_stage_can_be_said_for_a_board() -> None:
    assert {kind.__name__ for kind in TRIALS if not hasattr(kind, "emit")} == set()
