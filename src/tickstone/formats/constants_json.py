"""A rig's constants as JSON: value, unit, standard uncertainty, and what each rests on."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Sequence
from typing import Any

from tickstone.core.emit.routine import Routine

FORMAT, VERSION = "tickstone-constants", 1


def constants_document(rig: str, routines: Sequence[Routine]) -> dict[str, Any]:
    """All of them, by sensor. identity: of the numbers, whatever is said of them."""
    sensors = [
        {
            "name": routine.name,
            "constants": [
                {
                    "name": one.name,
                    "value": one.value,
                    "unit": one.unit,
                    "standard_uncertainty": one.u,
                    "rests_on": one.rests_on,
                }
                for one in routine.constants
            ],
        }
        for routine in routines
    ]
    return {
        "format": FORMAT,
        "version": VERSION,
        "rig": rig,
        "identity": constants_identity(routines),
        "sensors": sensors,
    }


def constants_identity(routines: Sequence[Routine]) -> str:
    """Eight letters that another value of any of them would change."""
    numbers = [
        [routine.name, one.name, repr(one.value)]
        for routine in routines
        for one in routine.constants
    ]
    return hashlib.sha256(json.dumps(numbers).encode()).hexdigest()[:8]
