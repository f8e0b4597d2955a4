"""The stand-in board: a seed decides all, faults look as they should, and the wire is real."""

from __future__ import annotations

import subprocess
import sys
import time
import uuid
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from tests.board import BoardProcess

from tickstone.core.lines.reader import LineReader
from tickstone.core.lines.splitter import LineSplitter
from tickstone.link.board import BOARDS
from tickstone.link.board.faults import FAULTS
from tickstone.link.board.line import garbled
from tickstone.link.board.world import CONTROLS
from tickstone.link.ports import list_all_ports, stand_in_folder
from tickstone.link.serial_port import SerialSource, guess_speed
from tickstone.link.source import LineLostError, PortError


def printed(name: str, ticks: int, *commands: str, seed: int = 1):
    """What a board prints in so many turns after these commands, as channels by name."""
    firmware = BOARDS[name](seed)
    lines = firmware.banner()
    for command in commands:
        lines += firmware.obey(command)
    for _ in range(ticks):
        lines += firmware.tick()
    return lines


def channels(lines: list[str]) -> dict[str, np.ndarray]:
    splitter, reader = LineSplitter(), LineReader()
    text = "\n".join(lines).encode("latin-1", "replace") + b"\n"
    rows, _ = reader.feed(splitter.feed(text, 0))
    rows += reader.settle()[0]
    assert reader.shape is not None
    names = [reader.shape.columns[index].name for index in reader.shape.channels]
    return {n: np.array([row.values[k] for row in rows]) for k, n in enumerate(names)} | {
        "time_us": np.array([row.time_us for row in rows])
    }


@pytest.mark.parametrize("name", BOARDS)
def test_a_seed_decides_everything(name: str) -> None:
    assert printed(name, 200) == printed(name, 200)
    assert printed(name, 200) != printed(name, 200, seed=2)
    done = subprocess.run(
        [sys.executable, "-m", "tickstone.cli.board", name, "--to-screen", "50"],
        capture_output=True, text=True, check=True,
    )  # fmt: skip
    assert done.stdout.splitlines() == printed(name, 60)[:50]


def test_bramble_says_what_is_true() -> None:
    data = channels(printed("bramble", 400, "target 0.6", "spin 2", "pitch 6", "air 25"))
    late = {name: values[-100:] for name, values in data.items()}
    # 0.6 m and its return in air of 25 °C: 1.2 m at about 346.4 m/s, within the sensor's 1.2 mm.
    assert np.median(late["front"]) == pytest.approx(2 * 0.6012 / 346.4 * 1e6, rel=0.003)
    # Four magnets, two turns a second: 8 pulses a second, 40 ms a line.
    assert np.diff(late["hall_count"]).mean() == pytest.approx(0.32, rel=0.1)
    # Nose up by 6°: the deck feels sin 6° along its nose, by its scale, plus its bias of 12 mg.
    felt = 1.011 * np.sin(np.radians(6)) + 0.012
    assert late["ax"].mean() / 16_384 == pytest.approx(felt, abs=0.002)
    assert late["air"].mean() == pytest.approx(25, abs=0.1)
    assert np.diff(data["time_us"]).mean() == pytest.approx(40_000, rel=0.01)


def test_a_strip_is_as_wide_as_told_and_winds_as_the_cart_rolls() -> None:
    still = channels(printed("bramble", 200, "width 60"))
    dark = [name for name in ("ir1", "ir2", "ir3", "ir4", "ir5") if still[name].mean() > 600]
    assert dark == ["ir2", "ir3", "ir4"]
    winding = channels(printed("bramble", 400, "bend 30", "spin 2"))
    assert np.ptp(winding["ir2"][100:]) > 400 < np.ptp(winding["ir4"][100:])
    parked = channels(printed("bramble", 400, "bend 30"))
    assert np.ptp(parked["ir2"][100:]) < 60


def near(value: float, wanted: float) -> bool:
    return value == pytest.approx(wanted, rel=0.05)


