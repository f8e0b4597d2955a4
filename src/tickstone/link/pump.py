"""Takes bytes off a line the moment they come, whatever else the program is busy with."""

from __future__ import annotations

import time
from collections import deque
from dataclasses import dataclass
from threading import Event, Lock, Thread

from tickstone.link.source import LineLostError, Source

GATHER_S = 0.008
"""How long a taker waits for more once something is there: work is cheaper by the handful."""
MOST_WAITING_BYTES = 2 * 1024 * 1024
"""Seven seconds of the fastest serial lines, which cannot wait; what can wait has to."""
_CLOSED_WITHIN_S = 5.0


@dataclass(frozen=True, slots=True)
class Piece:
    """Bytes of one read. at_us: when they were there, µs since 1970 by the host's clock.

    is_torn: others were lost before, among or right after them.
    """

    data: bytes
    at_us: int
    is_torn: bool = False


class Pump:
    """Reads a source in a thread that does nothing else.

    A port's own buffer holds a quarter of a second of a fast line; whoever understands and draws it
    may well be away for longer. Here what came waits, with the time it came at. When more than
    MOST_WAITING_BYTES wait the source has to.
    """

    def __init__(self, source: Source) -> None:
        self._source = source
        self._pieces: deque[Piece] = deque()
        self._waiting_bytes = 0
        self._lock = Lock()
        self._something = Event()
        self._closing = Event()
        self._lost: LineLostError | None = None
        self._thread: Thread | None = None

    def start(self) -> None:
        """Begin to read."""
        self._thread = Thread(target=self._run, name="pump", daemon=True)
        self._thread.start()

    def take(self, wait_s: float = 0.02) -> list[Piece]:
        """All that came since the last time; waits for the first of it as long as `wait_s`.

        Raises LineLostError when the line is gone and all that came before has been taken.
        """
        if self._something.wait(wait_s) and self._lost is None:
            self._closing.wait(GATHER_S)
        with self._lock:
            pieces = list(self._pieces)
            self._pieces.clear()
            self._waiting_bytes = 0
            if not pieces and self._lost is not None:
                raise self._lost
            if self._lost is None:
                self._something.clear()
        return pieces

    def write(self, data: bytes) -> None:
        """Send something to the board. Raises LineLostError."""
        self._source.write(data)

    def close(self) -> None:
        """Let go of the line; what still waits is thrown away."""
        self._closing.set()
        if self._thread is not None:
            self._thread.join(timeout=_CLOSED_WITHIN_S)
        self._source.close()

    def _run(self) -> None:
        while not self._closing.is_set():
            if self._waiting_bytes > MOST_WAITING_BYTES:
                self._closing.wait(GATHER_S)
                continue
            try:
                data = self._source.read()
                is_torn = bool(data) and self._source.overran()
            except Exception as error:  # whatever ended it, the taker is told
                with self._lock:
                    self._lost = (
                        error
                        if isinstance(error, LineLostError)
                        else LineLostError(f"reading broke off ({type(error).__name__}: {error})")
                    )
                    self._something.set()
                return
            if data:
                piece = Piece(data, now_us(), is_torn)
                with self._lock:
                    self._pieces.append(piece)
                    self._waiting_bytes += len(data)
                    self._something.set()


_ANCHOR_NS = time.time_ns() - time.monotonic_ns()


def now_us() -> int:
    """The host's time, µs since 1970, that never jumps: the clock is read once, when this program
    starts; from then on it is counted. An hour back or forth changes nothing in a recording.
    """
    return (_ANCHOR_NS + time.monotonic_ns()) // 1_000
