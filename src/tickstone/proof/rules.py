"""What rules over a rig decide at every line, by a replay: what a board's code is held against."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from tickstone.core.machines.machine import Machine, MachineInput
from tickstone.core.machines.running import Runner
from tickstone.core.signal import Signal
from tickstone.core.status import Status
from tickstone.proof.stepped import Row

_TICK = 2.0**-20
"""In place of a µs: sums of so many are never rounded, so that what is due just at a line is."""


def replayed(machine: Machine, rows: Sequence[Row]) -> list[int]:
    """The number of the state after each row: what goes into the machine's routine, as it is named
    there.

    >>> machine = Machine.of({
    ...     "inputs": [{"name": "x"}], "states": [{"name": "go"}, {"name": "stop"}],
    ...     "transitions": [{"leaves": "go", "to": "stop", "when": "x < 0.4"}]})
    >>> rows = [Row(50_000 * n, {"x_in": 0.5 - 0.1 * n, "x_in_status": 0}) for n in range(4)]
    >>> replayed(machine, rows)
    [0, 0, 1, 1]
    """
    begins_us = rows[0].now_us
    times = [((row.now_us - begins_us) % 2**32) * _TICK for row in rows]
    heard = {
        one.name: Signal.of(
            times,
            [row.given[f"{one.name}_in"] for row in rows],
            status=[int(row.given[f"{one.name}_in_status"]) for row in rows],
            until_s=times[-1] + _TICK,
        )
        for one in machine.inputs
        if not one.together
    }
    visits = Runner(_in_ticks(machine)).replay(heard)
    return [int(visits.state[visits.at(time)]) for time in times]


_BEFORE_WRAP_US = 2**32 - 1_000_000
_LONGEST_SAID = 40
_NEAR = 0.01


def made_up_rows(machine: Machine, count: int, period_us: int, seed: int) -> list[Row]:
    """Lines in which each input says one thing for a while: mostly just beside a number that some
    condition speaks of, now and then nothing. The board's counter goes round once.
    """
    rng = np.random.default_rng(seed)
    runner = Runner(machine)
    own = [one for one in machine.inputs if not one.together]
    says: dict[str, dict[str, float]] = {one.name: {} for one in own}
    stays = dict.fromkeys(says, 0)
    rows = []
    for n in range(count):
        for one in own:
            if stays[one.name] == 0:
                says[one.name] = _said(one, runner, rng)
                stays[one.name] = int(rng.integers(1, _LONGEST_SAID))
            stays[one.name] -= 1
        given = {name: value for each in says.values() for name, value in each.items()}
        rows.append(Row((_BEFORE_WRAP_US + n * period_us) % 2**32, given))
    return rows


def _said(of: MachineInput, runner: Runner, rng: np.random.Generator) -> dict[str, float]:
    cuts = runner.cuts[of.name]
    value = float(rng.choice([*(cuts - _NEAR), *(cuts + _NEAR)])) if len(cuts) else 0.0
    if of.states:
        value = 0.0 if rng.random() < 0.5 else float(rng.integers(0, len(of.states)))
    status = Status.NO_ECHO if rng.random() < 0.2 else Status.OK
    return {f"{of.name}_in": float(np.float32(value)), f"{of.name}_in_status": int(status)}


def _in_ticks(machine: Machine) -> Machine:
    """The same with every µs a tick."""

    def ticks(seconds: float) -> float:
        return round(seconds * 1e6) * _TICK

    blind = machine.when_blind
    return replace(
        machine,
        inputs=tuple(replace(one, longest_s=ticks(one.longest_s)) for one in machine.inputs),
        states=tuple(
            replace(
                one,
                stay_s=ticks(one.stay_s),
                leave_after_s=None if one.leave_after_s is None else ticks(one.leave_after_s),
            )
            for one in machine.states
        ),
        transitions=tuple(replace(one, for_s=ticks(one.for_s)) for one in machine.transitions),
        when_blind=replace(blind, hold_s=None if blind.hold_s is None else ticks(blind.hold_s)),
    )
