"""A serial port of this machine."""

from __future__ import annotations

import errno
import fcntl
import struct
import time
from dataclasses import dataclass

import serial

from tickstone.core.lines.speed import COMMON_SPEEDS, READABLE_ENOUGH, readable_share
from tickstone.link.ports import held_by
from tickstone.link.source import LineLostError, PortError

_READ_S = 0.01
_GET_COUNTS = 0x545D
"""Linux's TIOCGICOUNT: how often a serial port saw what, `struct serial_icounter_struct`."""
_OVERRUN, _BUFFER_OVERRUN = 7, 10
_MOST_BYTES = 65_536
_LISTEN_S = 0.45
_ENOUGH_BYTES = 120


class SerialSource:
    """An open port, for ourselves alone.

    resets: whether the board may be reset on opening, which many boards are by the DTR line.
    """

    def __init__(self, path: str, speed: int, resets: bool = True) -> None:
        self.byte_us = 1e7 / speed
        self._port = serial.Serial()
        self._port.port = path
        self._port.baudrate = speed
        self._port.timeout = _READ_S
        self._port.write_timeout = 0.5
        self._port.exclusive = True
        if not resets:
            self._port.dtr = False
            self._port.rts = False
        try:
            self._port.open()
        except (OSError, ValueError) as error:
            raise PortError(_why(path, error)) from error
        self._overruns = self._count_overruns()

    def read(self) -> bytes:
        try:
            first: bytes = self._port.read(1)
            waiting = min(self._port.in_waiting, _MOST_BYTES)
            return first + self._port.read(waiting) if waiting else first
        except (OSError, TypeError) as error:
            raise LineLostError("the port is gone") from error

    def overran(self) -> bool:
        """By the kernel's own count, which real ports have and pseudo-terminals have not."""
        if self._overruns is None:
            return False
        before, self._overruns = self._overruns, self._count_overruns()
        return self._overruns is not None and self._overruns > before

    def _count_overruns(self) -> int | None:
        try:
            counts = struct.unpack("20i", fcntl.ioctl(self._port.fileno(), _GET_COUNTS, bytes(80)))
        except (OSError, TypeError):
            return None
        return int(counts[_OVERRUN] + counts[_BUFFER_OVERRUN])

    def write(self, data: bytes) -> None:
        try:
            self._port.write(data)
        except (OSError, TypeError) as error:
            raise LineLostError("the port is gone") from error

    def close(self) -> None:
        self._port.close()


def _why(path: str, error: Exception) -> str:
    text = str(error)
    number = getattr(error, "errno", None)
    if number == errno.ENOENT or "No such file" in text:
        return f"There is no port {path} any more. Is the cable in?"
    if number == errno.EACCES or "Permission denied" in text:
        return (
            f"This user may not open {path}. On Debian: add the user to the group “dialout” and "
            "log in again."
        )
    if number == errno.EBUSY or "lock" in text or "busy" in text.lower():
        holder = held_by(path)
        who = f"{holder} has it" if holder else "Tick Stone itself has it, or another user"
        return f"{path} is open already: {who}. Close it there and try again."
    return f"{path} cannot be opened: {text}"


@dataclass(frozen=True, slots=True)
class SpeedGuess:
    """What was heard at each speed. speed: the best, or None when nothing readable was heard."""

    speed: int | None
    heard: tuple[tuple[int, int, float], ...]
    """(speed, bytes, readable share)."""


def guess_speed(path: str, speeds: tuple[int, ...] = COMMON_SPEEDS) -> SpeedGuess:
    """Open a port at one speed after the other until what comes is readable. Raises PortError."""
    heard = []
    for speed in speeds:
        source = SerialSource(path, speed)
        data = b""
        try:
            until = time.monotonic() + _LISTEN_S
            while time.monotonic() < until and len(data) < 20 * _ENOUGH_BYTES:
                data += source.read()
                if len(data) > _ENOUGH_BYTES and readable_share(data) > 0.97:
                    break
        except LineLostError:
            pass
        finally:
            source.close()
        share = readable_share(data)
        heard.append((speed, len(data), share))
        if len(data) >= 8 and share >= READABLE_ENOUGH:
            return SpeedGuess(speed, tuple(heard))
        if not data and len(heard) >= 3 and all(count == 0 for _, count, _ in heard):
            break  # a silent line has no speed to be guessed
    return SpeedGuess(None, tuple(heard))
