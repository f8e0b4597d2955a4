"""What every stand-in board does: a loop that moves the world, reads the sensors and prints."""

from __future__ import annotations

from abc import ABC, abstractmethod
from typing import ClassVar

import numpy as np

from tickstone.core.models.hall import HallModel, PulseCounter
from tickstone.link.board.faults import FAULT_WORDS
from tickstone.link.board.world import World

RESET_EVERY_S = 2.0
FLOATING_PER_S = 75.0
"""Edges a second that an input without its pull-up picks up; made up."""


class Firmware(ABC):
    """A board's program. Everything it prints follows from the seed and the commands it got.

    name: of the rig. speed: bits per second of its line. period_s: of its loop.
    controls: words of the world's controls that matter to it. faults: words of faults it can have.
    """

    name: ClassVar[str]
    label: ClassVar[str]
    speed: ClassVar[int] = 115_200
    period_s: ClassVar[float] = 0.04
    wheel_m: ClassVar[float] = 0.471
    controls: ClassVar[tuple[str, ...]] = ()
    fault_words: ClassVar[tuple[str, ...]] = ()

    def __init__(self, seed: int) -> None:
        self.rng = np.random.default_rng(seed)
        self.world = World.at_rest()
        self.faults: set[str] = set()
        self.age_s = 0.0
        self.up_s = 0.0
        self.clock_offset_us = 0
        self._counted_turns = 0.0

    @abstractmethod
    def banner(self) -> list[str]:
        """What it prints when it starts."""

    @abstractmethod
    def sense(self) -> str:
        """One line of readings."""

    def tick(self) -> list[str]:
        """One turn of the loop: the lines it prints."""
        jitter_s = float(self.rng.normal(0.0, self.period_s / 400))
        self.world.step(self.period_s, self.wheel_m)
        self.age_s += self.period_s
        self.up_s += self.period_s + jitter_s
        if "reset_loop" in self.faults and self.up_s > RESET_EVERY_S:
            return self.reset()
        line = self.sense()
        if "loose_ground" in self.faults and self.rng.random() < 0.08:
            cut = int(self.rng.integers(0, max(1, len(line))))
            line = line[:cut] + "\x80\x91"[: int(self.rng.integers(0, 3))]
        return [line]

    def reset(self) -> list[str]:
        """Start anew, as after the reset key."""
        self.up_s = 0.0
        self.clock_offset_us = 0
        return self.banner()

    @property
    def micros(self) -> int:
        """The board's µs since it started, before any wrap."""
        return round(self.up_s * 1e6) + self.clock_offset_us

    def count_pulses(self, hall: HallModel, counter: PulseCounter) -> None:
        """What the interrupt counted since the last turn, with the faults of its wiring."""
        counter.both_edges = "both_edges" in self.faults
        turned = self.world.turns - self._counted_turns
        if "second_strip" in self.faults:
            hall = hall.doubled()
        if "far_magnet" in self.faults:
            hall = hall.with_far_magnet()
        for turns, falls in hall.edges(self._counted_turns, self.world.turns, self.rng):
            share = (turns - self._counted_turns) / turned
            counter.take(self.micros - (1.0 - share) * self.period_s * 1e6, falls)
        self._counted_turns = self.world.turns
        if "no_pull_up" in self.faults:
            for _ in range(int(self.rng.poisson(FLOATING_PER_S * self.period_s))):
                ago_us = float(self.rng.uniform(0, 0.75 * self.period_s * 1e6))
                counter.take(self.micros - ago_us, True)

    def obey(self, command: str) -> list[str]:
        """Take one command, such as ``target 0.6`` or ``fault stuck on``; what it prints.

        Words it does not know are passed over, as a board would.
        """
        words = command.split()
        if words == ["reset"]:
            return self.reset()
        if len(words) == 3 and words[0] == "fault" and words[1] in FAULT_WORDS:
            (self.faults.add if words[2] == "on" else self.faults.discard)(words[1])
            if words[1] == "wrap" and words[2] == "on":
                self.faults.discard("wrap")
                self.approach_wrap()
        elif len(words) == 2:
            try:
                self.world.want(words[0], float(words[1]))
            except ValueError:
                return []
        return []

    def approach_wrap(self) -> None:
        """Put the clock five seconds before its end."""
        self.clock_offset_us = 2**32 - 5_000_000 - round(self.up_s * 1e6)
