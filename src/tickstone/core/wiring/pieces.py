"""What lies between nets, with whom it belongs to, before any of it is numbered and solved."""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

from tickstone.core.electric.network import Span

LED_EMISSION_V = 0.7
"""Forward volts over emission coefficient: keeps saturation currents like those of silicon."""


class Owner(NamedTuple):
    """Whom a piece belongs to. sort: bead, part, inside, output, input, pin, clamp, ….

    device, lead: of a lead; or pin: of the board; key: of a part, or the place of a bead.
    """

    sort: str
    device: str = ""
    lead: str = ""
    pin: str = ""
    key: str = ""


@dataclass(frozen=True, slots=True)
class Driver:
    """Something that can be in several positions: an output, a pin, a switch, a wiper, light.

    rest: the position it is in while others are looked at. pulls: the positions in which it holds
    its net with little resistance; two that pull apart fight.
    """

    owner: Owner
    positions: tuple[str, ...]
    rest: int = 0
    pulls: frozenset[int] = frozenset()

    def position(self, name: str) -> int:
        """The number of a position."""
        return self.positions.index(name)


@dataclass(frozen=True, slots=True)
class Piece:
    """A part between nets. sort: the field of `Network` it goes to.

    nets: in the order of that part's nodes. span: the figure that has a tolerance. rest: its other
    figures in order. driver, position: it conducts only then.
    """

    sort: str
    nets: tuple[str, ...]
    span: Span
    owner: Owner
    rest: tuple[float, ...] = ()
    driver: int = -1
    position: int = 0


@dataclass(frozen=True, slots=True)
class Origin:
    """What holds a net at given volts. limit_a: the most it gives. inner_ohm: behind the volts."""

    name: str
    volts: Span
    limit_a: float | None = None
    inner_ohm: float = 0.0


@dataclass(frozen=True, slots=True)
class Capacitance:
    """F between two nets. is_part: a part somebody put there, and not what wires have anyway."""

    nets: tuple[str, str]
    farad: float
    owner: Owner
    is_part: bool = False
