"""Stop, back up, turn, and go on."""

from __future__ import annotations

from tickstone.core.machines.starting.point import BLIND_STOP, FRONT, StartingPoint

STOP_REVERSE_TURN = StartingPoint(
    "stop-reverse-turn",
    "Stop, back up, turn",
    "At an obstacle it stops, backs up, turns to the left and drives on.",
    (FRONT,),
    {
        "start": "stopped",
        "states": [
            {"name": "stopped", "action": "stop", "stay_s": 0.2},
            {"name": "drive", "action": "drive on", "moves": True},
            {"name": "brake", "action": "stop", "leave_after_s": 0.3, "leave_to": "back"},
            {
                "name": "back", "action": "back up", "moves": True,
                "leave_after_s": 0.4, "leave_to": "turn",
            },
            {"name": "turn", "action": "turn left", "leave_after_s": 0.6, "leave_to": "look"},
            {"name": "look", "action": "stop", "leave_after_s": 0.5, "leave_to": "stopped"},
        ],
        "transitions": [
            {"leaves": "drive", "to": "brake", "when": "front < 0.42 m"},
            {"leaves": "look", "to": "turn", "when": "front < 0.5 m", "for_s": 0.2},
            {"leaves": "stopped", "to": "drive", "when": "front >= 0.5 m", "for_s": 0.2},
            {"leaves": "stopped", "to": "brake", "when": "front < 0.42 m", "for_s": 2.0},
        ],
        "when_blind": BLIND_STOP,
        "speed_m_per_s": 0.4,
    },
)  # fmt: skip
