"""Rules over a rig decide on the boards what they decide in a replay, at every line."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st
from tests.core.control.test_routine import PLANT, RIG, controllers, readings
from tests.core.machines.test_routine import (
    TICK_US,
    here,
    lines_of,
    patient,
    sound,
)
from tests.core.machines.trials import machines

from tickstone.core.control.controller import Controller
from tickstone.core.control.loop import simulate
from tickstone.core.control.routine import controller_routine
from tickstone.core.machines.machine import Machine
from tickstone.core.machines.routine import machine_routine
from tickstone.core.machines.starting import STARTING_POINTS
from tickstone.core.signal import Signal
from tickstone.proof.eight_bit.sums import step_on_chip
from tickstone.proof.python_sums import step_on_python
from tickstone.proof.rules import made_up_rows, replayed
from tickstone.proof.small_python.sums import step_on_interpreter
from tickstone.proof.stepped import Row, Stepped, differences, stepped_here

PERIOD_US = 50_000


def rows_of(heard: dict[str, Signal]) -> list[Row]:
    times = next(iter(heard.values())).time_s
    return [
        Row(
            round(float(time_s) * 1e6),
            {
                name: value
                for of, one in heard.items()
                for name, value in (
                    (f"{of}_in", float(one.value[k])),
                    (f"{of}_in_status", int(one.flag[k])),
                )
            },
        )
        for k, time_s in enumerate(times)
    ]


def states(machine: Machine, told: Stepped) -> list[str]:
    return [machine.states[int(row[0])].name for row in told.values]


@settings(
    max_examples=4,
    deadline=None,
    phases=[Phase.generate],
    suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.filter_too_much],
)
@given(machines().filter(lambda one: len(one.transitions) > 2), st.integers(0, 2**32 - 1))
def test_random_rules_decide_on_the_boards_as_here(
    tmp_path: Path, machine: Machine, seed: int
) -> None:
    machine = patient(machine)
    heard = {name: sound(one) for name, one in lines_of(seed, 0.25).items()}
    routine, due = machine_routine(machine, "rules", TICK_US), here(machine, heard)
    assert states(machine, step_on_interpreter(routine, rows_of(heard))) == due
    assert states(machine, step_on_chip(routine, rows_of(heard), tmp_path)) == due


@pytest.mark.parametrize("name", STARTING_POINTS)
def test_every_starting_point_decides_on_the_boards_as_here(name: str, tmp_path: Path) -> None:
    machine = _known(name)
    rows = made_up_rows(machine, 300, PERIOD_US, seed=len(name))
    routine, due = machine_routine(machine, "rules", PERIOD_US), replayed(machine, rows)
    told = step_on_chip(routine, rows, tmp_path)
    assert [int(row[0]) for row in told.values] == due
    assert [int(row[0]) for row in step_on_interpreter(routine, rows).values] == due
    assert [int(row[0]) for row in step_on_python(routine, rows).values] == due
    assert len({*due}) > 1
    assert 0 < max(told.cycles) < 40_000


def _known(name: str) -> Machine:
    """A starting point fed by what it most likely is fed by."""
    from tickstone.core.chains import CHAINS
    from tickstone.core.machines.starting.point import Need

    def output_of(need: Need) -> Any:
        return next(
            one.quantity
            for kind in CHAINS.values()
            for one in kind.outputs
            if one.quantity.name == need.quantity
        )

    point = STARTING_POINTS[name]
    document = point.document({need.name: {"sensor": "1", "output": "x"} for need in point.needs})
    quantities = {need.name: output_of(need) for need in point.needs}
    inputs = [
        one
        | (
            {
                "unit": quantities[one["name"]].unit,
                "states": [state.name for state in quantities[one["name"]].states],
            }
            if one["name"] in quantities
            else {}
        )
        for one in document["inputs"]
    ]
    return Machine.of({**document, "inputs": inputs})


@settings(
    max_examples=3,
    deadline=None,
    phases=[Phase.generate],
    suppress_health_check=[HealthCheck.function_scoped_fixture],
)
@given(controllers, st.integers(0, 1000))
def test_controllers_set_on_the_boards_what_they_set_here(
    tmp_path: Path, controller: Controller, seed: int
) -> None:
    routine = controller_routine(controller, "loop", RIG.sample_s)
    rows = readings(simulate(PLANT, controller, RIG, seed), seed)
    chip = step_on_chip(routine, rows, tmp_path)
    assert differences(chip, stepped_here(routine, rows, True)) == []
    assert differences(step_on_interpreter(routine, rows), stepped_here(routine, rows, False)) == []
    assert 0 < max(chip.cycles) < 20_000
