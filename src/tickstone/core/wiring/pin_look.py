"""A pin in use with all a question needs: its job, its limits, its net, and who is heard there."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from tickstone.core.families.board_family import Pin, PinClass
from tickstone.core.wiring.pieces import Driver
from tickstone.core.wiring.pin_jobs import PinJob
from tickstone.core.wiring.solved import Point
from tickstone.core.wiring.thread import Thread


@dataclass(frozen=True, slots=True)
class PinLook:
    """A pin in use. threads: the leads a signal on it gets to, those on it itself first."""

    pin: Pin
    job: PinJob
    limits: PinClass
    point: Point
    threads: tuple[Thread, ...]

    @property
    def states(self) -> range:
        """The states its net can be in."""
        return range(len(self.point.island.states) if self.point.island else 1)

    def heard(self) -> Iterator[tuple[int, Driver]]:
        """The outputs and contacts on its net, each with its place in a state."""
        island = self.point.island
        if island is None:
            return
        for place in range(len(island.drivers)):
            driver = island.driver(place)
            if driver.owner.sort in ("output", "inside", "part", "photo"):
                yield place, driver
