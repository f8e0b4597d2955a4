"""Telling a line opened at its own speed from one opened at another: by readable text."""

from __future__ import annotations

COMMON_SPEEDS = (
    115_200,
    9_600,
    57_600,
    38_400,
    19_200,
    230_400,
    250_000,
    460_800,
    500_000,
    921_600,
    1_000_000,
    2_000_000,
    4_800,
    74_880,
)
READABLE_ENOUGH = 0.9
_TEXT = frozenset(range(0x20, 0x7F)) | {0x09, 0x0A, 0x0D}


def readable_share(data: bytes) -> float:
    """How much of what was heard is text a board would print: 0 to 1.

    Bytes of printable ASCII count, and lines have to end; a micro or degree sign costs little. The
    first line is left out: it is often joined half way.

    >>> readable_share(b"8,77\\r\\n5831,77\\r\\n5840,77\\r\\n")
    1.0
    >>> readable_share(bytes(range(128, 255))) < 0.1
    True
    """
    start = data.find(b"\n") + 1
    body = data[start:] or data
    if not body:
        return 0.0
    text = sum(byte in _TEXT for byte in body) / len(body)
    digits = sum(0x30 <= byte <= 0x39 for byte in body) / len(body)
    ends = 1.0 if b"\n" in body or b"\r" in body else 0.6
    return text * ends * (1.0 if digits >= 0.05 else 0.7)
