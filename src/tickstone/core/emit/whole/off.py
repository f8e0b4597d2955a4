"""How far a number may lie off: so much, and so much of itself."""

from __future__ import annotations

import math
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Off:
    """At most flat + share · |x| from x.

    >>> Off(0.5).plus(0.25), Off(0.0, 0.01).of(2.0)
    (Off(flat=0.75, share=0.0), 0.02)
    """

    flat: float = 0.0
    share: float = 0.0

    def of(self, size: float) -> float:
        """Of a number of that size at most."""
        return self.flat + self.share * size

    def plus(self, flat: float) -> Off:
        """So much further off."""
        return Off(self.flat + flat, self.share)

    def or_(self, other: Off) -> Off:
        """Either of two."""
        return Off(max(self.flat, other.flat), max(self.share, other.share))

    def is_within(self, other: Off) -> bool:
        """Whether it is no further off, but for the last digits of adding up."""
        return self.flat <= other.flat * (1.0 + 1e-9) and self.share <= other.share * (1.0 + 1e-9)

    def sum(self, size: float, other: Off, other_size: float) -> Off:
        """Of a sum or a difference of two, of those sizes at most."""
        if other_size > size:
            return other.sum(other_size, self, size)
        # What is off by a share of the larger is off by that of the sum, and of the smaller once.
        return Off(self.flat + other.flat + (self.share + other.share) * other_size, self.share)

    def product(self, size: float, other: Off, other_size: float) -> Off:
        """Of a product of two, of those sizes at most."""
        return Off(
            self.flat * (other_size + other.of(other_size))
            + other.flat * (1.0 + self.share) * size,
            self.share + other.share + self.share * other.share,
        )

    def root(self, low: float) -> Off:
        """Of a root of what is `low` or more."""
        near = math.sqrt(self.flat)
        if low > 0.0:
            under = math.sqrt(max(0.0, 1.0 - self.flat / low))
            near = min(near, self.flat / (math.sqrt(low) * (1.0 + under)))
        return Off(near, 0.5 * self.share * (1.0 + self.share))

    def quotient(self, other: Off, least: float) -> Off:
        """Of a quotient by what is that large at least; infinite where that may be 0."""
        share = other.share + other.flat / least
        if share >= 1.0:
            return Off(math.inf, math.inf)
        return Off(self.flat / (least * (1.0 - share)), (self.share + share) / (1.0 - share))
