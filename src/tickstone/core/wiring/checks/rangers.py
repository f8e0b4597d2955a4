"""Rangers that hear each other."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import replace
from itertools import combinations

from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.finding import Happens, Number, Repair, Spot, WiringFinding
from tickstone.core.wiring.hearing import can_hear


def ranger_cross_talk(circuit: Circuit) -> Iterator[WiringFinding]:
    """Two rangers that hear each other and may ping at once."""
    if circuit.settings.fires_in_turn:
        return
    for one, other in combinations(circuit.wiring.devices, 2):
        hears = can_hear(one, other)
        if hears is False:
            continue
        spots = (Spot(one.key), Spot(other.key))
        in_turn = Repair(
            "Fire the rangers in turn, with their quiet time between.",
            settings=replace(circuit.settings, fires_in_turn=True),
        )
        if hears is None:
            yield WiringFinding(
                "ranger-facing",
                Happens.BETTER,
                f"{one.name}, {other.name}",
                f"It is not said which way {one.name} and {other.name} look.",
                "Rangers that look the same way take each other’s echo for their own.",
                "common practice",
                spots,
                repairs=(in_turn,),
            )
            continue
        assert one.facing_rad is not None
        assert other.facing_rad is not None
        apart = abs(math.remainder(one.facing_rad - other.facing_rad, 2.0 * math.pi))
        yield WiringFinding(
            "ranger-cross-talk",
            Happens.LUCK,
            f"{one.name}, {other.name}",
            f"{one.name} and {other.name} look {math.degrees(apart):.0f}° apart and can hear each "
            "other.",
            "The echo of one ends the timing of the other: a wall that is not there.",
            "common practice; beam plus 30° to the side",
            spots,
            (Number("apart", apart, "rad"),),
            (in_turn,),
        )
