"""One open line: read in a thread of its own, understood, kept for watchers, recorded."""

from __future__ import annotations

import itertools
import logging
import time
from collections import deque
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from threading import Event, RLock, Thread
from typing import Literal

import numpy as np

from tickstone.core.blocks import Block
from tickstone.core.lines.reader import JudgedLine, LineReader, Row
from tickstone.core.lines.shape import LineShape, learn_shape
from tickstone.core.lines.splitter import LineSplitter, RawLine
from tickstone.core.lines.tearing import Tearing
from tickstone.core.lines.tokens import Manner
from tickstone.link.pump import Piece, Pump, now_us
from tickstone.link.source import LineLostError, PortError, Source
from tickstone.targets.target import IDENTITY
from tickstone.work.live.recorder import Recorder
from tickstone.work.live.ring import Ring
from tickstone.work.running import BoardProgram

State = Literal["live", "lost", "ended"]

SETTLE_AFTER_S = 1.2
REOPEN_EVERY_S = 0.2
KEPT_LINES = 400
MOST_SLIPS = 5
"""After so many errors of our own a line is closed instead of begun anew."""
_CLOCKS_APART_US = 400_000
_RATE_OVER_S = 2.0
_SILENCE_S = 0.5
"""Before this the next lines may be on their way; after it the rate falls."""
_SILENT_AFTER_S = 1.0
_OVER_S = 30.0
_SHORTEST_S = 0.25


@dataclass(frozen=True, slots=True)
class LinePlace:
    """Where a line comes from. kind: line, stand-in, page or replay. path: of the port, or "".

    again: opens it once more after it was lost; None when that cannot be.
    """

    kind: str
    path: str
    label: str
    speed: int | None
    resets: bool
    again: Callable[[], Source] | None


@dataclass(slots=True)
class Counters:
    """What came over a line since it was opened."""

    bytes: int = 0
    lines: int = 0
    rows: int = 0
    bad: int = 0
    text: int = 0
    missing: int = 0
    never_came: int = 0
    lost: int = 0


