"""Bytes into lines, whatever ends them, losing nothing."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, field

LONGEST_LINE_BYTES = 4_096
_ESCAPES = re.compile(r"\x1b\[[0-9;?]*[A-Za-z]")
_UNPRINTABLE = re.compile(r"[\x00-\x08\x0b-\x1f\x7f-\x9f\ufffd]")
_GARBLED_SHARE = 0.2


@dataclass(frozen=True, slots=True)
class RawLine:
    """One line as it arrived, without its end.

    number: counted from 1. at_us: when its end arrived, µs of the host. is_garbled: most likely not
    text at all. is_cut: longer than LONGEST_LINE_BYTES, the rest follows as a line of its own.
    is_torn: bytes of it were lost on the way, so that its ends may belong to different lines.
    """

    number: int
    text: str
    at_us: int
    is_garbled: bool = False
    is_cut: bool = False
    is_torn: bool = False


@dataclass(slots=True)
class LineSplitter:
    """Takes bytes as they come and gives back whole lines; a half line waits for its end.

    byte_us: how long one byte is on the wire, µs; a line whose end is followed by n more bytes of
    the same read arrived n bytes earlier. 0 when unknown. Where more comes than such a wire can
    carry, as from boards with USB of their own, lines are spread evenly since the read before.

    >>> splitter = LineSplitter()
    >>> [line.text for line in splitter.feed(b"1,2\\r\\n3,", 0)]
    ['1,2']
    >>> [line.text for data in (b"4\\r", b"\\n5\\n") for line in splitter.feed(data, 0)]
    ['3,4', '5']
    """

    byte_us: float = 0.0
    lines: int = 0
    _half: bytes = b""
    _is_torn: bool = False
    _after_return: bool = False
    _last_us: int = field(default=-(2**62))
    _read_at_us: int = field(default=-(2**62))

    def feed(self, data: bytes, at_us: int) -> Iterator[RawLine]:
        """Lines that ended in `data`, which arrived at `at_us`; nothing says when none came."""
        if not data:
            self._read_at_us = at_us
            return
        ends_in_return = data.endswith(b"\r")
        if self._after_return and data.startswith(b"\n"):
            data = data[1:]
        self._after_return = ends_in_return
        pieces = re.split(rb"\r\n|\n|\r", data)
        after = len(data)
        byte_us = min(self.byte_us, max(0, at_us - self._read_at_us) / max(1, len(data)))
        self._read_at_us = at_us
        for index, piece in enumerate(pieces):
            whole = self._half + piece if index == 0 else piece
            after -= len(piece) + 1
            while len(whole) > LONGEST_LINE_BYTES:
                yield self._line(whole[:LONGEST_LINE_BYTES], at_us, is_cut=True)
                whole = whole[LONGEST_LINE_BYTES:]
            if index == len(pieces) - 1:
                self._half = whole
            else:
                yield self._line(whole, at_us - round(max(0, after) * byte_us))

    def tear(self) -> None:
        """Bytes were lost here: the line that is coming is not whole.

        >>> splitter = LineSplitter()
        >>> [line.is_torn for line in splitter.feed(b"1,2\\n3,", 0)]
        [False]
        >>> splitter.tear()
        >>> [(line.text, line.is_torn) for line in splitter.feed(b"8\\n9,9\\n", 0)]
        [('3,8', True), ('9,9', False)]
        """
        self._is_torn = True

    def rest(self, at_us: int) -> Iterator[RawLine]:
        """The half line that will get no end, when the line is gone."""
        if self._half:
            half, self._half = self._half, b""
            yield self._line(half, at_us, is_cut=True)

    @property
    def waiting(self) -> str:
        """The half line so far."""
        return decoded(self._half)

    def _line(self, body: bytes, at_us: int, is_cut: bool = False) -> RawLine:
        self.lines += 1
        self._last_us = at_us = max(at_us, self._last_us)
        text = _ESCAPES.sub("", decoded(body))
        bad = len(_UNPRINTABLE.findall(text))
        is_torn, self._is_torn = self._is_torn, False
        return RawLine(
            self.lines,
            _UNPRINTABLE.sub("\ufffd", text),
            at_us,
            is_garbled=bad > _GARBLED_SHARE * len(text),
            is_cut=is_cut,
            is_torn=is_torn,
        )


def decoded(body: bytes) -> str:
    """UTF-8, or else byte for byte as Latin-1, so that a degree sign of either kind is one.

    >>> decoded(b"21.5 \\xb0C"), decoded("21.5 °C".encode())
    ('21.5 °C', '21.5 °C')
    """
    try:
        return body.decode("utf-8")
    except UnicodeDecodeError:
        return body.decode("latin-1")
