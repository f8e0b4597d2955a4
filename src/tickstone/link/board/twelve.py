"""A rack of twelve channels a thousand times a second, to try what a line can carry."""

from __future__ import annotations

import numpy as np

from tickstone.link.board.firmware import Firmware

_BLOCK = 1_000


class TwelveBoard(Firmware):
    """Twelve converters with slow waves and noise, a lossless counter in the first."""

    name = "twelve"
    label = "A rack of twelve channels at 1 kHz"
    speed = 921_600
    period_s = 0.001
    fault_words = ("unplug", "reset_loop")

    def __init__(self, seed: int) -> None:
        super().__init__(seed)
        self._count = 0
        self._block: list[list[int]] = []

    def banner(self) -> list[str]:
        return ["t_us,n," + ",".join(f"a{channel}" for channel in range(1, 12))]

    def tick(self) -> list[str]:
        self.up_s += self.period_s
        self.age_s += self.period_s
        if "reset_loop" in self.faults and self.up_s > 2.0:
            return self.reset()
        return [self.sense()]

    def sense(self) -> str:
        if not self._block:
            self._block = self._next_block()
        values = self._block.pop()
        count, self._count = self._count, self._count + 1
        return f"{self.micros % 2**32},{count},{','.join(map(str, values))}"

    def _next_block(self) -> list[list[int]]:
        times = self._count / 1e3 + np.arange(_BLOCK)[::-1, None] / 1e3
        waves = np.sin(2 * np.pi * times * np.linspace(0.2, 9.0, 11)[None, :])
        noise = self.rng.normal(0.0, 3.0, (_BLOCK, 11))
        block: list[list[int]] = np.rint(512 + 300 * waves + noise).astype(int).tolist()
        return block
