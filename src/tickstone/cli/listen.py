"""``tickstone listen``: a serial line into a file, without a server or a store."""

from __future__ import annotations

import signal
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Annotated

import numpy as np
import typer

from tickstone.cli.failing import fail
from tickstone.core.blocks import Block
from tickstone.core.lines.reader import JudgedLine, LineReader, Row
from tickstone.core.lines.shape import LineShape
from tickstone.core.lines.splitter import LineSplitter
from tickstone.formats.takes import FORMATS
from tickstone.formats.takes.csv_format import sidecar_path, write_sidecar
from tickstone.formats.takes.header import ChannelInfo, TakeFormat, TakeHeader, UnwritableError
from tickstone.link.pump import Pump
from tickstone.link.serial_port import SerialSource, guess_speed
from tickstone.link.source import LineLostError, PortError

_SETTLE_S = 1.5


def listen(
    port: Annotated[Path, typer.Argument(help="Device of the port, such as /dev/ttyACM0.")],
    out: Annotated[Path, typer.Option(help="File to write; its ending says the format.")],
    speed: Annotated[int | None, typer.Option(help="Baud; found by listening else.")] = None,
    seconds: Annotated[float | None, typer.Option(help="How long; until Ctrl-C else.")] = None,
    reset: Annotated[bool, typer.Option(help="Opening may restart the board.")] = True,
) -> None:
    """Listen to a line and write what it says to a file, understood as in the page."""
    by_ending = {f".{one.extension}": one for one in FORMATS if one.writes}
    form = by_ending.get(out.suffix.lower())
    if form is None:
        fail(f"The file has to end in one of {', '.join(by_ending)}.")
    try:
        chosen = speed or guess_speed(str(port)).speed
        if chosen is None:
            fail(f"Nothing readable came over {port}. Give the speed with --speed.")
        source = SerialSource(str(port), chosen, reset)
    except PortError as error:
        fail(str(error))
    typer.echo(f"Listening to {port} at {chosen} baud; Ctrl-C ends.", err=True)
    session = _Listening(source, seconds)
    signal.signal(signal.SIGTERM, lambda *_: session.stop())
    shape = session.learn()
    if shape is None:
        session.close()
        fail("No line could be understood in time; nothing was written.")
    typer.echo(shape.describe(), err=True)
    header = TakeHeader(
        out.stem,
        tuple(
            ChannelInfo(c.name, c.unit, c.quantity)
            for c in (shape.columns[index] for index in shape.channels)
        ),
        recorded_at=time.strftime("%Y-%m-%dT%H:%M:%S%z"),
        time_source="board" if shape.time is not None else "arrival",
        source_name=str(port),
    )
    _write(form, header, session, out)
    typer.echo(f"{out}: {session.rows} samples, {session.bad} bad lines", err=True)


def _write(form: TakeFormat, header: TakeHeader, session: _Listening, out: Path) -> None:
    try:
        with out.open("wb") as file:
            form.write(header, session.blocks(), file)
    except UnwritableError as error:
        out.unlink(missing_ok=True)
        fail(str(error))
    finally:
        session.close()
    if form.name == "csv":
        sidecar_path(out).write_text(write_sidecar(header), "utf-8")


class _Listening:
    """A line being heard until its time is up, it is lost, or somebody says stop."""

    def __init__(self, source: SerialSource, seconds: float | None) -> None:
        self._pump = Pump(source)
        self._pump.start()
        self.rows = 0
        self.bad = 0
        self._splitter = LineSplitter(source.byte_us)
        self._reader = LineReader()
        self._ends_at = None if seconds is None else time.monotonic() + seconds
        self._is_stopped = False
        self._waiting: list[Row] = []

    def stop(self) -> None:
        self._is_stopped = True

    def close(self) -> None:
        self._pump.close()

    def learn(self) -> LineShape | None:
        """Hear the first lines."""
        started = time.monotonic()
        while self._reader.shape is None and self._goes_on():
            self._hear()
            if time.monotonic() - started > _SETTLE_S:
                self._take(*self._reader.settle())
        self._reader.learns_again = False
        return self._reader.shape

    def blocks(self) -> Iterator[Block]:
        """What is heard, as it comes."""
        try:
            while True:
                if self._waiting:
                    rows, self._waiting = self._waiting, []
                    self.rows += len(rows)
                    yield _block(rows)
                if not self._goes_on():
                    return
                self._hear()
        except KeyboardInterrupt:
            return

    def _goes_on(self) -> bool:
        return not self._is_stopped and (self._ends_at is None or time.monotonic() < self._ends_at)

    def _hear(self) -> None:
        try:
            pieces = self._pump.take()
        except LineLostError:
            typer.echo("The line is gone; what came is kept.", err=True)
            self._is_stopped = True
            return
        for piece in pieces:
            self._take(*self._reader.feed(self._splitter.feed(piece.data, piece.at_us)))

    def _take(self, rows: list[Row], judged: list[JudgedLine]) -> None:
        self._waiting.extend(rows)
        self.bad += sum(line.is_bad for line in judged)


def _block(rows: list[Row]) -> Block:
    values = np.array([row.values for row in rows], dtype=np.float64).reshape(len(rows), -1)
    status = np.zeros(values.shape, dtype=np.uint8)
    for n, row in enumerate(rows):
        if row.statuses is not None:
            status[n] = row.statuses
    return Block(
        np.array([row.time_us for row in rows], dtype=np.int64),
        [np.ascontiguousarray(values[:, n]) for n in range(values.shape[1])],
        [status[:, n] if status[:, n].any() else None for n in range(values.shape[1])],
        np.array([row.host_us for row in rows], dtype=np.int64),
    )
