"""Parts strung on a wire, in order from the device to the board."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from typing import Any, ClassVar

from tickstone.core.display import prefixed
from tickstone.core.families.figure import STRICT

MOST_OHM = 1e8
MOST_FARAD = 0.1


class BeadKind(StrEnum):
    """SERIES lies in the wire; the others go from the wire to a rail.

    PIN_PULL_UP is the pin's own pull-up, switched on by the program.
    """

    SERIES = "series"
    PULL_UP = "pull_up"
    PULL_DOWN = "pull_down"
    CAPACITOR = "capacitor"
    PIN_PULL_UP = "pin_pull_up"


@dataclass(frozen=True, slots=True)
class Bead:
    """One part. ohm: of a resistor. farad: of a capacitor. rail: what a pull-up goes to.

    tolerance: as a fraction. power_w: what the body bears.

    Raises ValueError naming the field that does not do.

    >>> Bead(BeadKind.SERIES, ohm=1800.0).words
    '1.8 kΩ in the wire'
    """

    __pydantic_config__: ClassVar[dict[str, Any]] = STRICT

    kind: BeadKind
    ohm: float | None = None
    farad: float | None = None
    rail: str = ""
    tolerance: float = 0.05
    power_w: float = 0.25

    def __post_init__(self) -> None:
        is_resistor = self.kind in (BeadKind.SERIES, BeadKind.PULL_UP, BeadKind.PULL_DOWN)
        if is_resistor != (self.ohm is not None):
            raise ValueError("ohm: a resistor needs it, and only a resistor has it")
        if (self.kind is BeadKind.CAPACITOR) != (self.farad is not None):
            raise ValueError("farad: a capacitor needs it, and only a capacitor has it")
        if self.ohm is not None and not 0.1 <= self.ohm <= MOST_OHM:
            raise ValueError(f"ohm: {self.ohm:g} Ω is outside 0.1 Ω to 100 MΩ")
        if self.farad is not None and not 1e-13 <= self.farad <= MOST_FARAD:
            raise ValueError(f"farad: {self.farad:g} F is outside 0.1 pF to 0.1 F")
        if self.rail and self.kind is not BeadKind.PULL_UP:
            raise ValueError("rail: only a pull-up names its rail; the others go to ground")
        if not 0.0 <= self.tolerance <= 0.5:
            raise ValueError("tolerance: a fraction from 0 to 0.5")
        if not 0.01 <= self.power_w <= 100.0:
            raise ValueError("power_w: 0.01 W to 100 W")

    @property
    def words(self) -> str:
        """As a person says it."""
        if self.kind is BeadKind.PIN_PULL_UP:
            return "the pin’s own pull-up"
        if self.farad is not None:
            return f"{prefixed(self.farad, 'F')} to ground"
        assert self.ohm is not None
        value = prefixed(self.ohm, "Ω")
        where = {
            BeadKind.SERIES: "in the wire",
            BeadKind.PULL_UP: f"up to {self.rail or 'the logic supply'}",
            BeadKind.PULL_DOWN: "down to ground",
        }
        return f"{value} {where[self.kind]}"


def series(ohm: float) -> Bead:
    """A resistor in the wire, ± 5 %, quarter watt."""
    return Bead(BeadKind.SERIES, ohm=ohm)


def pull_up(ohm: float, rail: str = "") -> Bead:
    """A resistor up to a rail."""
    return Bead(BeadKind.PULL_UP, ohm=ohm, rail=rail)


def pull_down(ohm: float) -> Bead:
    """A resistor down to ground."""
    return Bead(BeadKind.PULL_DOWN, ohm=ohm)


def capacitor(farad: float) -> Bead:
    """A capacitor to ground, ± 20 %."""
    return Bead(BeadKind.CAPACITOR, farad=farad, tolerance=0.2)
