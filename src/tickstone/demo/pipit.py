"""Pipit, a downhill kart that is being wired: one fault that would cost a pin, one that nags."""

from __future__ import annotations

from sqlalchemy.orm import Session

from tickstone.core.air.conditions import AirConditions
from tickstone.demo.bringing import bring_in
from tickstone.demo.logs import AXLE_RUN, METER_DESCENT, METER_ENDS
from tickstone.demo.wirings import wire_up
from tickstone.store.models import Rig

_PLACES = {
    "Side ranger": "right side, 300 mm up",
    "Front axle": "left hub, 2 magnets",
    "G meter": "floor pan, centre",
}


def plant_pipit(session: Session) -> Rig:
    """Add Pipit: the side ranger's 5 V echo goes straight to a 3.3 V pin."""
    rig = Rig(name="Pipit", description="Downhill soapbox kart", board="", program={})
    rig.air = AirConditions(18.0, 0.55)
    session.add(rig)
    session.flush()
    wire_up(session, rig, "pipit", _PLACES)
    axle = next(one for one in rig.sensors if one.name == "Front axle")
    axle.parameters = {"per_turn": 2, "wheel_m": 0.305}
    bring_in(session, axle, AXLE_RUN, "down Fern Lane, held back", rig.air)
    meter = next(one for one in rig.sensors if one.name == "G meter")
    meter.parameters = {**meter.parameters, "reads_own_supply": True}
    bring_in(session, meter, METER_ENDS, "each axis up and down", rig.air)
    beside = [axle]
    bring_in(session, meter, METER_DESCENT, "down Fern Lane, free", rig.air, 4.0, beside)
    session.commit()
    return rig
