"""Along a wall, at an even distance from it."""

from __future__ import annotations

from tickstone.core.machines.starting.point import BLIND_STOP, FRONT, Need, StartingPoint

WALL_FOLLOWING = StartingPoint(
    "wall-following",
    "Along a wall",
    "Eases towards the wall when it is far and away when it is near; turns where something is in "
    "front.",
    (Need("side", "Distance to the wall", "distance", "m", names=("left", "right", "side")), FRONT),
    {
        "start": "stopped",
        "states": [
            {"name": "stopped", "action": "stop", "stay_s": 0.2},
            {"name": "along", "action": "straight on", "moves": True},
            {"name": "nearer", "action": "ease to the wall", "moves": True, "stay_s": 0.1},
            {"name": "away", "action": "ease off the wall", "moves": True, "stay_s": 0.1},
            {"name": "corner", "action": "turn off the wall", "stay_s": 0.3},
        ],
        "transitions": [
            {"leaves": "any", "to": "corner", "when": "front < 0.35 m", "at_once": True},
            {"leaves": "along", "to": "away", "when": "side < 0.25 m"},
            {"leaves": "along", "to": "nearer", "when": "side > 0.35 m"},
            {"leaves": "away", "to": "along", "when": "side > 0.28 m"},
            {"leaves": "nearer", "to": "along", "when": "side < 0.32 m"},
            {"leaves": "corner", "to": "along", "when": "front > 0.5 m", "for_s": 0.2},
            {
                "leaves": "stopped", "to": "along", "when": "front > 0.5 m and side > 0.05 m",
                "for_s": 0.2,
            },
        ],
        "when_blind": BLIND_STOP,
        "speed_m_per_s": 0.3,
    },
)  # fmt: skip
