"""What rules over a rig decide at every line, by a replay: what a board's code is held against."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from tickstone.core.machines.machine import Machine
from tickstone.core.machines.running import Runner
from tickstone.core.signal import Signal
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
