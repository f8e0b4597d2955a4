"""Fills an empty store with the demo's rigs."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from tickstone.demo.bramble import plant_bramble
from tickstone.demo.pipit import plant_pipit
from tickstone.store.models import Rig


def plant_demo(session: Session) -> bool:
    """Add Bramble and Pipit to a store that holds no rig at all; says whether it did."""
    if session.scalars(select(Rig.id).limit(1)).first() is not None:
        return False
    plant_bramble(session)
    plant_pipit(session)
    session.commit()
    return True
