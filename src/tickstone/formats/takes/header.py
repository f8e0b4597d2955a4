"""What a recording's file says besides its samples, and what every format can do."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import asdict, dataclass, field, fields, replace
from pathlib import Path
from typing import Any, BinaryIO, Protocol

from tickstone.core.blocks import Block
from tickstone.core.lines.tokens import Manner

HEADER_VERSION = 1


class UnreadableFileError(ValueError):
    """A file cannot be read as a recording. The message says why and what to do instead."""


class UnwritableError(ValueError):
    """A recording does not fit into a format. The message says why and what to do instead."""


@dataclass(frozen=True, slots=True)
class ChannelInfo:
    """A channel of a file. sensor: the name of the sensor it belongs to, or "".

    is_flagged: whether any of its samples is flagged; writers need to know beforehand.
    """

    name: str
    unit: str = ""
    quantity: str = "number"
    sensor: str = ""
    is_flagged: bool = True


@dataclass(frozen=True, slots=True)
class TakeHeader:
    """A recording without its samples. air, conditions, marks, gaps: as they are kept, as JSON.

    Times of samples are µs from the first one. recorded_at: ISO 8601, "" when unknown.
    """

    name: str
    channels: tuple[ChannelInfo, ...]
    recorded_at: str = ""
    time_source: str = "file"
    rate_hz: float = 0.0
    samples: int = 0
    source_name: str = ""
    air: dict[str, Any] = field(default_factory=dict)
    conditions: dict[str, Any] = field(default_factory=dict)
    tags: tuple[str, ...] = ()
    marks: tuple[dict[str, Any], ...] = ()
    gaps: tuple[dict[str, Any], ...] = ()
    jitter_us: float | None = None

    def as_json(self) -> dict[str, Any]:
        """As plain values."""
        return {"tickstone_take": HEADER_VERSION, **asdict(self)}

    def only(self, channels: tuple[int, ...]) -> TakeHeader:
        """The header of some of the channels."""
        return replace(self, channels=tuple(self.channels[n] for n in channels))


def header_from_json(document: Any) -> TakeHeader:
    """A header from plain values. Raises UnreadableFileError when it is none."""
    try:
        if document["tickstone_take"] != HEADER_VERSION:
            raise UnreadableFileError(
                f"The file is of version {document['tickstone_take']!r}; this Tick Stone knows "
                f"version {HEADER_VERSION}."
            )
        known = {one.name for one in fields(TakeHeader)}
        values = {key: value for key, value in document.items() if key in known}
        values["channels"] = tuple(ChannelInfo(**channel) for channel in document["channels"])
        for name in ("tags", "marks", "gaps"):
            values[name] = tuple(values.get(name, ()))
        header = TakeHeader(**values)
    except (KeyError, TypeError, AttributeError) as error:
        raise UnreadableFileError(f"The description in the file is not one: {error}.") from error
    texts = [header.name, header.recorded_at, header.source_name]
    texts += [text for c in header.channels for text in (c.name, c.unit, c.quantity, c.sensor)]
    if not all(isinstance(text, str) and "\0" not in text for text in texts):
        raise UnreadableFileError("The description in the file holds what is no text.")
    return header


def unique_names(header: TakeHeader, taken: tuple[str, ...] = ()) -> list[str]:
    """The channels' names, told apart where two are the same or one is taken by the format.

    >>> channels = (ChannelInfo("a"), ChannelInfo("a"), ChannelInfo("t_us"))
    >>> unique_names(TakeHeader("x", channels), ("t_us",))
    ['a', 'a #2', 't_us #3']
    """
    used = set(taken)
    names: list[str] = []
    for number, channel in enumerate(header.channels, start=1):
        name = channel.name if channel.name not in used else f"{channel.name} #{number}"
        while name in used:
            name += "'"
        used.add(name)
        names.append(name)
    return names


@dataclass(frozen=True, slots=True)
class ReadAs:
    """What a person says of a file that it does not say itself, or that is misread.

    rate_hz: rows a second, where it holds no time. separator: key of `lines.tokens.SEPARATORS`;
    decimal: point or comma; as they are found when empty. time: the column of times by name, "" for
    none at all; as it is found when None. time_unit: its unit.
    """

    rate_hz: float | None = None
    separator: str = ""
    decimal: str = ""
    time: str | None = None
    time_unit: str = ""


@dataclass(frozen=True, slots=True)
class LinePart:
    """A stretch of a line that was understood: characters `start` to `end`, and which column it is.

    column: number of the channel, -1 for the time, None for a name in a header.
    """

    start: int
    end: int
    column: int | None


@dataclass(frozen=True, slots=True)
class LineSeen:
    """A line of a text file as it stands there, and what was understood of it."""

    number: int
    text: str
    verdict: str
    reason: str
    parts: tuple[LinePart, ...]


@dataclass(frozen=True, slots=True)
class BadRow:
    """A row that was put aside: its line (or number), its text and why."""

    line: int
    text: str
    reason: str


@dataclass(slots=True)
class TakeReading:
    """A file being read. blocks: to be gone through once; bad, rows and gaps fill meanwhile.

    time_column: what the times come from; "" when the file holds none. time_unit: its unit.
    notes: what had to be understood on the way, in sentences. asks_rate: it holds no time, so that
    its times only count the rows, one a second. first_lines, manner: of a text file, how its first
    lines were read, and how lines are taken apart.
    """

    format_name: str
    header: TakeHeader
    blocks: Iterator[Block]
    time_column: str = ""
    time_unit: str = "µs"
    rate_hz: float | None = None
    notes: list[str] = field(default_factory=list)
    asks_rate: bool = False
    first_lines: tuple[LineSeen, ...] = ()
    manner: Manner | None = None
    bad: list[BadRow] = field(default_factory=list)
    bad_rows: int = 0
    bytes_read: Callable[[], int] = lambda: 0

    def put_aside(self, line: int, text: str, reason: str) -> None:
        """Keep a row that is no data."""
        self.bad.append(BadRow(line, text[:1_000].replace("\0", "\ufffd"), reason))
        self.bad_rows += 1

    def take_bad(self) -> list[BadRow]:
        """The rows put aside since last asked."""
        bad, self.bad = self.bad, []
        return bad


class TakeFormat(Protocol):
    """An open format for recordings."""

    name: str
    label: str
    extension: str
    media_type: str
    reads: bool
    writes: bool
    note: str

    def recognises(self, head: bytes) -> bool:
        """Whether a file that begins like this is in this format."""
        ...

    def read(self, path: Path, read_as: ReadAs) -> TakeReading:
        """Open a file. Raises UnreadableFileError."""
        ...

    def write(self, header: TakeHeader, blocks: Iterator[Block], out: BinaryIO) -> None:
        """Write a recording. Raises UnwritableError."""
        ...
