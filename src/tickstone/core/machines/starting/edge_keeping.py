"""Keep on a table by looking down."""

from __future__ import annotations

from tickstone.core.machines.starting.point import Need, StartingPoint

EDGE_KEEPING = StartingPoint(
    "edge-keeping",
    "Keep off the edge",
    "Looks down in front of it; where the floor ends it backs up and turns.",
    (Need("floor", "Distance to the floor", "distance", "m", names=("floor", "down", "edge")),),
    {
        "start": "stopped",
        "states": [
            {"name": "stopped", "action": "stop", "stay_s": 0.2},
            {"name": "drive", "action": "drive on", "moves": True},
            {
                "name": "back", "action": "back up", "moves": True,
                "leave_after_s": 0.5, "leave_to": "turn",
            },
            {"name": "turn", "action": "turn left", "leave_after_s": 0.7, "leave_to": "stopped"},
        ],
        "transitions": [
            {
                "leaves": "drive", "to": "back",
                "when": "floor > 0.08 m or floor says no_echo or floor says too_far",
            },
            {"leaves": "stopped", "to": "drive", "when": "floor < 0.06 m", "for_s": 0.3},
        ],
        "when_blind": {"how": "hold", "hold_s": 0.1, "go_to": "stopped"},
        "speed_m_per_s": 0.2,
    },
)  # fmt: skip
