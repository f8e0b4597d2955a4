"""CSV: names with their units, one row a sample; a JSON file beside it tells the rest.

Below the first row there is nothing but numbers, so that any reader of tables takes it as it is:
what is missing is empty, what is no number `nan`, what is over the range `inf`.
"""

from __future__ import annotations

import csv
import io
import json
import re
from collections.abc import Iterator
from pathlib import Path
from typing import BinaryIO

from tickstone.core.blocks import Block
from tickstone.core.lines.names import split_unit
from tickstone.formats.safe_csv import guarded
from tickstone.formats.takes.cells import cell_texts
from tickstone.formats.takes.header import (
    ReadAs,
    TakeHeader,
    TakeReading,
    UnreadableFileError,
    header_from_json,
)
from tickstone.formats.takes.text_log import is_text, read_text_log

_ROWS_AT_ONCE = 20_000


class CsvFormat:
    """The widest known of all; reads any text with numbers in it."""

    name = "csv"
    label = "CSV"
    extension = "csv"
    media_type = "text/csv"
    reads = True
    writes = True
    note = "names with units, one row a sample; description in a .meta.json beside it"

    def recognises(self, head: bytes) -> bool:
        return is_text(head)

    def read(self, path: Path, read_as: ReadAs) -> TakeReading:
        reading = read_text_log(path, read_as)
        described = _described(sidecar_path(path))
        if described is not None and len(described.channels) == len(reading.header.channels):
            reading.header = described
        return reading

    def write(self, header: TakeHeader, blocks: Iterator[Block], out: BinaryIO) -> None:
        text = io.TextIOWrapper(out, encoding="utf-8", newline="", write_through=True)
        writer = csv.writer(text, lineterminator="\n")
        writer.writerow(["t_us", *(_heading(c.name, c.unit) for c in header.channels)])
        origin: int | None = None
        for whole in blocks:
            for first in range(0, len(whole), _ROWS_AT_ONCE):
                block = whole.between(first, first + _ROWS_AT_ONCE)
                origin = int(block.time_us[0]) if origin is None else origin
                times = [str(time) for time in (block.time_us - origin).tolist()]
                columns = [cell_texts(block, n) for n in range(len(header.channels))]
                text.write("\n".join(map(",".join, zip(times, *columns, strict=True))) + "\n")
        text.detach()


def sidecar_path(path: Path) -> Path:
    """Where the description of a CSV file lies."""
    return path.with_suffix(".meta.json")


def write_sidecar(header: TakeHeader) -> str:
    """The description as JSON text."""
    return json.dumps(header.as_json(), ensure_ascii=False, indent=2) + "\n"


def _described(path: Path) -> TakeHeader | None:
    try:
        if path.stat().st_size > 4 * 1024 * 1024:
            return None
        return header_from_json(json.loads(path.read_text("utf-8")))
    except (OSError, ValueError, RecursionError, UnreadableFileError):
        return None


def _heading(name: str, unit: str) -> str:
    """A name with its unit as a heading: no formula, and never to be taken for a number."""
    plain = guarded(_one_line(name))
    heading = plain if re.match(r"[^\W\d]|'", plain) else f"'{plain}"
    if unit:
        return f"{heading} [{_one_line(unit)}]"
    # Or “speed_m” would come back as a speed in metres.
    return f"{heading} [-]" if split_unit(heading)[1] else heading


def _one_line(name: str) -> str:
    return " ".join(name.split())
