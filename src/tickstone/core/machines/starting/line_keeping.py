"""Follow a line, look for it where it was lost, roll over crossings."""

from __future__ import annotations

from tickstone.core.machines.starting.point import Need, StartingPoint
from tickstone.core.stages.line_situation import SITUATION

LINE = Need(
    "line", "What the row sees", "situation",
    states=tuple(one.name for one in SITUATION.states), longest_s=0.25,
)  # fmt: skip

LINE_KEEPING = StartingPoint(
    "line-keeping",
    "Line, lost and crossing",
    "Follows the line, looks to the side where it was last seen, rolls over crossings, stops at a "
    "bar.",
    (LINE,),
    {
        "start": "stopped",
        "states": [
            {"name": "stopped", "action": "stop", "stay_s": 0.3},
            {"name": "follow", "action": "follow the line", "moves": True},
            {"name": "cross", "action": "straight on", "moves": True, "stay_s": 0.1},
            {
                "name": "seek_left", "action": "turn left", "leave_after_s": 1.5,
                "leave_to": "lost",
            },
            {
                "name": "seek_right", "action": "turn right", "leave_after_s": 1.5,
                "leave_to": "lost",
            },
            {"name": "lost", "action": "stop", "is_alarm": True},
        ],
        "transitions": [
            {
                "leaves": "any", "to": "stopped", "when": "line is lifted or line is bar",
                "for_s": 0.1, "at_once": True,
            },
            {"leaves": "follow", "to": "cross", "when": "line is crossing"},
            {"leaves": "cross", "to": "follow", "when": "line is line"},
            {"leaves": "cross", "to": "seek_left", "when": "line is lost_left"},
            {"leaves": "cross", "to": "seek_right", "when": "line is lost_right"},
            {"leaves": "cross", "to": "lost", "when": "line is lost"},
            {"leaves": "follow", "to": "seek_left", "when": "line is lost_left", "for_s": 0.05},
            {"leaves": "follow", "to": "seek_right", "when": "line is lost_right", "for_s": 0.05},
            {"leaves": "follow", "to": "lost", "when": "line is lost", "for_s": 0.3},
            {"leaves": "seek_left", "to": "follow", "when": "line is line"},
            {"leaves": "seek_right", "to": "follow", "when": "line is line"},
            {"leaves": "lost", "to": "follow", "when": "line is line", "for_s": 0.5},
            {"leaves": "stopped", "to": "follow", "when": "line is line", "for_s": 0.5},
        ],
        "when_blind": {"how": "hold", "hold_s": 0.2, "go_to": "stopped"},
        "speed_m_per_s": 0.4,
    },
)  # fmt: skip
