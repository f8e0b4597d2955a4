"""The same wiring with other keys for its devices."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from tickstone.core.wiring.netlist import Wiring, place_of


def renamed(wiring: Wiring, keys: Mapping[str, str]) -> Wiring:
    """Every device under its new key, wherever it is named. keys: new ones by old ones.

    What was measured is by test point and does not come along.
    """
    places = renamed_places(wiring, keys)
    return replace(
        wiring,
        devices=tuple(replace(one, key=keys[one.key]) for one in wiring.devices),
        connections=tuple(
            replace(one, device=keys[one.device], to=places.get(one.to, one.to))
            for one in wiring.connections
        ),
        parts=tuple(
            replace(one, ends={leg: places.get(end, end) for leg, end in one.ends.items()})
            for one in wiring.parts
        ),
        left_open=tuple((keys[device], lead) for device, lead in wiring.left_open),
        measured={},
    )


def renamed_places(wiring: Wiring, keys: Mapping[str, str]) -> dict[str, str]:
    """Leads as places, under their devices' new keys."""
    return {
        place_of(one.key, lead.name): place_of(keys[one.key], lead.name)
        for one in wiring.devices
        for lead in one.family.leads
    }
