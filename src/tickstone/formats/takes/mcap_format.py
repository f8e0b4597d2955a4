"""MCAP: the open log container of robotics; one JSON message a sample, with its schema."""

from __future__ import annotations

import json
import math
import struct
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any, BinaryIO

import lz4.frame
import numpy as np
import zstandard
from mcap.exceptions import McapError
from mcap.records import Channel, Chunk, McapRecord, Message, Metadata
from mcap.stream_reader import StreamReader, breakup_chunk
from mcap.writer import CompressionType, Writer

from tickstone.core.blocks import Block
from tickstone.core.lines.axis_units import Axis, guess_axis_units
from tickstone.core.lines.guess import guess_quantity
from tickstone.core.lines.names import split_unit
from tickstone.core.status import Status
from tickstone.formats.takes.cells import values_of
from tickstone.formats.takes.header import (
    ChannelInfo,
    ReadAs,
    TakeHeader,
    TakeReading,
    UnreadableFileError,
    header_from_json,
    unique_names,
)

MAGIC = b"\x89MCAP0\r\n"
MOST_CHUNK_BYTES = 256 * 1024 * 1024
_METADATA = "tickstone"
_TAKEN = ("t_us", "_status")
_ROWS_AT_ONCE = 16_384
_LOOKED_AT = 400
_DAMAGED = (
    McapError,
    ValueError,
    OSError,
    KeyError,
    TypeError,
    AttributeError,
    EOFError,
    OverflowError,
    RuntimeError,
    struct.error,
    zstandard.ZstdError,
)
"""Whatever the reading libraries raise on a file that is not what it says."""


class McapFormat:
    """A container with schemas, for tools that play back what a robot logged."""

    name = "mcap"
    label = "MCAP"
    extension = "mcap"
    media_type = "application/octet-stream"
    reads = True
    writes = True
    note = "one JSON message a sample, with its schema"

    def recognises(self, head: bytes) -> bool:
        return head.startswith(MAGIC)

    def write(self, header: TakeHeader, blocks: Iterator[Block], out: BinaryIO) -> None:
        writer = Writer(out, compression=CompressionType.ZSTD)
        writer.start(profile="", library="tickstone")
        names = unique_names(header, _TAKEN)
        properties: dict[str, Any] = {"t_us": {"type": "integer"}}
        for name, channel in zip(names, header.channels, strict=True):
            properties[name] = {"type": ["number", "null"], "description": channel.unit}
        schema = {"type": "object", "title": "tickstone.Sample", "properties": properties}
        schema_id = writer.register_schema(
            "tickstone.Sample", "jsonschema", json.dumps(schema, ensure_ascii=False).encode()
        )
        channel_id = writer.register_channel("/samples", "json", schema_id)
        writer.add_metadata(_METADATA, {"take": json.dumps(header.as_json(), ensure_ascii=False)})
        origin: int | None = None
        number = 0
        for block in blocks:
            origin = int(block.time_us[0]) if origin is None else origin
            columns = [values_of(block, n).tolist() for n in range(len(names))]
            codes = [None if s is None else s.tolist() for s in block.status]
            host = block.time_us - origin if block.host_us is None else block.host_us
            times = (block.time_us - origin).tolist()
            for row, (time_us, host_us) in enumerate(zip(times, host.tolist(), strict=True)):
                message: dict[str, Any] = {"t_us": time_us}
                flags = {}
                for n, name in enumerate(names):
                    value = columns[n][row]
                    message[name] = None if math.isnan(value) else _plain(value)
                    code = codes[n]
                    if code is not None and code[row]:
                        flags[name] = Status(code[row]).code
                if flags:
                    message["_status"] = flags
                data = json.dumps(message, ensure_ascii=False, separators=(",", ":")).encode()
                writer.add_message(
                    channel_id,
                    log_time=max(0, host_us) * 1_000,
                    publish_time=max(0, time_us) * 1_000,
                    data=data,
                    sequence=number,
                )
                number += 1
        writer.finish()  # type: ignore[no-untyped-call]

    def read(self, path: Path, read_as: ReadAs) -> TakeReading:
        del read_as
        description = None
        foreign: list[tuple[str, bytes]] = []
        try:
            for record, channel in _messages(path):
                if isinstance(record, Metadata):
                    if record.name == _METADATA:
                        description = record.metadata.get("take")
                        break
                elif channel is not None and channel.message_encoding == "json":
                    foreign.append((channel.topic, record.data))
                if len(foreign) >= _LOOKED_AT:
                    break
        except _DAMAGED as error:
            raise UnreadableFileError(f"The MCAP file is damaged: {error}") from error
        if description is not None:
            header = header_from_json(_json(description))
        else:
            header = TakeHeader(path.stem, _foreign_channels(foreign))
        if not header.channels:
            raise UnreadableFileError(
                "The MCAP file holds no JSON messages with numbers; other encodings are not read."
            )
        reading = TakeReading(
            self.name, header, iter(()), "t_us" if description else "log_time", "µs"
        )
        reading.blocks = _blocks(path, header, description is not None, reading)
        return reading


def _plain(value: float) -> int | float:
    return int(value) if value == int(value) and abs(value) < 1e15 else value


def _json(text: str | bytes) -> Any:
    try:
        return json.loads(text)
    except (ValueError, RecursionError) as error:
        raise UnreadableFileError("The description in the MCAP file is not JSON.") from error


