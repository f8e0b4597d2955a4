"""The stand-in board's wire: a pseudo-terminal with a speed, a cable that can be pulled, a pace."""

from __future__ import annotations

import contextlib
import errno
import fcntl
import os
import select
import struct
import termios
import time
import tty
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

from tickstone.link.board.firmware import Firmware

UNPLUGGED_S = 3.0
START_S = 0.06
"""How long a board takes from being opened to its first word."""
BITS_PER_BYTE = 10.0
BUFFERED_BYTES = 64
"""What a serial controller takes before a print has to wait for the wire; common practice."""
_GET_SPEED = 0x802C542A
"""Linux's TCGETS2: the only call that tells uncommon speeds too."""


@dataclass(slots=True)
class BoardLine:
    """Runs a firmware on a pseudo-terminal behind a stable path.

    Like many a board it restarts when somebody opens its port, unless it ran on battery meanwhile.

    link: a symbolic link to wherever the terminal is at the moment; a reader opens the link.
    """

    firmware: Firmware
    link: Path
    lost_bytes: int = 0
    _master: int = -1
    _is_heard: bool = False
    _kept_running: bool = False
    _pending: bytes = b""
    _wire_is_free_at: float = 0.0
    _commands: bytes = field(default=b"")

    def run(self, goes_on: Callable[[], bool] = lambda: True) -> None:
        """Talk until told to stop. goes_on: asked each turn."""
        self._plug_in()
        next_at = time.monotonic()
        try:
            while goes_on():
                self._obey()
                for line in self.firmware.tick():
                    self._print(line)
                if "unplug" in self.firmware.faults:
                    self.firmware.faults.discard("unplug")
                    self._unplug()
                    next_at = time.monotonic()
                next_at += self.firmware.period_s
                self._wait_until(next_at)
        finally:
            self._pull_out()

    def _plug_in(self) -> None:
        self._master, slave = os.openpty()
        tty.setraw(slave)
        name = os.ttyname(slave)
        os.close(slave)
        os.set_blocking(self._master, False)
        fresh = self.link.with_name(f".{self.link.name}.new")
        fresh.unlink(missing_ok=True)
        fresh.symlink_to(name)
        fresh.replace(self.link)
        self._is_heard = False

    def _pull_out(self) -> None:
        self.link.unlink(missing_ok=True)
        with contextlib.suppress(OSError):
            os.close(self._master)

    def _unplug(self) -> None:
        """The cable is out; the board goes on, powered by its battery."""
        self._pull_out()
        back_at = time.monotonic() + UNPLUGGED_S
        while time.monotonic() < back_at:
            self.firmware.tick()
            time.sleep(self.firmware.period_s)
        self._plug_in()
        self._kept_running = True

    def _wait_until(self, at: float) -> None:
        while (left := at - time.monotonic()) > 0:
            time.sleep(min(left, 0.02))

    def _listens(self) -> bool:
        """Whether somebody has the other end open."""
        poll = select.poll()
        poll.register(self._master, 0)
        hung_up = any(event & select.POLLHUP for _, event in poll.poll(0))
        return not hung_up

    def _print(self, line: str) -> None:
        if not self._listens():
            self._is_heard, self._pending = False, b""
            return
        if not self._is_heard:
            self._is_heard = True
            if not self._kept_running:
                time.sleep(START_S)
                for start in self.firmware.reset():
                    self._send(start)
                self._kept_running = False
                return
            self._kept_running = False
        self._send(line)

    def _send(self, line: str) -> None:
        data = line.encode("latin-1", errors="replace") + b"\r\n"
        heard_at = line_speed(self._master)
        if heard_at and abs(heard_at / self.firmware.speed - 1.0) > 0.03:
            data = garbled(data, heard_at / self.firmware.speed)
        self._wait_for_wire(len(data))
        data, self._pending = self._pending + data, b""
        try:
            sent = os.write(self._master, data)
        except OSError as error:
            if error.errno in (errno.EAGAIN, errno.EIO):
                self.lost_bytes += len(data)
                return
            raise
        self._pending = data[sent:][-4_096:]
        self.lost_bytes += max(0, len(data) - sent - 4_096)

    def _wait_for_wire(self, count: int) -> None:
        """A board that was held up catches up no faster than its wire carries."""
        byte_s = BITS_PER_BYTE / self.firmware.speed
        now = time.monotonic()
        begins_at = max(now, self._wire_is_free_at)
        self._wire_is_free_at = begins_at + count * byte_s
        time.sleep(max(0.0, begins_at - now - BUFFERED_BYTES * byte_s))

    def _obey(self) -> None:
        try:
            self._commands += os.read(self._master, 4_096)
        except OSError:
            return
        *whole, self._commands = self._commands.replace(b"\r", b"\n").split(b"\n")
        self._commands = self._commands[-200:]
        for command in whole:
            for line in self.firmware.obey(command.decode("ascii", errors="replace")[:200]):
                self._print(line)


def line_speed(terminal: int) -> int:
    """The speed a terminal is set to, bits per second; 0 when it cannot be told."""
    try:
        answer = fcntl.ioctl(terminal, _GET_SPEED, bytes(44))
    except OSError:
        return _common_speed(terminal)
    return int(struct.unpack_from("<I", answer, 40)[0])


def _common_speed(terminal: int) -> int:
    code = termios.tcgetattr(terminal)[5]
    names = {getattr(termios, n): n for n in dir(termios) if n.startswith("B") and n[1:].isdigit()}
    return int(names.get(code, "B0")[1:])


def garbled(data: bytes, ratio: float) -> bytes:
    """What bytes look like when they are sampled at `ratio` times their speed.

    Ten bits a byte, a start and a stop bit, sampled in the middle of each bit of the reader.
    """
    bits: list[int] = []
    for byte in data:
        bits += [0, *((byte >> n) & 1 for n in range(8)), 1]
    heard = bytearray()
    at, end = 0.0, float(len(bits))
    while at < end:
        if bits[int(at)] == 1:  # idle; wait for a start bit, an eighth of a bit at a time
            at += 0.125
            continue
        byte = 0
        for n in range(8):
            place = int(at + (n + 1.5) / ratio)
            byte |= (bits[place] if place < len(bits) else 1) << n
        heard.append(byte)
        at += 9.5 / ratio
    return bytes(heard)
