"""Value change dump (IEEE 1364): pulses as a logic analyser keeps them, changes only."""

from __future__ import annotations

import io
import json
import math
import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any, BinaryIO

import numpy as np
from vcd import VCDWriter
from vcd.reader import TokenKind, VCDParseError, tokenize

from tickstone.core.blocks import Block
from tickstone.core.status import Status
from tickstone.formats.takes.cells import values_of
from tickstone.formats.takes.header import (
    ChannelInfo,
    ReadAs,
    TakeHeader,
    TakeReading,
    UnreadableFileError,
    UnwritableError,
)

LEVELS = ("pulse", "pulse changes")
PULSES = (*LEVELS, "pulse count")
MOST_CHANGES_HELD = 65_536
_MARK = "tickstone "


class VcdFormat:
    """Changes of pulse channels with their times."""

    name = "vcd"
    label = "VCD"
    extension = "vcd"
    media_type = "text/plain"
    reads = True
    writes = True
    note = "pulses and pulse counts, changes only"

    def recognises(self, head: bytes) -> bool:
        return b"$enddefinitions" in head or (
            b"$timescale" in head and b"$end" in head and head.lstrip().startswith(b"$")
        )

    def write(self, header: TakeHeader, blocks: Iterator[Block], out: BinaryIO) -> None:
        chosen = [n for n, c in enumerate(header.channels) if c.quantity in PULSES]
        if not chosen:
            raise UnwritableError(
                "There is no pulse channel in this recording. Say in “Columns” which channel is "
                "one, or choose another format."
            )
        text = io.TextIOWrapper(out, encoding="utf-8", newline="\n", write_through=True)
        comment = _MARK + json.dumps(header.only(tuple(chosen)).as_json(), ensure_ascii=True)
        with VCDWriter(text, timescale="1 us", comment=comment, date="") as writer:
            variables = [
                writer.register_var(
                    "take",
                    _identifier(header.channels[n].name, place),
                    "wire" if header.channels[n].quantity in LEVELS else "real",
                    size=1 if header.channels[n].quantity in LEVELS else 64,
                )
                for place, n in enumerate(chosen)
            ]
            origin: int | None = None
            last = 0
            for block in blocks:
                origin = int(block.time_us[0]) if origin is None else origin
                times = (block.time_us - origin).tolist()
                columns = [_changes(block, n, header.channels[n]) for n in chosen]
                for row, time in enumerate(times):
                    for variable, column in zip(variables, columns, strict=True):
                        writer.change(variable, time, column[row])
                last = times[-1]
            writer.close(last)
        text.detach()

    def read(self, path: Path, read_as: ReadAs) -> TakeReading:
        del read_as
        with path.open("rb") as file:
            definitions = _definitions(file)
        header = TakeHeader(path.stem, tuple(definitions.channels), time_source="file")
        reading = TakeReading(self.name, header, iter(()), "time", "µs")
        if definitions.scale_us < 1e-3 - 1e-12:
            reading.notes.append("Times are finer than a nanosecond; they are kept to the µs.")
        reading.blocks = _blocks(path, definitions, reading)
        return reading


def _identifier(name: str, place: int) -> str:
    return re.sub(r"[^A-Za-z0-9_]", "_", name) or f"channel_{place + 1}"


def _changes(block: Block, number: int, channel: ChannelInfo) -> list[Any]:
    values, status = values_of(block, number), block.status[number]
    flagged = np.isnan(values) if status is None else (status != Status.OK) | np.isnan(values)
    if channel.quantity not in LEVELS:
        return [math.nan if bad else v for v, bad in zip(values.tolist(), flagged, strict=True)]
    return [
        "x" if bad else ("1" if value else "0")
        for value, bad in zip(values.tolist(), flagged.tolist(), strict=True)
    ]


class _Definitions:
    """Variables of a VCD file by their short codes."""

    def __init__(self) -> None:
        self.channels: list[ChannelInfo] = []
        self.places: dict[str, int] = {}
        self.scale_us = 1.0