class LiveLine:
    """A line that somebody listens to.

    settle_shape: what is remembered of lines like these, asked once a shape was learnt.
    """

    def __init__(
        self,
        rig_id: int,
        place: LinePlace,
        source: Source,
        settle_shape: Callable[[LineShape], LineShape] = lambda shape: shape,
    ) -> None:
        self.rig_id = rig_id
        self.place = place
        self.state: State = "live"
        self.trouble = ""
        self.revision = 0
        self.counters = Counters()
        self.ring: Ring | None = None
        self.lines: deque[JudgedLine] = deque(maxlen=KEPT_LINES)
        self.sensors: dict[str, int] = {}
        self.signature: list[str] = []
        self.recorder: Recorder | None = None
        self.opened_at_us = now_us()
        self._pump = Pump(source)
        self.when_learnt: Callable[[LineShape], None] = lambda shape: None
        self.when_named: Callable[[str, str], None] = lambda kind, identity: None
        self.program: BoardProgram | None = None
        self._splitter = LineSplitter(source.byte_us)
        self._settle_shape = settle_shape
        self._reader = LineReader(settle_shape=settle_shape)
        self._slips = 0
        self._tearing = Tearing()
        self._shape: LineShape | None = None
        self._closing = Event()
        self._lock = RLock()
        self._offset_us: int | None = None
        self._last_us = 0
        self._last_host_us = 0
        self._after_gap = False
        self._quiet_since = time.monotonic()
        self._arrivals: deque[tuple[float, int]] = deque()
        self._intervals: deque[int] = deque(maxlen=400)
        self._last_arrival_us = 0
        self._thread = Thread(target=self._run, name=f"line of rig {rig_id}", daemon=True)

    # What the desk and the pages ask and tell.

    def start(self) -> None:
        """Begin to read."""
        self._pump.start()
        self._thread.start()

    def close(self) -> None:
        """Stop reading and let go of the port; a recording is closed first."""
        self._closing.set()
        self._thread.join(timeout=5.0)
        if self.recorder is not None:
            self.recorder.stop()
        self._pump.close()
        self.state = "ended"
        self._changed()

    def send(self, text: str) -> None:
        """Send a line of text to the board. Raises LineLostError."""
        self._pump.write(text.encode("utf-8", errors="replace") + b"\n")

    @property
    def shape(self) -> LineShape | None:
        """How the lines are read; None while it is not known."""
        return self._shape

    @property
    def half_line(self) -> str:
        """What has arrived of the next line."""
        return self._splitter.waiting

    def reshape(self, shape: LineShape) -> None:
        """Read with the person's shape from now on."""
        with self._lock:
            self._reader.reshape(shape)
            self._take_shape(shape)

    def rename(self, how: Callable[[LineShape], LineShape | None]) -> None:
        """Call the columns otherwise from the next line on; lines before keep their names.

        For the thread that reads. how: gets the shape of the next line; None leaves it.
        """
        learns_again, shape = self._reader.learns_again, self._reader.shape
        renamed = how(shape) if shape is not None and self.recorder is None else None
        if renamed is not None:
            self._reader.reshape(renamed)
            self._reader.learns_again = learns_again

    @property
    def waiting(self) -> list[JudgedLine]:
        """The lines that are to be learnt from."""
        return self._reader.waiting

    def relearn(self, manner: Manner | None) -> LineShape | None:
        """Learn from the last lines again, in a manner the person settled."""
        with self._lock:
            recent = self._reader.recent or [line.text for line in self.lines]
            shape = learn_shape(recent, manner)
            if shape is not None:
                self._reader.manner = manner
                self._reader.reshape(shape)
                self._reader.learns_again = manner is None
                self._take_shape(shape)
            return shape

    def record(self, recorder: Recorder) -> None:
        """Let what arrives from now on go to the recorder too."""
        with self._lock:
            self._reader.learns_again = False
            self.recorder = recorder
            self._changed()

    def stop_recording(self) -> Recorder | None:
        """Close the recording; None when there is none."""
        with self._lock:
            recorder, self.recorder = self.recorder, None
            self._changed()
        if recorder is not None:
            recorder.stop()
        return recorder

    @property
    def rate_hz(self) -> float:
        """Lines with values a second, over the last two seconds or the last two arrivals."""
        now, arrivals = time.monotonic(), list(self._arrivals)
        recent = [(at, n) for at, n in arrivals if at > now - _RATE_OVER_S]
        if len(recent) < 2:
            recent = arrivals[-2:]
        if len(recent) < 2 or now - recent[-1][0] > _OVER_S:
            return 0.0
        # What came first ended an interval that is not looked at.
        count = sum(n for _, n in recent[1:])
        first, last = recent[0][0], recent[-1][0]
        is_waiting = now - last < max(_SILENCE_S, last - first)
        return count / max(_SHORTEST_S, (last if is_waiting else now) - first)

    def jitter_us(self) -> float | None:
        """How unevenly lines arrive: spread of the intervals, as a standard deviation, µs."""
        intervals = np.array(list(self._intervals), dtype=np.float64)
        if len(intervals) < 8:
            return None
        return float(1.4826 * np.median(np.abs(intervals - np.median(intervals))))

    @property
    def silent_s(self) -> float:
        """How long no values have come, where that is longer than usual; else 0."""
        if not self._last_arrival_us:
            return 0.0
        passed_s = (now_us() - self._last_arrival_us) / 1e6
        usual_s = float(np.median(list(self._intervals) or [0])) / 1e6
        return passed_s if passed_s > max(_SILENT_AFTER_S, 4.0 * usual_s) else 0.0

    @property
    def clock_note(self) -> str:
        """What had to be undone in the board's clock, in words; "" when nothing."""
        clock = self._reader.clock
        if clock is None:
            return ""
        notes = []
        if clock.wraps:
            times = "once" if clock.wraps == 1 else f"{clock.wraps} times"
            notes.append(f"its {clock.word_bits or ''}-bit counter wrapped {times}, undone")
        if clock.restarts:
            times = "once" if clock.restarts == 1 else f"{clock.restarts} times"
            notes.append(f"the board restarted {times}")
        return "; ".join(notes)

    @property
    def axis_us(self) -> int:
        """The newest time on the line's axis, µs."""
        return self._last_us

    # The thread.

    def _run(self) -> None:
        while not self._closing.is_set():
            try:
                if not self._turn():
                    return
            except Exception as error:  # whatever it is: a thread that ended would be silence
                logging.getLogger(__name__).exception("a line could not be understood")
                if not self._began_anew(error):
                    return

    def _turn(self) -> bool:
        """Take what came; false when nothing will come any more."""
        try:
            pieces = self._pump.take()
        except LineLostError as error:
            return self._lost(str(error))
        if pieces:
            self._quiet_since = time.monotonic()
            self.counters.bytes += sum(len(piece.data) for piece in pieces)
            with self._lock:
                self._take_in(*self._reader.feed(self._lines_in(pieces)))
        elif self._shape is None and time.monotonic() - self._quiet_since > SETTLE_AFTER_S:
            with self._lock:
                self._take_in(*self._reader.settle())
        elif time.monotonic() - self._quiet_since > SETTLE_AFTER_S:
            with self._lock:
                self._count(self._tearing.rest())
        return True

    def _began_anew(self, error: Exception) -> bool:
        """After an error of our own: read on with an empty mind, or close when it comes again."""
        self._slips += 1
        if self._slips > MOST_SLIPS:
            self._pump.close()
            self.state = "ended"
            self.trouble = (
                f"Tick Stone slipped over what this line says, again and again "
                f"({type(error).__name__}), and closed it. What was recorded is safe."
            )
            self._changed()
            return False
        self.trouble = (
            f"Tick Stone slipped over what this line said ({type(error).__name__}); it lost what "
            "came with it and reads on."
        )
        with self._lock:
            self._reader = LineReader(settle_shape=self._settle_shape)
            if self.recorder is not None:
                # What is recorded keeps its shape.
                self._reader.shape, self._reader.learns_again = self._shape, False
                self.recorder.note_gap(self._last_us, self._last_us, "Tick Stone slipped here")
        self._changed()
        return True

    def _lines_in(self, pieces: list[Piece]) -> Iterator[RawLine]:
        return itertools.chain.from_iterable(self._lines_of(piece) for piece in pieces)

    def _lines_of(self, piece: Piece) -> Iterator[RawLine]:
        if piece.is_torn:
            self._splitter.tear()
        for line in self._splitter.feed(piece.data, piece.at_us):
            named = IDENTITY.search(line.text) if line.text.startswith("#") else None
            if named is not None:
                self.when_named(named["kind"], named["identity"])
            yield line
        if piece.is_torn:
            self._splitter.tear()

    def _lost(self, why: str) -> bool:
        """The line is gone: keep the half line, wait for it to come back. False when it cannot."""
        with self._lock:
            self._take_in(*self._reader.feed(self._splitter.rest(now_us())))
            self._take_in(*self._reader.settle())
            self._count(self._tearing.rest())
        self._pump.close()
        self.state = "ended" if self.place.again is None else "lost"
        self.trouble = why
        self.counters.lost += 1
        self._after_gap = True
        self._changed()
        while self.place.again is not None and not self._closing.wait(REOPEN_EVERY_S):
            try:
                self._pump = Pump(self.place.again())
            except (PortError, OSError):
                continue
            self._pump.start()
            self.state, self.trouble = "live", ""
            self._changed()
            return True
        return False

    def _take_in(self, rows: list[Row], judged: list[JudgedLine]) -> None:
        """Keep what was read, each row with the shape it was read with."""
        judged, missing = self._tearing.sort(rows, judged)
        self._count(judged)
        first = 0
        for _, group in itertools.groupby(rows, key=lambda row: id(row.shape)):
            alike = list(group)
            self._learnt(alike[0].shape)
            self._keep(alike, missing[first : first + len(alike)])
            first += len(alike)
        if self._reader.shape is not None:
            self._learnt(self._reader.shape)

    def _learnt(self, shape: LineShape) -> None:
        if shape is not self._shape:
            self._take_shape(shape)
            self.when_learnt(shape)

    def _take_shape(self, shape: LineShape) -> None:
        is_same_width = self._shape is not None and len(self._shape.channels) == len(shape.channels)
        self._shape = shape
        if self.ring is None or not is_same_width:
            self.ring = Ring(len(shape.channels))
        self._changed()

    def _count(self, judged: list[JudgedLine]) -> None:
        self.lines.extend(judged)
        self.counters.lines += len(judged)
        bad = [line for line in judged if line.is_bad]
        self.counters.bad += len(bad)
        self.counters.text += sum(line.verdict in ("text", "header") for line in judged)
        if self.recorder is not None:
            aside = [
                (line.number, line.text[:1_000], line.reason)
                for line in judged
                if line.is_bad or (line.verdict in ("text", "header") and line.text.strip())
            ]
            if aside:
                self.recorder.put_aside(aside)

    def _keep(self, rows: list[Row], missing: list[int]) -> None:
        assert self._shape is not None
        assert self.ring is not None
        count, width = len(rows), len(self._shape.channels)
        host_us = np.fromiter((row.host_us for row in rows), np.int64, count)
        before_us = self._last_us
        time_us = self._on_axis(rows)
        self._note_missing_lines(missing, time_us, before_us)
        values = np.array([row.values for row in rows], dtype=np.float64).reshape(count, width).T
        status = np.zeros((width, count), dtype=np.uint8)
        for index, row in enumerate(rows):
            if row.statuses is not None:
                status[:, index] = row.statuses
        flagged = [bool(row.any()) for row in status]
        self.counters.rows += count
        self.counters.missing += int(np.count_nonzero(status))
        self._note_arrivals(host_us)
        for first in range(0, count, 50_000):
            part = slice(first, first + 50_000)
            self.ring.append(time_us[part], host_us[part], values[:, part], status[:, part])
        if self.recorder is not None:
            block = Block(
                time_us,
                [np.ascontiguousarray(row) for row in values],
                [status[c] if flagged[c] else None for c in range(width)],
                host_us,
            )
            self.recorder.append(block)

    def _note_missing_lines(self, missing: list[int], time_us: np.ndarray, before_us: int) -> None:
        """Lines that never came, or only torn: a gap of the take, with how many there were."""
        for n, count in enumerate(missing):
            if count and self.recorder is not None:
                start = before_us if n == 0 else int(time_us[n - 1])
                lines = "line" if count == 1 else "lines"
                self.recorder.note_gap(start, int(time_us[n]), f"{count} {lines} never came")
            self.counters.never_came += count

    def _on_axis(self, rows: list[Row]) -> np.ndarray:
        """Times on one axis that starts when the line was opened and never runs back.

        The board's clock goes on through a gap when it agrees with the host's; else the host says
        how long the gap was.
        """
        result = np.empty(len(rows), dtype=np.int64)
        for index, row in enumerate(rows):
            if self._offset_us is None:
                self._offset_us = row.host_us - self.opened_at_us - row.time_us
            at = row.time_us + self._offset_us
            passed = row.host_us - self._last_host_us
            apart = abs((at - self._last_us) - passed)
            if self._last_host_us and (self._after_gap or at < self._last_us):
                before = self._last_us
                if apart > _CLOCKS_APART_US:
                    self._offset_us += self._last_us + max(0, passed) - at
                    at = row.time_us + self._offset_us
                if self._after_gap and self.recorder is not None:
                    self.recorder.note_gap(before, at, "the line was gone")
            self._after_gap = False
            at = max(at, self._last_us)
            result[index] = at
            self._last_us, self._last_host_us = at, row.host_us
        return result

    def _note_arrivals(self, host_us: np.ndarray) -> None:
        now = time.monotonic()
        self._arrivals.append((now, len(host_us)))
        while len(self._arrivals) > 2 and self._arrivals[0][0] < now - 2 * _RATE_OVER_S:
            self._arrivals.popleft()
        steps = np.diff(host_us[-100:], prepend=self._last_arrival_us or host_us[0])
        self._last_arrival_us = int(host_us[-1])
        self._intervals.extend(int(step) for step in steps[-100:])

    def _changed(self) -> None:
        self.revision += 1
