"""What Bramble decides by: a round of the yard, rules over the whole rig, and a tuned wheel."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from sqlalchemy.orm import Session

from tickstone.demo.bringing import bring_in, bring_in_plain
from tickstone.demo.logs import WHEEL_LOOP, WHEEL_STEP, YARD_AIR, YARD_ROUND
from tickstone.store.models import Decision, DecisionInUse, Mark, Rig, Sensor, utc_now
from tickstone.work.deciding.grounds import basis_of
from tickstone.work.deciding.keeping import RULES, TUNING

_DAYS_AGO = 17.5
_TRUTHS = (
    ("drive", 3.0, 11.2),
    ("avoid", 11.4, 14.2),
    ("drive", 15.6, 26.0),
    ("seek", 27.8, 29.4),
    ("drive", 30.5, 37.5),
    ("stopped", 39.4, 42.3),
    ("drive", 45.0, 51.5),
    ("avoid", 60.2, 61.0),
)
"""What would have been right, by whoever walked beside it."""


def decide_for_bramble(session: Session, rig: Rig) -> None:
    """The round, marked, and the rules that were kept after it; a first version before them."""
    by_name = {one.name: one for one in rig.sensors}
    front, strip, deck = (by_name[name] for name in ("Front ranger", "Nose strip", "Deck level"))
    recording = bring_in(
        session, front, YARD_ROUND, "round the yard", YARD_AIR, _DAYS_AGO, (strip, deck)
    )
    session.add_all(
        Mark(take_id=recording.take_id, name=name, start_s=start_s, end_s=end_s)
        for name, start_s, end_s in _TRUTHS
    )
    first = _keep(session, rig, RULES, _rules(front, strip, deck, 0.30), [front, strip, deck], 17.2)
    second = _keep(
        session, rig, RULES, _rules(front, strip, deck, 0.42), [front, strip, deck], 16.8,
        "0.30 m came too late at the crate",
    )  # fmt: skip
    assert first.id != second.id
    wheel = by_name["Rear wheel"]
    bring_in_plain(session, rig, WHEEL_STEP, "rear axle, power 30 to 75 %", 17.4)
    bring_in_plain(session, rig, WHEEL_LOOP, "rear axle, the loop by hand", 17.3)
    tuning = _keep(session, rig, f"{TUNING}wheel-speed", _tuning(), [wheel], 16.0, "after a walk")
    for slot, row in ((RULES, second), (tuning.slot, tuning)):
        session.add(DecisionInUse(rig_id=rig.id, slot=slot, decision_id=row.id))


def _keep(
    session: Session, rig: Rig, slot: str, document: dict[str, Any], looks_at: list[Sensor],
    days_ago: float, note: str = "",
) -> Decision:  # fmt: skip
    row = Decision(
        rig_id=rig.id,
        slot=slot,
        name=document["name"],
        document=document,
        basis=basis_of(session, rig, [one.id for one in looks_at]),
        note=note,
        made_at=utc_now() - timedelta(days=days_ago),
    )
    session.add(row)
    session.flush()
    return row


def _rules(front: Sensor, strip: Sensor, deck: Sensor, stop_m: float) -> dict[str, Any]:
    """Drive on; before an obstacle stop, back up, turn left, on; look where the strip was lost;
    stop on a slope.
    """
    return {
        "name": "Bramble’s rule",
        "speed_m_per_s": 0.4,
        "inputs": [
            {"name": "front", "sensor": str(front.id), "output": "distance", "longest_s": 0.3},
            {"name": "line", "sensor": str(strip.id), "output": "situation", "longest_s": 0.3},
            {"name": "lean", "sensor": str(deck.id), "output": "inclination", "longest_s": 0.3},
        ],
        "start": "stopped",
        "states": [
            {"name": "stopped", "action": "stop", "stay_s": 0.5, "is_alarm": True},
            {"name": "drive", "action": "follow the strip", "moves": True},
            {"name": "brake", "action": "stop", "leave_after_s": 0.3, "leave_to": "back"},
            {
                "name": "back", "action": "back up", "moves": True, "leave_after_s": 0.4,
                "leave_to": "avoid",
            },
            {"name": "avoid", "action": "turn left", "stay_s": 0.6},
            {"name": "seek", "action": "turn to the last side", "leave_after_s": 2.0,
             "leave_to": "stopped"},
        ],
        "transitions": [
            {
                "leaves": "any", "to": "stopped", "when": "lean > 12°", "for_s": 0.2,
                "at_once": True,
            },
            {"leaves": "drive", "to": "brake", "when": f"front < {stop_m:g} m"},
            {
                "leaves": "drive", "to": "seek",
                "when": "line is lost_left or line is lost_right", "for_s": 0.1,
            },
            {"leaves": "seek", "to": "brake", "when": f"front < {stop_m:g} m"},
            {"leaves": "seek", "to": "drive", "when": "line is line", "for_s": 0.1},
            {"leaves": "avoid", "to": "drive", "when": f"front > {stop_m + 0.1:g} m",
             "for_s": 0.1},
            {
                "leaves": "stopped", "to": "drive",
                "when": f"lean < 10° and front > {stop_m + 0.1:g} m", "for_s": 0.5,
            },
        ],
        "when_blind": {"how": "hold", "hold_s": 0.4, "go_to": "stopped"},
    }  # fmt: skip


def _tuning() -> dict[str, Any]:
    """The rear wheel, by hand."""
    return {
        "name": "Rear wheel, by hand",
        "plant": "wheel-speed",
        "plant_inputs": {"full": 4.0, "lag_s": 0.25, "delay_s": 0.06, "sticks": 0.15},
        "rig_inputs": {"sample_s": 0.04, "noise_u": 0.03, "target": 2.5},
        "settings": {"kp": 0.3, "ki": 1.2, "kd": 0.0, "low": 0.0, "high": 1.0},
    }