def _definitions(file: io.BufferedReader) -> _Definitions:
    found = _Definitions()
    scopes: list[str] = []
    names: list[tuple[str, bool]] = []
    try:
        for token in tokenize(file):
            if token.kind is TokenKind.TIMESCALE:
                found.scale_us = int(token.timescale.magnitude) * _unit_us(
                    token.timescale.unit.value
                )
            elif token.kind is TokenKind.SCOPE:
                scopes.append(token.scope.ident)
            elif token.kind is TokenKind.UPSCOPE:
                scopes = scopes[:-1]
            elif token.kind is TokenKind.VAR:
                code = token.var.id_code
                if code not in found.places:
                    found.places[code] = len(names)
                    name = token.var.ref_str
                    path = ".".join([*scopes[1:], name]) if len(scopes) > 1 else name
                    names.append((path, token.var.size == 1))
            elif token.kind is TokenKind.ENDDEFINITIONS:
                break
            if len(names) > 64:
                raise UnreadableFileError("The VCD file has more than 64 variables; keep fewer.")
    except VCDParseError as error:
        raise UnreadableFileError(f"The VCD file is damaged: {error}") from error
    if not names:
        raise UnreadableFileError("The VCD file defines no variable.")
    seen: dict[str, int] = {}
    for path, is_bit in names:
        seen[path] = seen.get(path, 0) + 1
        name = path if seen[path] == 1 else f"{path} {seen[path]}"
        found.channels.append(ChannelInfo(name, "", "pulse changes" if is_bit else "number"))
    return found


def _unit_us(unit: str) -> float:
    return {"s": 1e6, "ms": 1e3, "us": 1.0, "ns": 1e-3, "ps": 1e-6, "fs": 1e-9}.get(unit, 1e-12)


def _blocks(path: Path, definitions: _Definitions, reading: TakeReading) -> Iterator[Block]:
    """A row for each time at which anything changed, with the state of everything."""
    width = len(definitions.channels)
    state = [math.nan] * width
    flags = [int(Status.MISSING)] * width
    times: list[int] = []
    rows: list[list[float]] = []
    codes: list[list[int]] = []
    at: int | None = None
    changed = False

    def keep() -> None:
        nonlocal changed
        if at is not None and changed:
            times.append(round(at * definitions.scale_us))
            rows.append(list(state))
            codes.append(list(flags))
        changed = False

    with path.open("rb") as file:
        try:
            for token in tokenize(file):
                if token.kind is TokenKind.CHANGE_TIME:
                    keep()
                    at = token.time_change
                elif token.kind in (
                    TokenKind.CHANGE_SCALAR,
                    TokenKind.CHANGE_VECTOR,
                    TokenKind.CHANGE_REAL,
                ):
                    change: Any = token.data
                    place = definitions.places.get(change.id_code)
                    if place is None:
                        line = token.span.start.line
                        reading.put_aside(line, change.id_code, "a variable nobody defined changes")
                        continue
                    value = _value(change.value)
                    state[place] = value
                    flags[place] = int(Status.BAD_TEXT if math.isnan(value) else Status.OK)
                    changed = True
                    at = 0 if at is None else at
                if len(times) >= MOST_CHANGES_HELD:
                    yield _block(times, rows, codes)
                    times, rows, codes = [], [], []
        except VCDParseError as error:
            where = getattr(error, "loc", None)
            reading.put_aside(getattr(where, "line", 0), "", f"the file is damaged here: {error}")
        changed = changed or (
            at is not None and bool(times) and round(at * definitions.scale_us) > times[-1]
        )
        keep()
    if times:
        yield _block(times, rows, codes)


def _value(value: Any) -> float:
    if isinstance(value, int | float):
        return float(value)
    text = str(value).lower()
    try:
        return float(int(text, 2))
    except ValueError:
        return math.nan


def _block(times: list[int], rows: list[list[float]], codes: list[list[int]]) -> Block:
    values = np.array(rows, dtype=np.float64)
    status = np.array(codes, dtype=np.uint8)
    return Block(
        np.maximum.accumulate(np.array(times, dtype=np.int64)),
        [np.ascontiguousarray(values[:, n]) for n in range(values.shape[1])],
        [
            np.ascontiguousarray(status[:, n]) if status[:, n].any() else None
            for n in range(values.shape[1])
        ],
    )