FAULT_LOOKS = {
    "stuck": lambda good, bad: np.ptp(bad["front"]) == 0 < np.ptp(good["front"]),
    "swapped": lambda good, bad: near(np.median(bad["front"]), np.median(good["left"])),
    "no_pull_up": lambda good, bad: bad["hall_count"][-1] > good["hall_count"][-1] + 100,
    "both_edges": lambda good, bad: near(bad["hall_count"][-1], 2 * good["hall_count"][-1]),
    "saturated": lambda good, bad: (bad["ir3"] == bad["ir3"].min()).all() and bad["ir3"][0] < 40,
    "loose_ground": lambda good, bad: bad["ir3"].std() > 5 * good["ir3"].std(),
    "dirt": lambda good, bad: bad["ir1"].min() > good["ir1"].max() + 200,
    "unlit": lambda good, bad: bad["ir4"].min() > good["ir4"].max() > 700,
    "crossed": lambda good, bad: near(np.median(bad["ir2"]), np.median(good["ir4"])),
    "glare": lambda good, bad: bad["ir1"].mean() - good["ir1"].mean() > 5 > (
        bad["ir5"].mean() - good["ir5"].mean()
    ),
    "wrong_supply": lambda good, bad: (bad["front"] == 0).all(),
}  # fmt: skip


@pytest.mark.parametrize("fault", FAULT_LOOKS)
def test_a_fault_looks_as_it_does_on_a_real_board(fault: str) -> None:
    commands = ["target 1.5", "spin 3", "line 30"]
    good = channels(printed("bramble", 300, *commands))
    bad = channels(printed("bramble", 300, *commands, f"fault {fault} on"))
    good, bad = ({n: v[100:] for n, v in one.items()} for one in (good, bad))
    assert FAULT_LOOKS[fault](good, bad)


@pytest.mark.parametrize("name", ["bramble", "pipit"])
def test_a_wrap_is_undone_and_a_reset_loop_is_seen(name: str) -> None:
    period_us = BOARDS[name].period_s * 1e6
    wrapped = channels(printed(name, 600, "fault wrap on"))
    steps = np.diff(wrapped["time_us"])
    assert steps.max() < 3 * period_us
    looping = printed(name, 400, "fault reset_loop on")
    assert sum("program 7" in line or "ready" in line for line in looping) >= 4


def test_every_fault_and_control_is_offered_somewhere() -> None:
    assert {fault.word for fault in FAULTS} == {w for b in BOARDS.values() for w in b.fault_words}
    assert {c.word for c in CONTROLS} == {w for b in BOARDS.values() for w in b.controls}


NONSENSE = ["", "target", "target x", "target nan", "target inf", "fault", "fault x on", "\x00"]


@pytest.mark.parametrize("command", [*NONSENSE, "target 1 2 3", "a" * 500])
def test_nonsense_is_passed_over(command: str) -> None:
    assert printed("bramble", 20, command) == printed("bramble", 20)


def test_bytes_at_another_speed_are_no_text() -> None:
    text = b"40035,4667,2041,214,501,788,500,214,0,0,148\r\n" * 5
    assert garbled(text, 1.0) == text
    for ratio in (0.5, 2.0, 0.083):
        assert garbled(text, ratio) != text


@pytest.fixture
def board() -> Iterator[BoardProcess]:
    folder = stand_in_folder()
    folder.mkdir(mode=0o700, exist_ok=True)
    board = BoardProcess("bramble", folder / f"bramble-{uuid.uuid4().hex[:8]}")
    yield board
    board.stop()


def heard(source: SerialSource, seconds: float) -> bytes:
    data = b""
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        data += source.read()
    return data


def test_a_real_port_is_listed_guessed_shared_and_pulled(board: BoardProcess) -> None:
    path = str(board.link)
    assert path in [port.path for port in list_all_ports()]
    assert guess_speed(path, (9_600, 57_600, 115_200)).speed == 115_200
    time.sleep(0.3)  # a board notices that its port was let go, and restarts when it is opened
    source = SerialSource(path, 115_200)
    text = heard(source, 1.0)
    assert b"Bramble cart, bench program 7" in text
    assert 15 <= text.count(b"\n") <= 35
    with pytest.raises(PortError, match="open already"):
        SerialSource(path, 115_200)
    source.write(b"fault unplug on\n")
    with pytest.raises(LineLostError):
        heard(source, 3.0)
    source.close()
    with pytest.raises(PortError, match="no port"):
        SerialSource(path, 115_200)


def test_a_second_board_at_the_same_place_is_refused(board: BoardProcess) -> None:
    done = subprocess.run(
        [sys.executable, "-m", "tickstone.cli.board", "pipit", "--link", str(board.link)],
        capture_output=True, text=True, check=False,
    )  # fmt: skip
    assert done.returncode == 1
    assert "open already" in done.stderr
    assert Path(board.link).exists()
