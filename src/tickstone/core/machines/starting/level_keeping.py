"""Keep level: stop before it tips."""

from __future__ import annotations

from tickstone.core.machines.starting.point import BLIND_STOP, Need, StartingPoint

LEVEL_KEEPING = StartingPoint(
    "level-keeping",
    "Keep level",
    "Creeps on a slope, and stops before it tips.",
    (Need("lean", "How far it leans", "angle", "rad", names=("deck", "level", "lean")),),
    {
        "start": "stopped",
        "states": [
            {"name": "stopped", "action": "stop", "stay_s": 0.5},
            {"name": "drive", "action": "drive on", "moves": True},
            {"name": "creep", "action": "drive slowly", "moves": True, "stay_s": 0.3},
        ],
        "transitions": [
            {"leaves": "any", "to": "stopped", "when": "lean > 12°", "for_s": 0.1, "at_once": True},
            {"leaves": "drive", "to": "creep", "when": "lean > 7°", "for_s": 0.2},
            {"leaves": "creep", "to": "drive", "when": "lean < 5°", "for_s": 0.2},
            {"leaves": "stopped", "to": "creep", "when": "lean < 9°", "for_s": 1.0},
        ],
        "when_blind": BLIND_STOP,
        "speed_m_per_s": 0.4,
    },
)
