"""What stands out in a program: where, why it matters, and what would mend it."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class ProgramFinding:
    """line: from 1. code: the line as it stands. message: one sentence. why: what comes of it.
    repair: what to write instead.
    """

    id: str
    line: int
    code: str
    message: str
    why: str
    repair: str


@dataclass(frozen=True, slots=True)
class Threshold:
    """A threshold of the record, in metres. whose: the sensor and what it is called."""

    whose: str
    value_m: float


@dataclass(frozen=True, slots=True)
class RigFacts:
    """What a program is held against; what is not known is left out.

    baud: of its line. pins: as a program writes them, with what is on each. speed_m_s, margin_m:
    how fast the rig may drive, and what its stopping distance has to spare. thresholds: in use.
    """

    baud: int | None = None
    pins: tuple[tuple[str, str], ...] = ()
    speed_m_s: float | None = None
    margin_m: float | None = None
    thresholds: tuple[Threshold, ...] = ()
