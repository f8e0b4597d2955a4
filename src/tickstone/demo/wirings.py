"""The demo rigs' wirings, as files like any other."""

from __future__ import annotations

from importlib import resources

from sqlalchemy.orm import Session

from tickstone.store.models import Rig
from tickstone.work.catalogue import catalogue_of
from tickstone.work.wiring_import import bring_in_wiring

DEMO_WIRINGS = ("bramble", "pipit")


def wiring_text(name: str) -> str:
    """The wiring file of a demo rig."""
    file = resources.files("tickstone") / "demo" / "wiring" / f"{name}.json"
    return file.read_text(encoding="utf-8")


def wire_up(session: Session, rig: Rig, name: str, places: dict[str, str]) -> None:
    """Give a rig the board, devices and wires of a file. places: of the devices, by name."""
    bring_in_wiring(session, rig, wiring_text(name), catalogue_of(session))
    for sensor in rig.sensors:
        sensor.place = places[sensor.name]
    session.flush()
