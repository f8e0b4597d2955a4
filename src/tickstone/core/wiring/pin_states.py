"""Volts and amps at a pin in each state it can be in, in words a person can check with a meter."""

from __future__ import annotations

import math
from dataclasses import dataclass

from tickstone.core.display import finite
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.pieces import Owner
from tickstone.core.wiring.solved import FLOATING_OHM, Island

MOST_STATES = 8
"""So many states of a pin are told; of a large net the first, each output alone (our choice)."""


@dataclass(frozen=True, slots=True)
class PinState:
    """when: which of those on its net does what. Volts: least, usual, most; None where nothing
    holds the pin. amps: what the pin itself gives (above 0) or takes; None where it only listens.
    """

    when: str
    low_v: float | None
    usual_v: float | None
    high_v: float | None
    amps: float | None


def pin_states(circuit: Circuit, pin: str) -> tuple[PinState, ...]:
    """All that is told of one pin; nothing for one that is not in use."""
    if pin not in circuit.jobs:
        return ()
    point = circuit.solved.at(pin)
    island = point.island
    if island is None:
        return (PinState("always", *point.volts(0), None),)
    found = []
    for state in range(min(len(island.states), MOST_STATES)):
        low, usual, high = point.volts(state, is_clamped=True)
        is_held = point.behind_ohm(state) < FLOATING_OHM
        found.append(
            PinState(
                _when(circuit, island, state),
                finite(low) if is_held else None,
                finite(usual) if is_held else None,
                finite(high) if is_held else None,
                _amps(circuit, pin, state),
            )
        )
    return tuple(found)


def _when(circuit: Circuit, island: Island, state: int) -> str:
    """Those that do something in a state; or, at rest, those that could."""
    acting = []
    for place, position in enumerate(island.states[state]):
        driver = island.driver(place)
        if len(island.drivers) == 1 or position != driver.rest:
            name = circuit.name_of(driver.owner)
            acting.append(f"{name} {driver.positions[position]}")
    return ", ".join(acting) or ("at rest" if island.drivers else "always")


def _amps(circuit: Circuit, pin: str, state: int) -> float | None:
    total, is_driving = 0.0, False
    for island, piece in circuit.solved.pieces_of(Owner("pin", pin=pin)):
        found = island.currents(piece, is_clamped=True)
        if found is None:
            continue
        usual = float(found[1][state])
        # A piece runs from the pin's net to a rail: what runs that way is taken by the pin.
        total -= usual
        is_driving = True
    return total if is_driving and math.isfinite(total) else None
