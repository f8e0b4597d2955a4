"""What a machine says for a board is what it does here, line by line."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.core.machines.naive import TICKS
from tests.core.machines.trials import machines

from tickstone.core.emit.code import CannotEmitError
from tickstone.core.emit.running import Runner as BoardRunner
from tickstone.core.machines.machine import Machine
from tickstone.core.machines.routine import machine_routine
from tickstone.core.machines.running import Runner
from tickstone.core.machines.together import TRUST, WAYS
from tickstone.core.signal import Signal
from tickstone.core.status import Status

TICK_US = 1_000_000 // TICKS
LINES = 60
_FLAGS = [Status.OK] * 6 + [Status.NO_ECHO, Status.LINE_GAP, Status.SLOW, Status.ONE_ALONE]


def lines_of(seed: int, longest_s: float) -> dict[str, Signal]:
    """Every input at each line; the lines no further apart than a reading counts."""
    rng = np.random.default_rng(seed)
    at = np.cumsum(rng.integers(1, max(2, round(longest_s * TICKS) + 1), LINES))
    return {
        name: Signal.of(
            at / TICKS,
            np.where(rng.random(LINES) < 0.1, np.nan, rng.integers(-1, 6, LINES)),
            status=rng.choice([int(one) for one in _FLAGS], LINES),
            until_s=(at[-1] + 0.5) / TICKS,
        )
        for name in ("a", "b", "c")
    }


def sound(signal: Signal) -> Signal:
    """A value that is not there is never called a measurement; no bound lies just on a cut."""
    flags = np.where(np.isnan(signal.value), int(Status.MISSING), signal.flag)
    values = signal.values + np.where(flags == int(Status.SLOW), 0.5, 0.0)
    return signal.replaced(values, flags[None].astype(np.uint8))


def on_board(
    machine: Machine, heard: dict[str, Signal], begins_us: int = 0, is_single: bool = False
) -> list[str]:
    """The state after each line, by the routine."""
    runner = BoardRunner(machine_routine(machine, "rules", TICK_US), is_single)
    found = []
    times = next(iter(heard.values())).time_s
    for k, time_s in enumerate(times):
        given: dict[str, Any] = {}
        for name, one in heard.items():
            given[f"{name}_in"] = float(one.value[k])
            given[f"{name}_in_status"] = int(one.flag[k])
        told = runner.step(begins_us + round(float(time_s) * 1e6), given)
        found.append(machine.states[int(told["state"][0][0])].name)
    return found


def here(machine: Machine, heard: dict[str, Signal]) -> list[str]:
    """The same by a replay."""
    visits = Runner(machine).replay(heard)
    times = next(iter(heard.values())).time_s
    return [machine.states[visits.state[visits.at(float(t))]].name for t in times]


def patient(machine: Machine) -> Machine:
    """The same, with readings that count for two lines at least."""
    inputs = tuple(
        replace(one, longest_s=max(one.longest_s, 2 / TICKS)) if not one.together else one
        for one in machine.inputs
    )
    return replace(machine, inputs=inputs)


@settings(max_examples=60, deadline=None)
@given(
    machines(), st.integers(0, 2**32 - 1), st.sampled_from([0, 2**32 - 3_000_000]), st.booleans()
)
def test_a_board_is_in_the_same_state_at_every_line(
    machine: Machine, seed: int, begins_us: int, is_single: bool
) -> None:
    machine = patient(machine)
    longest_s = min(one.longest_s for one in machine.inputs)
    heard = {name: sound(one) for name, one in lines_of(seed, longest_s).items()}
    assert on_board(machine, heard, begins_us, is_single) == here(machine, heard)


def test_a_last_reading_expires_while_rules_race_only_when_a_replay_lets_it() -> None:
    """Found by searching long: round and round at one instant, with a last good reading held."""
    machine = Machine.of(
        {
            "inputs": [{"name": one, "longest_s": 0.25} for one in "abc"],
            "states": [{"name": "s0"}, {"name": "s1"}],
            "transitions": [
                {"leaves": "s1", "to": "s0", "when": "a < 0"},
                {"leaves": "s0", "to": "s1", "when": "a < 0"},
                {"leaves": "s1", "to": "s0", "when": "a < 0 or a > 0", "for_s": 0.125},
            ],
            "when_blind": {"how": "last", "hold_s": 0.125, "go_to": "s1"},
        }
    )
    heard = {name: sound(one) for name, one in lines_of(1, 0.25).items()}
    assert on_board(machine, heard) == here(machine, heard)


def test_waits_are_right_across_the_wrap_of_the_counter() -> None:
    """A state that is held for longer than the counter goes round, and left in time after."""
    machine = Machine.of(
        {
            "inputs": [{"name": "a", "longest_s": 60.0}],
            "states": [
                {"name": "go", "stay_s": 1_500.0},
                {"name": "stop", "leave_after_s": 1_900.0, "leave_to": "go"},
            ],
            "transitions": [{"leaves": "go", "to": "stop", "when": "a < 1", "for_s": 40.0}],
        }
    )
    count = 1_200
    at = np.arange(count) * 20.0
    near = np.isin(np.arange(count) // 15, (3, 25, 26, 60))  # 5 min of every 5 or more
    heard = {"a": Signal.of(at, np.where(near, 0.5, 2.0), until_s=at[-1] + 1.0)}
    runner = BoardRunner(machine_routine(machine, "rules", 20_000_000))
    found = [
        machine.states[
            int(runner.step(round(t * 1e6), {"a_in": float(v), "a_in_status": 0})["state"][0][0])
        ].name
        for t, v in zip(at, heard["a"].value, strict=True)
    ]
    assert found == here(machine, heard)
    assert {*found} == {"go", "stop"}


@pytest.mark.parametrize("way", WAYS)
@settings(max_examples=10, deadline=None)
@given(st.integers(0, 2**32 - 1), st.booleans())
def test_inputs_put_together_count_on_a_board_as_here(way: str, seed: int, has_us: bool) -> None:
    us = [0.21, 0.4, 0.33] if has_us or way == TRUST else []
    machine = Machine.of(
        {
            "inputs": [
                *({"name": one} for one in "abc"),
                {"name": "all_of_it", "together": way, "of": ["a", "b", "c"], "us": us},
            ],
            "states": [{"name": "go"}, {"name": "stop"}, {"name": "doubt"}],
            "transitions": [
                {"leaves": "go", "to": "stop", "when": "all_of_it < 1.5", "for_s": 0.125},
                {"leaves": "stop", "to": "go", "when": "all_of_it >= 2.5"},
                {"leaves": "any", "to": "doubt", "when": "all_of_it says at_odds"},
                {"leaves": "doubt", "to": "go", "when": "all_of_it says not at_odds"},
            ],
            "when_blind": {"how": "hold", "hold_s": 0.5, "go_to": "doubt"},
        }
    )
    heard = {name: sound(one) for name, one in lines_of(seed, 0.25).items()}
    assert on_board(machine, heard) == here(machine, heard)


@pytest.mark.parametrize(
    ("change", "why"),
    [
        ({"inputs": [{"name": "a", "longest_s": 0.1}]}, "counts for 0.1 s"),
        ({"states": [{"name": "go", "stay_s": 4_000.0}, {"name": "stop"}]}, "go stays 4000 s"),
    ],
)
def test_what_a_board_cannot_carry_is_said(change: dict[str, Any], why: str) -> None:
    usual = {
        "inputs": [{"name": "a"}],
        "states": [{"name": "go"}, {"name": "stop"}],
        "transitions": [{"leaves": "go", "to": "stop", "when": "a < 1"}],
    }
    with pytest.raises(CannotEmitError, match=why):
        machine_routine(Machine.of(usual | change), "rules", TICK_US)
