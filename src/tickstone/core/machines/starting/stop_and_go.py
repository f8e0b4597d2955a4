"""Stop before an obstacle, and go again when it is gone."""

from __future__ import annotations

from tickstone.core.machines.starting.point import BLIND_STOP, FRONT, StartingPoint

STOP_AND_GO = StartingPoint(
    "stop-and-go",
    "Stop and go",
    "Stops before what stands in its way, and goes on when it is gone.",
    (FRONT,),
    {
        "start": "stopped",
        "states": [
            {"name": "stopped", "action": "stop", "stay_s": 0.2},
            {"name": "drive", "action": "drive on", "moves": True},
        ],
        "transitions": [
            {"leaves": "drive", "to": "stopped", "when": "front < 0.42 m", "at_once": True},
            {"leaves": "stopped", "to": "drive", "when": "front > 0.5 m", "for_s": 0.2},
        ],
        "when_blind": BLIND_STOP,
        "speed_m_per_s": 0.4,
    },
)
