"""Recordings as files, one module for each open format, all of them registered here.

`header` is what a file says besides its samples; `text_log` reads any log with numbers in it.
"""

from __future__ import annotations

from pathlib import Path

from tickstone.formats.takes.csv_format import CsvFormat
from tickstone.formats.takes.header import (
    ReadAs,
    TakeFormat,
    TakeReading,
    UnreadableFileError,
)
from tickstone.formats.takes.json_lines import JsonLinesFormat
from tickstone.formats.takes.mcap_format import McapFormat
from tickstone.formats.takes.parquet_format import ParquetFormat
from tickstone.formats.takes.vcd_format import VcdFormat
from tickstone.formats.takes.wav_format import WavFormat

FORMATS: tuple[TakeFormat, ...] = (
    ParquetFormat(),
    McapFormat(),
    VcdFormat(),
    WavFormat(),
    JsonLinesFormat(),
    CsvFormat(),
)
"""In the order in which a file is tried; the last reads any text."""

HEAD_BYTES = 65_536


def format_named(name: str) -> TakeFormat:
    """The format of a name such as ``csv``. Raises KeyError."""
    return {one.name: one for one in FORMATS}[name]


def format_of(path: Path) -> TakeFormat:
    """The format a file is in, by its content. Raises UnreadableFileError."""
    with path.open("rb") as file:
        head = file.read(HEAD_BYTES)
    if not head.strip():
        raise UnreadableFileError("The file is empty.")
    if head[:2] in (b"\xff\xfe", b"\xfe\xff"):
        raise UnreadableFileError(
            "The file is UTF-16 text. Save it as UTF-8 (often “CSV UTF-8”) and choose it again."
        )
    if head.startswith(b"PK\x03\x04"):
        raise UnreadableFileError(
            "The file is a zip. A whole rig as zip is brought in from the list of rigs; of any "
            "other zip, take the files out first."
        )
    if head.startswith(b"\x1f\x8b"):
        raise UnreadableFileError("The file is compressed (gzip). Unpack it and choose it again.")
    for one in FORMATS:
        if one.reads and one.recognises(head):
            return one
    raise UnreadableFileError(
        "The file is not text and none of the formats Tick Stone reads: "
        + ", ".join(one.label for one in FORMATS if one.reads)
        + "."
    )


def read_take_file(path: Path, read_as: ReadAs | None = None) -> TakeReading:
    """Open a recording in any format. read_as: what a person says of it.

    Raises UnreadableFileError.
    """
    return format_of(path).read(path, read_as or ReadAs())
