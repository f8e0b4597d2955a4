"""Outputs against each other: how much runs between them, and whether they bear it."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

from tickstone.core.wiring.pieces import Owner
from tickstone.core.wiring.solved import Island

if TYPE_CHECKING:
    from tickstone.core.wiring.circuit import Circuit

USUAL_A = 0.02
"""What an output bears where nobody stated it (common practice)."""


class Fight(NamedTuple):
    """owners: of the outputs. amps: between them at worst. limit: what the weaker one bears."""

    owners: tuple[Owner, ...]
    amps: float
    limit: float


def fight_in(circuit: Circuit, island: Island) -> Fight | None:
    """The worst fight of an island; None when nobody is overpowered by another."""
    worst: Fight | None = None
    for state, positions in enumerate(island.states):
        pulling = [
            place
            for place, position in enumerate(positions)
            if position in island.driver(place).pulls
        ]
        names = {island.driver(place).positions[positions[place]] for place in pulling}
        if len(names) < 2:
            continue
        found: dict[Owner, float] = {}
        for piece in island.pieces:
            if piece.driver < 0:
                continue
            place = island.drivers.index(piece.driver)
            if place not in pulling or piece.position != positions[place]:
                continue
            currents = island.currents(piece)
            assert currents is not None
            low, _, high = currents
            found[piece.owner] = max(abs(float(low[state])), abs(float(high[state])))
        over = {owner: amps for owner, amps in found.items() if amps > _bears(circuit, owner)}
        if len(over) >= 2:
            weakest = max(over, key=lambda owner: over[owner] / _bears(circuit, owner))
            if worst is None or over[weakest] > worst.amps:
                worst = Fight(tuple(over), over[weakest], _bears(circuit, weakest))
    return worst


def _bears(circuit: Circuit, owner: Owner) -> float:
    pin = circuit.board.pin(owner.pin) if owner.pin else None
    if pin is not None:
        limits = circuit.board.class_of(pin)
        figure = limits.absolute_a or limits.drive_a
        return figure.value if figure else USUAL_A
    return USUAL_A
