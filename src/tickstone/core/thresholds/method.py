"""What a way to choose a threshold is."""

from __future__ import annotations

from dataclasses import dataclass

from tickstone.core.heaps.heap import Heap


@dataclass(frozen=True, slots=True)
class Wanted:
    """What a person says beside the heaps.

    fixed: the threshold they have in mind, in the unit of the heaps; None: none. cost_missed: what
    taking dark for light costs, beside cost_false, taking light for dark. dark_share: of the time
    it looks at dark.
    """

    fixed: float | None = None
    cost_missed: float = 1.0
    cost_false: float = 1.0
    dark_share: float = 0.5

    def __post_init__(self) -> None:
        if not (self.cost_missed > 0.0 and self.cost_false > 0.0):
            raise ValueError("what a mistake costs has to lie above 0")
        if not 0.0 < self.dark_share < 1.0:
            raise ValueError("the share of dark has to lie between 0 and 1")


class Method:
    """A way to choose a threshold. formula: in symbols. source: where it is from."""

    name: str
    label: str
    formula: str
    source: str

    def at(self, dark: Heap, light: Heap, wanted: Wanted) -> float | None:
        """The threshold, in the unit of the heaps; None when this way gives none."""
        raise NotImplementedError
