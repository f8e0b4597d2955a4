"""Machines over recordings, against a second interpreter and against themselves cut in pieces."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from tests.core.machines.naive import RacingError, replayed
from tests.core.machines.trials import machines, recordings

from tickstone.core.machines.machine import HOLD, Machine
from tickstone.core.machines.running import AT_START, BY_BLINDNESS, BY_TIME, Runner, Visits
from tickstone.core.signal import Signal
from tickstone.core.status import Status

END_S = 80.5 / 8


def entered(machine: Machine, visits: Visits) -> list[tuple[float, str]]:
    return [
        (float(t), machine.states[n].name) for t, n in zip(visits.from_s, visits.state, strict=True)
    ]


@settings(max_examples=200, deadline=None)
@given(machines(), recordings())
def test_a_second_interpreter_says_the_same(machine: Machine, heard: dict[str, Signal]) -> None:
    try:
        expected = replayed(machine, heard, END_S)
    except RacingError:
        assume(False)
    assert entered(machine, Runner(machine).replay(heard)) == expected


@settings(max_examples=80, deadline=None)
@given(machines(), recordings(), st.lists(st.floats(0.0, END_S), max_size=6))
def test_any_cut_gives_the_same(
    machine: Machine, heard: dict[str, Signal], cuts: list[float]
) -> None:
    runner = Runner(machine)
    whole = runner.replay(heard)
    place = runner.begin(float(whole.from_s[0]))
    found = [(float(whole.from_s[0]), machine.start)]
    before = -np.inf
    for until in [*sorted(one for one in cuts if one > whole.from_s[0]), END_S]:
        piece = {}
        for name, one in heard.items():
            first, last = np.searchsorted(one.time_s, [before, until], side="right")
            piece[name] = one.between(int(first), int(last), until)
        visits, place = runner.run(place, piece, until)
        found += entered(machine, visits)
        before = until
    assert found == entered(machine, whole)


@settings(max_examples=80, deadline=None)
@given(machines(how=HOLD), recordings())
def test_nothing_is_left_by_an_invalid_reading(machine: Machine, heard: dict[str, Signal]) -> None:
    """With every reading flagged, only times, blindness and words about statuses lead anywhere."""
    flagged = {
        name: one.replaced(one.values, np.full(one.status.shape, Status.NO_ECHO, np.uint8))
        for name, one in heard.items()
    }
    visits = Runner(machine).replay(flagged)
    for cause in visits.cause:
        if cause >= 0:
            assert any(a.status is not None for a in machine.conditions[cause].atoms)
        else:
            assert cause in (AT_START, BY_TIME, BY_BLINDNESS)


def steady(value: float, seconds: float, status: Status = Status.OK) -> Signal:
    count = round(seconds * 20)
    return Signal.of(np.arange(count) / 20, np.full(count, value), status=[int(status)] * count)


def stop_machine(how: str, hold_s: float | None = 0.5) -> Machine:
    return Machine.of(
        {
            "inputs": [{"name": "x", "unit": "m"}],
            "states": [{"name": "go", "moves": True}, {"name": "stop"}],
            "transitions": [
                {"leaves": "go", "to": "stop", "when": "x < 0.4 m"},
                {"leaves": "stop", "to": "go", "when": "x > 0.5 m"},
            ],
            "when_blind": {"how": how, "hold_s": hold_s, "go_to": "stop"},
        }
    )


@pytest.mark.parametrize(
    ("how", "told"),
    [
        ("hold", [(0.0, "go"), (0.5, "stop")]),
        ("last", [(0.0, "go"), (0.5, "stop")]),
        ("lowest", [(0.0, "go"), (0.0, "stop")]),
        ("highest", [(0.0, "go")]),
    ],
)
def test_blindness_counts_as_the_person_says(how: str, told: list[tuple[float, str]]) -> None:
    machine = stop_machine(how)
    visits = Runner(machine).replay({"x": steady(0.9, 2.0, Status.NO_ECHO)})
    assert entered(machine, visits) == told


def test_a_wire_that_falls_off_is_blindness() -> None:
    machine = stop_machine("hold")
    x = steady(0.9, 1.0)
    late = Signal(x.time_s, x.values, x.status, x.quantity, until_s=9.0)
    visits = Runner(machine).replay({"x": late})
    # The last reading of 0.95 s counts for 0.5 s, and blindness is borne for 0.5 s more.
    assert visits.from_s.tolist() == [0.0, 1.95]
    assert visits.cause.tolist() == [AT_START, BY_BLINDNESS]


def test_a_slow_bound_says_what_it_can() -> None:
    """A wheel that gives no pulse is known to be slower than something, and no more than that."""
    machine = Machine.of(
        {
            "inputs": [{"name": "v"}],
            "states": [{"name": "moving"}, {"name": "still"}, {"name": "odd"}],
            "transitions": [
                {"leaves": "moving", "to": "still", "when": "v < 0.2"},
                {"leaves": "moving", "to": "odd", "when": "v < 0.05 or v > 0.05"},
            ],
        }
    )
    for bound, state in ((0.1, "still"), (0.3, "moving")):
        visits = Runner(machine).replay({"v": steady(bound, 1.0, Status.SLOW)})
        assert machine.states[visits.state[-1]].name == state


def once_stopped(when: str, for_s: float, when_blind: dict[str, Any]) -> Machine:
    """Goes until something has stood so long; x and y are good for long."""
    return Machine.of(
        {
            "inputs": [{"name": "x", "longest_s": 10.0}, {"name": "y", "longest_s": 10.0}],
            "states": [{"name": "go"}, {"name": "stop"}],
            "transitions": [{"leaves": "go", "to": "stop", "when": when, "for_s": for_s}],
            "when_blind": when_blind,
        }
    )


def test_nothing_was_true_before_the_first_reading_was_taken_in() -> None:
    """A reading of the first instant speaks before "not ok" begins to count."""
    machine = once_stopped("x says not ok or y < 0", 0.5, {"how": "hold", "hold_s": None})
    x = Signal.of([0.0, 1.0], [1.0, 1.0], status=[Status.OK, Status.NO_ECHO], until_s=2.0)
    y = Signal.of([1.0], [3.0], until_s=2.0)
    assert entered(machine, Runner(machine).replay({"x": x, "y": y})) == [
        (0.0, "go"),
        (1.5, "stop"),
    ]


def test_a_last_reading_does_not_count_at_the_instant_it_expires() -> None:
    """Else what had been lost for too long would look as if it had been seen a moment ago."""
    machine = once_stopped("x < 1 and y < 1", 2.0, {"how": "last", "hold_s": 0.5})
    lost = Status.NO_ECHO
    y = Signal.of([0.0, 0.5, 1.5], [0.0, 0.0, 0.0], status=[Status.OK, lost, Status.OK])
    x = Signal.of(
        [0.0, 1.0, 1.75], [0.0, 0.0, 0.0], status=[Status.OK, lost, Status.OK], until_s=4.0
    )
    # y counts until 1.0, x until 1.5: they are true together from 0 to 1.0, and from 1.75 anew.
    assert entered(machine, Runner(machine).replay({"x": x, "y": y})) == [
        (0.0, "go"),
        (3.75, "stop"),
    ]


def test_who_waits_for_its_first_reading_is_blind_from_the_beginning() -> None:
    """A wheel that stands for the first two seconds has not told its speed yet."""
    machine = stop_machine("hold")
    x = Signal.of([2.0, 3.0], [0.9, 0.9])
    assert entered(machine, Runner(machine).replay({"x": x}))[0] == (2.0, "go")
    assert entered(machine, Runner(machine).replay({"x": x}, start_s=0.0)) == [
        (0.0, "go"),
        (0.5, "stop"),
        (2.0, "go"),
    ]
    nothing = Signal.of([], [], until_s=4.0)
    assert entered(machine, Runner(machine).replay({"x": nothing}, start_s=0.0)) == [
        (0.0, "go"),
        (0.5, "stop"),
    ]


def test_ten_thousand_changes_do_not_run_out_of_room() -> None:
    machine = stop_machine("hold")
    x = Signal.of(np.arange(20_000) / 20, np.tile([0.3, 0.6], 10_000))
    visits = Runner(machine).replay({"x": x})
    assert len(visits) == 20_001
    assert np.all(np.diff(visits.from_s) >= 0.0)


def test_round_and_round_at_one_instant_rests_until_something_is_said() -> None:
    machine = Machine.of(
        {
            "inputs": [{"name": "x"}],
            "states": [{"name": "a"}, {"name": "b"}],
            "transitions": [
                {"leaves": "a", "to": "b", "when": "x > 0"},
                {"leaves": "b", "to": "a", "when": "x > 0"},
            ],
        }
    )
    visits = Runner(machine).replay({"x": steady(1.0, 1.0)})
    assert len(visits) < 10
