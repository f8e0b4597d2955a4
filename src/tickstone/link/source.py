"""Where the bytes of a line come from."""

from __future__ import annotations

from typing import Protocol


class LineLostError(OSError):
    """The line is gone: the cable was pulled, the page closed, the replay ended."""


class PortError(OSError):
    """A port cannot be opened. The message says why and what to do."""


class Source(Protocol):
    """One end of a line. Read from one thread only."""

    byte_us: float
    """Time a byte takes on the wire, µs; 0 when there is no wire."""

    def read(self) -> bytes:
        """What has arrived, waiting a few hundredths of a second at most. Raises LineLostError."""
        ...

    def overran(self) -> bool:
        """Whether bytes were lost since it was asked last, since nobody read in time."""
        ...

    def write(self, data: bytes) -> None:
        """Send something to the board. Raises LineLostError."""
        ...

    def close(self) -> None:
        """Let go of it."""
        ...
