"""What a rig stands in: what calibrations were made in, and what readings are taken in."""

from __future__ import annotations

from dataclasses import dataclass

from tickstone.core.air.conditions import AirConditions


@dataclass(frozen=True, slots=True)
class Surroundings:
    """The air, and how well it is known. A kind of chain says what of it it rests on."""

    air: AirConditions
