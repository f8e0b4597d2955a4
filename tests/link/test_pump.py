"""The pump: every byte with its time and in order, whatever the taker is doing."""

from __future__ import annotations

import os
import pty
import time
import tty
from collections.abc import Iterator
from pathlib import Path
from threading import Thread

import pytest
from tests.board import wait_for

from tickstone.link import pump as pump_module
from tickstone.link.board import BOARDS
from tickstone.link.board.line import BITS_PER_BYTE, BoardLine
from tickstone.link.pump import Piece, Pump, now_us
from tickstone.link.serial_port import SerialSource
from tickstone.link.source import LineLostError

TERMINAL_BYTES = 20_000
"""More than a pseudo-terminal holds: what may come at once when its reader was away."""


@pytest.fixture
def ends() -> Iterator[tuple[int, str]]:
    """A pseudo-terminal: the board's end, and the path of the other."""
    master, other = pty.openpty()
    tty.setraw(other)
    try:
        yield master, os.ttyname(other)
    finally:
        os.close(other)
        os.close(master)


def taken(pump: Pump, count: int) -> list[Piece]:
    """Pieces until so many bytes are there."""
    pieces: list[Piece] = []

    def is_enough() -> bool:
        pieces.extend(pump.take())
        return sum(len(piece.data) for piece in pieces) >= count

    wait_for(is_enough)
    return pieces


def test_nothing_is_lost_while_the_taker_is_away(ends: tuple[int, str]) -> None:
    """Ten times what the terminal itself holds, written before anybody takes."""
    master, path = ends
    sent = b"".join(b"%06d\n" % n for n in range(24_000))
    pump = Pump(SerialSource(path, 2_000_000))
    pump.start()
    before = now_us()
    left = memoryview(sent)
    while left:
        left = left[os.write(master, left) :]
    pieces = taken(pump, len(sent))
    assert b"".join(piece.data for piece in pieces) == sent
    times = [piece.at_us for piece in pieces]
    assert times == sorted(times)
    assert before <= times[0]
    assert times[-1] <= now_us()
    pump.close()


def test_a_piece_keeps_the_time_it_came_at(ends: tuple[int, str]) -> None:
    master, path = ends
    pump = Pump(SerialSource(path, 115_200))
    pump.start()
    os.write(master, b"early\n")
    time.sleep(0.5)
    late_us = now_us()
    os.write(master, b"late\n")
    time.sleep(0.2)
    pieces = taken(pump, len(b"early\nlate\n"))
    assert [piece.data for piece in pieces] == [b"early\n", b"late\n"]
    assert pieces[0].at_us < late_us <= pieces[1].at_us
    assert pieces[1].at_us - pieces[0].at_us > 400_000
    assert pump.take() == []
    pump.close()


def take_to_the_end(pump: Pump, came: list[bytes]) -> None:
    while True:
        came.extend(piece.data for piece in pump.take())


class Said:
    """A source that says these things as fast as it is asked, then is gone."""

    byte_us = 0.0

    def __init__(self, *things: bytes) -> None:
        self.left = list(things)
        self.is_closed = False

    def read(self) -> bytes:
        if not self.left:
            raise LineLostError("the cable was pulled")
        return self.left.pop(0)

    def overran(self) -> bool:
        return False

    def write(self, data: bytes) -> None:
        raise LineLostError("nobody listens")

    def close(self) -> None:
        self.is_closed = True


def test_the_end_is_told_only_after_all_that_came_before_it() -> None:
    source = Said(*(b"%d\n" % n for n in range(500)))
    pump = Pump(source)
    pump.start()
    wait_for(lambda: not source.left)
    came: list[bytes] = []
    with pytest.raises(LineLostError, match="pulled"):
        take_to_the_end(pump, came)
    assert b"".join(came) == b"".join(b"%d\n" % n for n in range(500))
    with pytest.raises(LineLostError):
        pump.take()
    pump.close()
    assert source.is_closed


class Broken(Said):
    """A source that fails in a way nobody foresaw."""

    def read(self) -> bytes:
        return super().read() if self.left else bytes(1 // 0)


def test_whatever_ends_the_reading_is_told() -> None:
    pump = Pump(Broken(b"1\n"))
    pump.start()
    came: list[bytes] = []
    with pytest.raises(LineLostError, match="ZeroDivisionError"):
        take_to_the_end(pump, came)
    assert came == [b"1\n"]
    pump.close()


def test_more_than_memory_should_hold_waits_in_the_source(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(pump_module, "MOST_WAITING_BYTES", 2_000)
    source = Said(*(b"x" * 100 for _ in range(100)))
    pump = Pump(source)
    pump.start()
    wait_for(lambda: len(source.left) < 80)
    time.sleep(0.2)
    assert len(source.left) == 79  # one piece over the bound, and not one more
    assert sum(len(piece.data) for piece in taken(pump, 10_000)) == 10_000
    pump.close()


def test_a_pump_nobody_started_lets_go_all_the_same() -> None:
    source = Said()
    Pump(source).close()
    assert source.is_closed


def test_a_board_that_was_held_up_catches_up_no_faster_than_its_wire(tmp_path: Path) -> None:
    """Held for a second, then let go: what it owes comes at the wire's pace, not in a burst."""
    firmware = BOARDS["twelve"](1)
    link = tmp_path / "board"
    line = BoardLine(firmware, link)
    stopped = False
    thread = Thread(target=line.run, args=(lambda: not stopped,))
    thread.start()
    wait_for(link.exists)
    pump = Pump(SerialSource(str(link), firmware.speed))
    pump.start()
    taken(pump, 40_000)
    firmware_tick = firmware.tick

    def held_up() -> list[str]:
        time.sleep(1.0)
        firmware.tick = firmware_tick  # type: ignore[method-assign]
        return firmware_tick()

    firmware.tick = held_up  # type: ignore[method-assign]
    time.sleep(0.5)
    pump.take()
    pieces = taken(pump, 60_000)
    stopped = True
    thread.join()
    pump.close()
    assert line.lost_bytes == 0
    count = sum(len(piece.data) for piece in pieces) - TERMINAL_BYTES
    assert pieces[-1].at_us - pieces[0].at_us > count * BITS_PER_BYTE / firmware.speed * 1e6
