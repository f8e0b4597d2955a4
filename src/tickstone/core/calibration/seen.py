"""What is seen of somebody who holds a thing with both hands, and what is said to them."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class PoseHeld:
    """A pose that was held, and when, s of the signal."""

    name: str
    from_s: float
    to_s: float


@dataclass(frozen=True, slots=True)
class Seen:
    """What is seen now. now: the pose; empty while it moves, or leans. still_s: for how long it has
    been still, needs_s: how long it has to be. done: in the order they came. missing: in order.
    refused: why the last stillness does not count; empty where it does. says: what to do, for
    letters that are read from two metres.
    """

    now: str
    still_s: float
    needs_s: float
    done: tuple[PoseHeld, ...]
    missing: tuple[str, ...]
    refused: str
    says: str

    @property
    def is_done(self) -> bool:
        """Whether nothing is missing."""
        return not self.missing
