"""Listening programs for 8-bit boards, run on the simulated chip and held to its world."""

from __future__ import annotations

from itertools import pairwise
from pathlib import Path

import pytest
from tests.proof.rigs import SMALL_BOARDS, demo_plan, random_plan, rig_of, sensors

from tickstone.core.lines.reader import LineReader
from tickstone.core.lines.splitter import LineSplitter
from tickstone.core.listening.plan import ListeningPlan, listening_plan
from tickstone.core.listening.ways.edges import EdgesReading
from tickstone.link.board import BOARDS
from tickstone.proof.agreement import disagreements, lines_for, made_up
from tickstone.proof.eight_bit.chip import DoesNotCompileError, DoesNotFitError, build
from tickstone.proof.eight_bit.listening import listen_on_chip
from tickstone.proof.heard import Heard
from tickstone.targets import TARGETS

CPP = TARGETS["cpp"]


def ran(plan: ListeningPlan, told: dict[str, list[float]], lines: int, folder: Path) -> Heard:
    program = CPP.listening(plan, "rig")
    heard = listen_on_chip(build(program.text, folder), plan, told, lines)
    assert program.identity in heard.banner
    assert list(heard.columns) == [one.name for one in plan.columns]
    assert len(heard.rows) == lines
    return heard


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
    assert not disagreements(plan, heard, told)
    written = {(register, value) for _, register, value in heard.written}
    assert written == {(107, 1), (26, 3), (28, 0), (27, 0)}
    times = heard.column("t")
    assert {round(b - a, -2) for a, b in pairwise(times)} == {76_000}


@pytest.mark.parametrize("family", sensors())
def test_every_kind_of_device_is_read(family: str, tmp_path: Path) -> None:
    plan = listening_plan("Rig", rig_of([family]))
    lines = lines_for(plan)
    told = made_up(plan, lines, seed=len(family))
    assert not disagreements(plan, ran(plan, told, lines, tmp_path), told)


def test_pulses_are_counted_on_any_pin_that_can_interrupt(tmp_path: Path) -> None:
    plan = listening_plan("Rig", rig_of(["slotted_encoder"] * 4))
    assert [one.by for one in plan.of(EdgesReading)].count("pin change") == 2
    told = made_up(plan, 12, seed=5)
    assert not disagreements(plan, ran(plan, told, 12, tmp_path), told)


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
        assert not disagreements(plan, ran(plan, told, lines, tmp_path), told)


def test_a_long_line_is_slower_but_whole(tmp_path: Path) -> None:
    plan = listening_plan("Rig", rig_of(["six_axis"] + ["ultrasonic_ranger"] * 4, SMALL_BOARDS[1]))
    assert plan.pace.notes
    told = made_up(plan, 6, seed=1)
    assert not disagreements(plan, ran(plan, told, 6, tmp_path), told)


def test_what_the_chip_has_no_room_for_is_told_apart_from_a_fault(tmp_path: Path) -> None:
    half = ", ".join("7" for _ in range(20_000))
    tables = "".join(f"static const uint8_t {name}[] PROGMEM = {{{half}}};\n" for name in "TU")
    both = "pgm_read_byte(&T[millis()]) + pgm_read_byte(&U[millis()])"
    large, use = tables, f"void setup() {{ Serial.print({both}); }}\nvoid loop() {{}}\n"
    with pytest.raises(DoesNotFitError, match="more than the chip"):
        build(large + use, tmp_path)
    with pytest.raises(DoesNotCompileError, match="does not compile") as caught:
        build("void setup() { nonsense }\nvoid loop() {}\n", tmp_path)
    assert not isinstance(caught.value, DoesNotFitError)
