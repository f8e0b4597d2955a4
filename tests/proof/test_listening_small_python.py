"""Listening programs of small Python, run by its own interpreter and held to its board's world."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import pytest
from tests.proof.rigs import demo_plan, random_plan, rig_of, sensors

from tickstone.core.listening.plan import ListeningPlan, listening_plan
from tickstone.proof.agreement import disagreements, lines_for, made_up
from tickstone.proof.small_python.listening import listen_on_interpreter
from tickstone.targets import TARGETS

SMALL = TARGETS["small-python"]
BOARDS = ("three_volt_dual_core", "three_volt_wireless")


def holds(plan: ListeningPlan, lines: int, seed: int) -> None:
    program = SMALL.listening(plan, "rig")
    told = made_up(plan, lines, seed)
    heard = listen_on_interpreter(program.text, plan, told, lines)
    assert program.identity in heard.banner
    assert list(heard.columns) == [one.name for one in plan.columns]
    assert len(heard.rows) == lines
    assert not disagreements(plan, heard, told)
    times = [one for one in heard.column("t") if one is not None]
    assert times == sorted(times), "its time ran back over the wrap of the board’s counter"


def test_a_demo_rig_hears_what_its_world_says() -> None:
    holds(demo_plan("pipit", SMALL.wanted()), 40, seed=1)


@pytest.mark.parametrize("family", sensors())
def test_every_kind_of_device_is_read(family: str) -> None:
    plan = listening_plan("Rig", rig_of([family], BOARDS[0]), SMALL.wanted())
    holds(plan, lines_for(plan), seed=len(family))


def test_random_rigs_run() -> None:
    for seed in range(20):
        plan = random_plan(seed, BOARDS, SMALL)
        holds(plan, lines_for(plan), seed)


@pytest.mark.parametrize("target", ["small-python", "python"])
def test_text_is_formatted_and_uses_what_it_imports(target: str, tmp_path: Path) -> None:
    boards = BOARDS if target == "small-python" else ("three_volt_single_board_computer",)
    for seed in range(100):
        text = TARGETS[target].listening(random_plan(seed, boards, TARGETS[target]), "rig").text
        (tmp_path / f"rig_{seed}.py").write_text(text, encoding="utf-8")
    ruff = Path(sys.executable).with_name("ruff")
    for words in (["format", "--check", "--line-length", "100"], ["check", "--select", "E,F,W,B"]):
        done = subprocess.run(
            [ruff, *words, "--isolated", "--ignore", "E501", str(tmp_path)]
            if words[0] == "check"
            else [ruff, *words, "--isolated", "--diff", str(tmp_path)],
            capture_output=True, text=True, check=False,
        )  # fmt: skip
        assert done.returncode == 0, done.stdout[-3_000:]