def _numbers(topic: str, data: bytes) -> dict[str, float]:
    """The numbers of a message by their path; nothing when it is not JSON."""
    try:
        document = json.loads(data)
    except (ValueError, RecursionError):
        return {}
    found: dict[str, float] = {}

    def walk(value: Any, path: str, depth: int) -> None:
        if isinstance(value, dict) and depth < 5:
            for key, part in value.items():
                walk(part, f"{path}.{key}" if path else str(key), depth + 1)
        elif isinstance(value, bool | int | float) and len(found) < 64:
            found[path] = float(value)

    walk(document, topic.strip("/").replace("/", "."), 0)
    return found


def _messages(path: Path) -> Iterator[tuple[Metadata | Message, Channel | None]]:
    """Messages in the order of the file with their channels, and metadata, in chunks or not.

    A chunk is unpacked to no more than MOST_CHUNK_BYTES, whatever it claims.
    """
    channels: dict[int, Channel] = {}
    with path.open("rb") as file:
        bounded: Any = _Bounded(file, path.stat().st_size)
        stream = StreamReader(bounded, emit_chunks=True, record_size_limit=MOST_CHUNK_BYTES)
        for record in stream.records:
            inside: list[McapRecord] = [record]
            if isinstance(record, Chunk):
                inside = breakup_chunk(_unpacked(record))
            for one in inside:
                if isinstance(one, Channel):
                    channels[one.id] = one
                elif isinstance(one, Message):
                    yield one, channels.get(one.channel_id)
                elif isinstance(one, Metadata):
                    yield one, None


class _Bounded:
    """A file that is never asked for more than it holds: a length in it may be a lie."""

    def __init__(self, file: BinaryIO, size: int) -> None:
        self._file = file
        self._size = size

    def read(self, count: int = -1) -> bytes:
        left = max(0, self._size - self._file.tell())
        return self._file.read(left if count < 0 else min(count, left))


def _unpacked(chunk: Chunk) -> Chunk:
    if chunk.uncompressed_size > MOST_CHUNK_BYTES:
        raise ValueError(f"a chunk would unpack to {chunk.uncompressed_size} bytes")
    data = chunk.data
    if chunk.compression == "zstd":
        if zstandard.frame_content_size(data) > MOST_CHUNK_BYTES:
            raise ValueError("a chunk unpacks to more than it may")
        data = zstandard.ZstdDecompressor().decompress(data, max_output_size=MOST_CHUNK_BYTES)
    elif chunk.compression == "lz4":
        unpacker = lz4.frame.LZ4FrameDecompressor()
        data = unpacker.decompress(data, max_length=MOST_CHUNK_BYTES)
        if not unpacker.eof:
            raise ValueError("a chunk unpacks to more than it may")
    elif chunk.compression:
        raise ValueError(f"its chunks are packed by “{chunk.compression[:20]}”, which is not read")
    return replace(chunk, compression="", data=data)


def _foreign_channels(messages: list[tuple[str, bytes]]) -> tuple[ChannelInfo, ...]:
    seen: dict[str, list[float]] = {}
    for topic, data in messages:
        for name, value in _numbers(topic, data).items():
            seen.setdefault(name, []).append(value)
    axes = []
    for name, values in list(seen.items())[:64]:
        plain, unit = split_unit(name)
        axes.append(Axis(guess_quantity(plain, unit, values), unit, values))
    units = guess_axis_units(axes)
    return tuple(
        ChannelInfo(name, unit, one.quantity)
        for name, unit, one in zip(seen, units, axes, strict=False)
    )


def _blocks(path: Path, header: TakeHeader, is_own: bool, reading: TakeReading) -> Iterator[Block]:
    names = unique_names(header, _TAKEN) if is_own else [c.name for c in header.channels]
    codes_by_word = {status.code: int(status) for status in Status}
    times: list[int] = []
    hosts: list[int] = []
    rows: list[list[float]] = []
    codes: list[list[int]] = []
    origin: int | None = None
    last = 0

    def block() -> Block:
        values = np.array(rows, dtype=np.float64).reshape(len(rows), len(names))
        status = np.array(codes, dtype=np.uint8).reshape(len(rows), len(names))
        return Block(
            np.array(times, dtype=np.int64),
            [np.ascontiguousarray(values[:, n]) for n in range(len(names))],
            [
                np.ascontiguousarray(status[:, n]) if status[:, n].any() else None
                for n in range(len(names))
            ],
            np.array(hosts, dtype=np.int64) if is_own and header.time_source != "file" else None,
        )

    number = 0
    try:
        for message, channel in _messages(path):
            if isinstance(message, Metadata):
                continue
            number += 1
            if channel is None or channel.message_encoding != "json":
                topic = channel.topic if channel else ""
                reading.put_aside(number, topic, "its encoding is not JSON")
                continue
            flags: dict[str, str] = {}
            if is_own:
                document = _json(message.data)
                found = {n: _float(document.get(n)) for n in names}
                flags = document.get("_status", {})
                time_us = int(document["t_us"])
            else:
                found = _numbers(channel.topic, message.data)
                origin = message.log_time if origin is None else origin
                time_us = (message.log_time - origin) // 1_000
            last = max(last, time_us)
            times.append(last)
            hosts.append(message.log_time // 1_000)
            rows.append([found.get(name, math.nan) for name in names])
            codes.append(
                [
                    codes_by_word.get(flags.get(name, ""), 0)
                    or (int(Status.MISSING) if math.isnan(found.get(name, math.nan)) else 0)
                    for name in names
                ]
            )
            if len(rows) >= _ROWS_AT_ONCE:
                yield block()
                times, hosts, rows, codes = [], [], [], []
    except _DAMAGED as error:
        reading.put_aside(number + 1, "", f"the file is damaged here: {error}")
    if rows:
        yield block()


def _float(value: Any) -> float:
    return float(value) if isinstance(value, int | float) else math.nan
