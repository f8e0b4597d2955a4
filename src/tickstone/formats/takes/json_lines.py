"""JSON lines: a description on the first line, then one object a sample."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path
from typing import BinaryIO

from tickstone.core.blocks import Block
from tickstone.core.status import Status
from tickstone.formats.takes.cells import values_of
from tickstone.formats.takes.header import (
    ReadAs,
    TakeHeader,
    TakeReading,
    header_from_json,
    unique_names,
)
from tickstone.formats.takes.text_log import is_text, read_text_log

_WORDS = {Status.MISSING: "null", Status.BAD_TEXT: '"nan"', Status.OVER_RANGE: '"ovf"'}
_LONGEST_HEADER = 1024 * 1024


class JsonLinesFormat:
    """One JSON object a line."""

    name = "jsonl"
    label = "JSON lines"
    extension = "jsonl"
    media_type = "application/x-ndjson"
    reads = True
    writes = True
    note = "a description, then one object a sample"

    def recognises(self, head: bytes) -> bool:
        lines = [
            line for line in head.removeprefix(b"\xef\xbb\xbf").split(b"\n")[:20] if line.strip()
        ]
        return (
            is_text(head) and bool(lines) and all(line.lstrip()[:1] == b"{" for line in lines[:3])
        )

    def read(self, path: Path, read_as: ReadAs) -> TakeReading:
        with path.open("rb") as file:
            first = file.readline(_LONGEST_HEADER)
        try:
            document = json.loads(first)
        except (ValueError, RecursionError):
            document = {}
        described = None
        if isinstance(document, dict) and "tickstone_take" in document:
            described = header_from_json(document)
        reading = read_text_log(path, read_as, skip_bytes=len(first) if described else 0)
        reading.format_name = self.name
        if described is not None and len(described.channels) == len(reading.header.channels):
            reading.header = described
        return reading

    def write(self, header: TakeHeader, blocks: Iterator[Block], out: BinaryIO) -> None:
        out.write(json.dumps(header.as_json(), ensure_ascii=False).encode() + b"\n")
        names = [json.dumps(n, ensure_ascii=False) for n in unique_names(header, ("t_us",))]
        origin: int | None = None
        for block in blocks:
            origin = int(block.time_us[0]) if origin is None else origin
            columns = [_json_texts(block, n) for n in range(len(names))]
            times = (block.time_us - origin).tolist()
            lines = [
                f'{{"t_us":{time},'
                + ",".join(f"{name}:{cell}" for name, cell in zip(names, cells, strict=True))
                + "}\n"
                for time, *cells in zip(times, *columns, strict=True)
            ]
            out.write("".join(lines).encode())


def _json_texts(block: Block, channel: int) -> list[str]:
    values, status = values_of(block, channel).tolist(), block.status[channel]
    codes = [0] * len(values) if status is None else status.tolist()
    return [
        _WORDS.get(Status(code), "null")
        if code or value != value
        else (str(int(value)) if value == int(value) and abs(value) < 1e15 else repr(value))
        for value, code in zip(values, codes, strict=True)
    ]
