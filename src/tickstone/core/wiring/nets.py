"""Nets: places that are one and the same point, because nothing but wire lies between them."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable

from tickstone.core.families.board_family import RailKind
from tickstone.core.families.part import PartKind
from tickstone.core.wiring.bead import Bead, BeadKind
from tickstone.core.wiring.netlist import Connection, Wiring, place_of


class Nets:
    """Which place belongs to which net. A net is called by one of its places."""

    def __init__(self, wiring: Wiring) -> None:
        self._parent: dict[str, str] = {}
        self.ground = wiring.board.ground.name
        for rail in wiring.board.rails:
            if rail.kind is RailKind.GROUND:
                self._join(rail.name, self.ground)
        for supply in wiring.supplies:
            if supply.has_common_ground:
                self._join(supply.minus, self.ground)
        for part in wiring.parts:
            if part.kind is PartKind.WIRE:
                self._join(*part.ends.values())
        for one in wiring.connections:
            self._join(stations(one)[-1], one.to)
        self._places: dict[str, list[str]] = defaultdict(list)
        for place in list(self._parent):
            self._places[self.of(place)].append(place)

    def of(self, place: str) -> str:
        """The net of a place."""
        root = place
        while (above := self._parent.get(root, root)) != root:
            root = above
        while (above := self._parent.get(place, place)) != root:
            self._parent[place] = root
            place = above
        return root

    def places(self, net: str) -> Iterable[str]:
        """All places of a net that a wire or a part has touched."""
        return self._places.get(self.of(net), (net,))

    def join(self, one: str, other: str) -> None:
        """Make two nets one, as a repair in thought would."""
        first, second = self.of(one), self.of(other)
        if first == second:
            return
        together = [*self.places(first), *self.places(second)]
        self._join(first, second)
        self._places[self.of(first)] = together

    def _join(self, one: str, other: str) -> None:
        self._parent.setdefault(one, one)
        self._parent.setdefault(other, other)
        first, second = self.of(one), self.of(other)
        # Ground keeps its name, whatever is joined to it.
        if first == self.ground:
            first, second = second, first
        self._parent[first] = second


def stations(connection: Connection) -> list[str]:
    """The points along a wire that resistors in it set apart, from the lead on.

    The last of them is the same point as the wire's end.

    >>> from tickstone.core.wiring.bead import pull_down, series
    >>> stations(Connection("a", "OUT", "D7", (series(1e3), pull_down(1e4))))
    ['a.OUT', 'a.OUT~1']
    """
    start = place_of(connection.device, connection.lead)
    count = sum(bead.kind is BeadKind.SERIES for bead in connection.beads)
    return [start, *(f"{start}~{number}" for number in range(1, count + 1))]


def strung(connection: Connection) -> list[tuple[Bead, str, str]]:
    """Each part on a wire with the point it hangs at, and the next one for a part in the wire."""
    points, place = stations(connection), 0
    found = []
    for bead in connection.beads:
        if bead.kind is BeadKind.SERIES:
            found.append((bead, points[place], points[place + 1]))
            place += 1
        elif bead.kind is BeadKind.PIN_PULL_UP:
            found.append((bead, points[-1], ""))
        else:
            found.append((bead, points[place], ""))
    return found
