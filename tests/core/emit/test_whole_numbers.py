"""Routines in whole numbers: never further off than they say, and never too large for 32 bits: the
runner here refuses any number that is.
"""

from __future__ import annotations

import math
from typing import Any

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from tests.core.emit.test_routines import TRIALS

from tickstone.core.air.conditions import AirConditions
from tickstone.core.chain import Chain, ChainInput, Node, Stage
from tickstone.core.chains import CHAINS
from tickstone.core.emit.code import CannotEmitError
from tickstone.core.emit.routine import routine_of
from tickstone.core.emit.running import Runner
from tickstone.core.emit.whole.off import Off
from tickstone.core.emit.whole.routine import NONE, WholeRoutine, in_whole_numbers
from tickstone.core.stages.range_gate import RangeGate
from tickstone.core.status import Status
from tickstone.core.surroundings import Surroundings

Row = dict[str, int | None]
Told = tuple[float, int]
ECHO_US, COUNTS, CODES = (0, 38_000), (0, 1023), (-32_768, 32_767)


def both(
    chain: Chain, output: str, span: tuple[int, int], rows: list[list[int | None]]
) -> tuple[WholeRoutine, list[list[tuple[Told, Told]]]]:
    """In whole numbers, and as it is: of each row, of each lane, what either tells."""
    routine = routine_of(chain, "it", [output])
    names = [name for entry in routine.entries for name in entry.names]
    whole = in_whole_numbers(routine, dict.fromkeys(names, span))
    here, there = Runner(whole.routine), Runner(routine)
    (told,) = whole.routine.told
    found = []
    for n, row in enumerate(rows):
        told_now = dict(zip(names, row, strict=True))
        given: Any = {f"{k}_given": NONE if v is None else v for k, v in told_now.items()}
        values, statuses = here.step(50_000 * n, given)[output]
        real = {k: math.nan if v is None else float(v) for k, v in told_now.items()}
        due, due_statuses = there.step(50_000 * n, real)[output]
        scaled = [
            v * 2.0 ** -whole.told[name].shift for v, name in zip(values, told.values, strict=True)
        ]
        pairs = zip(
            zip(scaled, statuses, strict=True), zip(due, due_statuses, strict=True), strict=True
        )
        found.append(list(pairs))
    return whole, found


def check(whole: WholeRoutine, found: list[list[tuple[Told, Told]]]) -> None:
    offs = [whole.told[name].off for name in whole.routine.told[0].values]
    for row in found:
        for ((value, status), (due, due_status)), off in zip(row, offs, strict=True):
            assert status == due_status
            if status == Status.OK and due == due:
                assert abs(value - due) <= off * (1.0 + 1e-6) + 1e-12


def rows_of(lanes: int, span: tuple[int, int]) -> st.SearchStrategy[list[list[int | None]]]:
    one = st.none() | st.integers(*span) | st.sampled_from(span)
    return st.lists(st.lists(one, min_size=lanes, max_size=lanes), min_size=1, max_size=20)


@settings(max_examples=60, deadline=None)
@given(rows_of(1, ECHO_US), st.floats(-20.0, 45.0))
def test_a_ranger_is_as_near_as_it_says(rows: list[list[int | None]], celsius: float) -> None:
    kind = CHAINS["echo"]
    chain = kind.build(kind.parameters(), Surroundings(AirConditions(celsius)))
    whole, found = both(chain, "distance", ECHO_US, rows)
    off = whole.told["distance"].off
    assert 0.0 < off < 0.005
    for (value, status), (due, due_status) in (row[0] for row in found):
        if status != due_status:
            # Just at the ends of what a ranger can tell.
            assert min(abs(due - 0.02), abs(due - 4.0)) <= off
        elif status == Status.OK:
            assert abs(value - due) <= off


@pytest.mark.parametrize(
    ("name", "output", "lanes", "span", "most"),
    [
        ("reflectance", "volts", 3, COUNTS, 1e-3),
        ("reflectance", "state", 2, COUNTS, 1e-3),
        ("six_axis", "force", 3, CODES, 0.01),
        ("six_axis", "rotation", 3, CODES, 0.01),
        ("analogue3", "force", 3, COUNTS, 0.05),
        ("flight", "distance", 1, (0, 8000), 0.1),
    ],
)
@settings(max_examples=20, deadline=None)
@given(data=st.data())
def test_kinds_are_as_near_as_they_say(
    name: str, output: str, lanes: int, span: tuple[int, int], most: float, data: st.DataObject
) -> None:
    kind = CHAINS[name]
    forms: dict[str, int] = {kind.roles[0].name: lanes} if name == "reflectance" else {}
    chain = kind.build(kind.parameters(), Surroundings(AirConditions(20.0)), lanes=forms or None)
    width = sum(len(one.quantity.lanes) for one in chain.up_to(chain.node_of(output)).inputs)
    whole, found = both(chain, output, span, data.draw(rows_of(width, span)))
    assert all(one.off <= most for one in whole.told.values())
    check(whole, found)


PLAIN = [
    kind
    for kind, trial in TRIALS.items()
    if trial.drawn is None and not kind.own_times and kind is not RangeGate
]
"""Of one input between two ends. A gate may say otherwise just at its ends; see the ranger."""


@pytest.mark.parametrize("kind", PLAIN, ids=lambda kind: kind.name)
@settings(max_examples=10, deadline=None)
@given(data=st.data())
def test_a_stage_is_as_near_as_it_says_or_refused(kind: type[Stage], data: st.DataObject) -> None:
    trial = TRIALS[kind]
    stage = data.draw(trial.settings)
    span = (math.floor(trial.low), math.ceil(trial.high))
    chain = Chain((ChainInput("x", trial.quantity),), (Node("it", stage, ("@x",)),), (("y", "it"),))
    lanes = len(trial.quantity.lanes)
    try:
        whole, found = both(chain, "y", span, data.draw(rows_of(lanes, span)))
    except CannotEmitError:
        return
    check(whole, found)


@given(
    st.floats(-50.0, 50.0), st.floats(-50.0, 50.0), st.floats(0.0, 0.2), st.floats(0.0, 0.01),
    st.floats(0.0, 0.2), st.floats(0.0, 0.01), st.floats(-1.0, 1.0), st.floats(-1.0, 1.0),
)  # fmt: skip
def test_doubts_hold_what_they_bound(
    x: float, y: float, fx: float, sx: float, fy: float, sy: float, a: float, b: float
) -> None:
    """Any number as far off as it may be: sums, products, roots and quotients stay within."""
    off_x, off_y = Off(fx, sx), Off(fy, sy)
    near_x, near_y = x + a * off_x.of(abs(x)), y + b * off_y.of(abs(y))
    size_x, size_y = abs(x), abs(y)
    slack = 1.0 + 1e-9
    assert (
        abs(near_x + near_y - x - y)
        <= off_x.sum(size_x, off_y, size_y).of(abs(x + y)) * slack + 1e-12
    )
    product = off_x.product(size_x, off_y, size_y).of(abs(x * y))
    assert abs(near_x * near_y - x * y) <= product * slack + 1e-12
    if near_x >= 0.0 and x > 0.0:
        root = off_x.root(x).of(math.sqrt(x))
        assert abs(math.sqrt(near_x) - math.sqrt(x)) <= root * (1.0 + 1e-6) + 1e-12
    assume(size_y > 1.0)
    quotient = off_x.quotient(off_y, size_y).of(abs(x / y))
    assert abs(near_x / near_y - x / y) <= quotient * slack + 1e-12
