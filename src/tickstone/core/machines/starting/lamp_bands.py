"""A ladder of lamps: the nearer, the more."""

from __future__ import annotations

from typing import Any

from tickstone.core.machines.starting.point import FRONT, StartingPoint

_STEP_CM, _LAMPS, _BAND_CM = 10, 8, 2
"""Eight lamps, 10 cm apart; common practice."""


def _rungs() -> list[dict[str, Any]]:
    """Up a rung when it comes nearer than its step, down again a band farther out."""
    rungs: list[dict[str, Any]] = []
    for lamps in range(_LAMPS):
        at_cm = _STEP_CM * (_LAMPS - lamps)
        more, fewer = f"lamps_{lamps + 1}", f"lamps_{lamps}"
        rungs.append({"leaves": fewer, "to": more, "when": f"front < {at_cm} cm"})
        rungs.append({"leaves": more, "to": fewer, "when": f"front > {at_cm + _BAND_CM} cm"})
    return rungs


LAMP_BANDS = StartingPoint(
    "lamp-bands",
    "Bands of lamps",
    "Eight lamps: one more for every 10 cm nearer.",
    (FRONT,),
    {
        "start": "lamps_0",
        "states": [
            {"name": f"lamps_{n}", "action": f"{n} lamp{'' if n == 1 else 's'} on"}
            for n in range(_LAMPS + 1)
        ],
        "transitions": _rungs(),
        "when_blind": {"how": "hold", "hold_s": 1.0, "go_to": "lamps_0"},
    },
)
