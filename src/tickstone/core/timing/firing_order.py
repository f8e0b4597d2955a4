"""The order in which rangers ping, so that none hears another's echo."""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import combinations, permutations

from tickstone.core.wiring.hearing import can_hear
from tickstone.core.wiring.netlist import Device

MOST_TRIED = 7


def firing_order(devices: Sequence[Device]) -> tuple[tuple[Device, ...], ...]:
    """Slots of rangers that may ping at once, in an order that puts unlike directions next.

    Rangers that can hear each other, or of which that is not known, never share a slot: a colouring
    of the graph of who hears whom, largest degree first. Then the slots are ordered so that the
    smallest angle between neighbours in time is as large as it can be.
    """
    rangers = [device for device in devices if device.family.beam_rad is not None]
    hears: dict[str, set[str]] = {ranger.key: set() for ranger in rangers}
    for one, other in combinations(rangers, 2):
        if can_hear(one, other) is not False:
            hears[one.key].add(other.key)
            hears[other.key].add(one.key)
    slots: list[list[Device]] = []
    for ranger in sorted(rangers, key=lambda one: -len(hears[one.key])):
        for slot in slots:
            if not any(other.key in hears[ranger.key] for other in slot):
                slot.append(ranger)
                break
        else:
            slots.append([ranger])
    if 2 < len(slots) <= MOST_TRIED:
        first, *rest = slots
        slots = [first, *max(permutations(rest), key=lambda order: _least_apart([first, *order]))]
    return tuple(tuple(slot) for slot in slots)


def _least_apart(slots: Sequence[Sequence[Device]]) -> float:
    """The smallest angle between rangers of slots that follow each other, rad."""
    around = [*zip(slots, [*slots[1:], slots[0]], strict=True)]
    return min(
        (
            abs(math.remainder(one.facing_rad - other.facing_rad, 2.0 * math.pi))
            for now, after in around
            for one in now
            for other in after
            if one.facing_rad is not None and other.facing_rad is not None
        ),
        default=0.0,
    )
