"""A supply of the person's own: a battery, a bench supply, a plug pack."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from typing import Any, ClassVar

from tickstone.core.electric.network import Span
from tickstone.core.families.figure import STRICT, check_label

MOST_CELLS = 24
MOST_V = 60.0
LEAST_INNER_OHM = 0.01
"""No source is without inner resistance: this much at least (our choice)."""
_USUAL_INNER_OHM = 0.1
"""Inner resistance of a supply nobody stated it of (from memory, a few small cells)."""


class Chemistry(StrEnum):
    """What the cells of a battery are."""

    ALKALINE = "alkaline"
    NICKEL = "nickel"
    LITHIUM = "lithium"
    LITHIUM_IRON = "lithium_iron"
    LEAD = "lead"

    @property
    def words(self) -> str:
        """As a person says it."""
        return _WORDS[self]


_WORDS = {
    Chemistry.ALKALINE: "alkaline",
    Chemistry.NICKEL: "nickel-metal hydride",
    Chemistry.LITHIUM: "lithium",
    Chemistry.LITHIUM_IRON: "lithium iron phosphate",
    Chemistry.LEAD: "lead",
}

CELL_V: dict[Chemistry, Span] = {
    Chemistry.ALKALINE: Span(0.9, 1.5, 1.6),
    Chemistry.NICKEL: Span(1.0, 1.2, 1.45),
    Chemistry.LITHIUM: Span(3.0, 3.7, 4.2),
    Chemistry.LITHIUM_IRON: Span(2.5, 3.2, 3.65),
    Chemistry.LEAD: Span(1.75, 2.0, 2.4),
}
"""Empty, usual and just charged, V a cell: alkaline, nickel and lithium common practice, the two
last from memory."""


@dataclass(frozen=True, slots=True)
class PowerSupply:
    """A supply. key: short; its ends are the places `KEY+` and `KEY-`.

    least_v, usual_v, greatest_v: left out, those of `cells` cells of `chemistry`. limit_a: most it
    gives. inner_ohm: its inner resistance. has_common_ground: its minus is the board's ground;
    without, a wire has to join them.

    Raises ValueError naming the field that does not do.

    >>> PowerSupply("Pack", cells=4, chemistry=Chemistry.NICKEL).volts
    Span(low=4.0, usual=4.8, high=5.8)
    """

    __pydantic_config__: ClassVar[dict[str, Any]] = STRICT

    key: str
    name: str = ""
    least_v: float | None = None
    usual_v: float | None = None
    greatest_v: float | None = None
    cells: int | None = None
    chemistry: Chemistry | None = None
    limit_a: float | None = None
    inner_ohm: float | None = None
    has_common_ground: bool = True

    def __post_init__(self) -> None:
        check_label("a supply’s key", self.key)
        if (self.cells is None) != (self.chemistry is None):
            raise ValueError(f"cells: of {self.key}, go with the chemistry, and it with them")
        if self.cells is not None and not 1 <= self.cells <= MOST_CELLS:
            raise ValueError(f"cells: {self.cells} of {self.key} is outside 1 to {MOST_CELLS}")
        if self.cells is None and self.usual_v is None:
            raise ValueError(f"usual_v: {self.key} needs its volts, or its cells and chemistry")
        for what, low, high in (
            ("least_v", 0.0, MOST_V),
            ("usual_v", 0.3, MOST_V),
            ("greatest_v", 0.3, MOST_V),
            ("limit_a", 0.001, 1_000.0),
            ("inner_ohm", 0.0, 1_000.0),
        ):
            value = getattr(self, what)
            if value is not None and not low <= value <= high:
                raise ValueError(f"{what}: {value:g} of {self.key} is outside {low:g} to {high:g}")
        low_v, usual_v, high_v = self.volts
        if not low_v <= usual_v <= high_v:
            raise ValueError(
                f"usual_v: of {self.key}, least {low_v:g} V, usual {usual_v:g} V and greatest "
                f"{high_v:g} V are not in order"
            )

    @property
    def volts(self) -> Span:
        """At least, as usual, at most, V; what is stated counts before what the cells have."""
        low = usual = high = self.usual_v
        if self.cells is not None and self.chemistry is not None:
            cell = CELL_V[self.chemistry]
            low, usual, high = (self.cells * one for one in cell)
            usual = self.usual_v if self.usual_v is not None else usual
        assert low is not None
        assert usual is not None
        assert high is not None
        return Span(
            low if self.least_v is None else self.least_v,
            usual,
            high if self.greatest_v is None else self.greatest_v,
        )

    @property
    def inner(self) -> float:
        """Its inner resistance, Ω, as stated or as usual."""
        return max(
            self.inner_ohm if self.inner_ohm is not None else _USUAL_INNER_OHM, LEAST_INNER_OHM
        )

    @property
    def plus(self) -> str:
        """The place of its plus."""
        return f"{self.key}+"

    @property
    def minus(self) -> str:
        """The place of its minus."""
        return f"{self.key}-"

    @property
    def words(self) -> str:
        """As a person calls it."""
        return self.name or self.key
