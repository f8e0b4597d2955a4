"""The small changes repairs are made of."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from tickstone.core.wiring.assignment import free_pin
from tickstone.core.wiring.bead import Bead, BeadKind
from tickstone.core.wiring.circuit import Circuit, Thread
from tickstone.core.wiring.finding import Repair
from tickstone.core.wiring.netlist import Connection

_RESISTORS = (BeadKind.SERIES, BeadKind.PULL_UP, BeadKind.PULL_DOWN, BeadKind.PIN_PULL_UP)


def moved(circuit: Circuit, thread: Thread) -> Repair | None:
    """Another pin for a lead; None when no free one will do."""
    pin = free_pin(circuit, thread)
    if pin is None:
        return None
    old = thread.connection or Connection(*thread.end, pin)
    return Repair(f"Move {thread.name} to {pin}.", (replace(old, to=pin, is_fixed=False),))


def restrung(thread: Thread, beads: Iterable[Bead], text: str) -> Repair | None:
    """Other parts on a wire that has an end."""
    if thread.connection is None:
        return None
    return Repair(text, (replace(thread.connection, beads=tuple(beads)),))


def without_resistors(thread: Thread) -> tuple[Bead, ...]:
    """What is on a wire but for its resistors."""
    return tuple(bead for bead in thread.beads if bead.kind not in _RESISTORS)


def without(thread: Thread, *kinds: BeadKind) -> tuple[Bead, ...]:
    """What is on a wire but for some kinds of part."""
    return tuple(bead for bead in thread.beads if bead.kind not in kinds)
