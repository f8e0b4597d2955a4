"""Listening programs for 8-bit boards, run on the simulated chip and held to its world."""

from __future__ import annotations

import random
from itertools import pairwise
from pathlib import Path

import pytest
from tests.proof.rigs import SMALL_BOARDS, demo_plan, random_plan, rig_of, sensors

from tickstone.core.lines.reader import LineReader
from tickstone.core.lines.splitter import LineSplitter
from tickstone.core.listening.plan import ListeningPlan, listening_plan
from tickstone.core.listening.ways.edges import EdgesReading
from tickstone.link.board import BOARDS
from tickstone.proof.eight_bit.chip import build
from tickstone.proof.eight_bit.listening import Heard, listen_on_chip
from tickstone.targets import TARGETS

CPP = TARGETS["cpp"]
WITHIN_US = 12.0
"""Two steps of the counter, and the loop that looks at the lead."""


def ran(plan: ListeningPlan, told: dict[str, list[float]], lines: int, folder: Path) -> Heard:
    program = CPP.listening(plan, "rig")
    heard = listen_on_chip(build(program.text, folder), plan, told, lines)
    assert program.identity in heard.banner
    assert list(heard.columns) == [one.name for one in plan.columns]
    assert len(heard.rows) == lines
    return heard


def agrees(plan: ListeningPlan, heard: Heard, told: dict[str, list[float]]) -> None:
    """What it printed is what the world told: counts to the last one, times within its counter."""
    for reading in plan.readings:
        for column in reading.columns:
            said, want = heard.column(column.name), told[column.name]
            if column.quantity == "echo time":
                assert all(
                    abs(got - us) <= WITHIN_US if 0 < us <= reading.timeout_us - 100 else got == 0
                    for got, us in zip(said, want, strict=True)
                ), (column.name, said, want)
            elif column.quantity == "pulse gap":
                assert said[-1] == pytest.approx(want[-1], abs=WITHIN_US)
            elif reading.way in ("one_wire", "one_word"):
                assert [one for one in said if one is not None], "it never answered"
                lsb = 0.0625 if reading.way == "one_wire" else 0.1
                for got in (one for one in said if one is not None):
                    assert min(abs(got - one) for one in want) <= lsb / 2 + 0.005
            else:
                assert said == want, column.name


def made_up(plan: ListeningPlan, lines: int, seed: int) -> dict[str, list[float]]:
    """Something for every column to say, at random."""
    rng = random.Random(seed)
    told: dict[str, list[float]] = {}
    for reading in plan.readings:
        for column in reading.columns:
            if column.quantity == "echo time":
                values = [rng.choice((0, rng.randint(120, 24_000))) for _ in range(lines)]
            elif column.quantity == "pulse count":
                values = [n // 2 + 1 for n in range(lines)]
            elif column.quantity == "pulse gap":
                values = [float(plan.pace.period_us * 2)] * lines
            elif column.quantity == "pulse":
                values = [rng.randint(0, 1) for _ in range(lines)]
            elif column.quantity == "converter counts":
                values = [rng.randint(0, 1022) for _ in range(lines)]
            elif reading.way == "one_wire":
                values = [rng.randint(-880, 2000) * 0.0625] * lines
            elif reading.way == "one_word":
                values = [rng.randint(-300, 900) / 10 if column.unit == "degC" else 45.5] * lines
            else:
                signed = next(v for v in reading.registers.values if column.name.endswith(v.name))
                low, high = (
                    (-(2**15), 2**15 - 1) if signed.is_signed else (0, 256**signed.bytes - 1)
                )
                values = [rng.randint(low, high) for _ in range(lines)]
            told[column.name] = [float(one) for one in values]
    return told


def lines_for(plan: ListeningPlan) -> int:
    """Enough of them for a thermometer to have converted."""
    slow = {"one_wire", "one_word"} & {*plan.ways}
    return 8 + (round(1e6 / plan.pace.period_us) if slow else 0)


def test_a_demo_rig_hears_what_its_world_says(tmp_path: Path) -> None:
    plan = demo_plan("bramble")
    board = BOARDS["bramble"](seed=3)
    for command in ("target 1.2", "spin 3", "pitch 6", "sway 20"):
        board.obey(command)
    splitter, reader = LineSplitter(), LineReader()
    lines = [*board.banner(), *(line for _ in range(200) for line in board.tick())]
    rows, _ = reader.feed(splitter.feed("\n".join(lines).encode() + b"\n", 0))
    assert reader.shape is not None
    names = [reader.shape.columns[index].name for index in reader.shape.channels]
    world = {name: [row.values[n] for row in rows[-30:]] for n, name in enumerate(names)}
    ours = {
        "front_ranger": "front", "left_ranger": "left", "shed_air": "air", "battery": "batt",
        **{f"nose_strip_{n}": f"ir{n}" for n in range(1, 6)},
        **{f"deck_level_{axis}": axis for axis in ("ax", "ay", "az", "gx", "gy", "gz")},
    }  # fmt: skip
    told = {name: world[theirs] for name, theirs in ours.items()}
    told["shed_air"] = [round(told["shed_air"][0] / 0.0625) * 0.0625] * 30
    told["deck_level_die"] = [-2_200.0] * 30
    told["rear_wheel_count"] = [n // 3 + 1 for n in range(30)]
    told["rear_wheel_gap"] = [3.0 * plan.pace.period_us] * 30
    heard = ran(plan, told, 30, tmp_path)
    agrees(plan, heard, told)
    written = {(register, value) for _, register, value in heard.ran.written}
    assert written == {(107, 1), (26, 3), (28, 0), (27, 0)}
    times = heard.column("t")
    assert {round(b - a, -2) for a, b in pairwise(times)} == {76_000}


@pytest.mark.parametrize("family", sensors())
def test_every_kind_of_device_is_read(family: str, tmp_path: Path) -> None:
    plan = listening_plan("Rig", rig_of([family]))
    lines = lines_for(plan)
    told = made_up(plan, lines, seed=hash(family))
    agrees(plan, ran(plan, told, lines, tmp_path), told)


def test_pulses_are_counted_on_any_pin_that_can_interrupt(tmp_path: Path) -> None:
    plan = listening_plan("Rig", rig_of(["slotted_encoder"] * 4))
    assert [one.by for one in plan.of(EdgesReading)].count("pin change") == 2
    told = made_up(plan, 12, seed=5)
    agrees(plan, ran(plan, told, 12, tmp_path), told)


@pytest.mark.parametrize("block", range(4))
def test_random_rigs_compile_and_run(block: int, tmp_path: Path) -> None:
    """A hundred compile without a warning; of those, twenty run."""
    for seed in range(block * 25, block * 25 + 25):
        plan = random_plan(seed)
        if seed % 5:
            build(CPP.listening(plan, "rig").text, tmp_path)
            continue
        lines = lines_for(plan)
        told = made_up(plan, lines, seed)
        agrees(plan, ran(plan, told, lines, tmp_path), told)


def test_a_long_line_is_slower_but_whole(tmp_path: Path) -> None:
    plan = listening_plan("Rig", rig_of(["six_axis"] + ["ultrasonic_ranger"] * 4, SMALL_BOARDS[1]))
    assert plan.pace.notes
    told = made_up(plan, 6, seed=1)
    agrees(plan, ran(plan, told, 6, tmp_path), told)
