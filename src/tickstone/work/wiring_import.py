"""Taking a whole wiring from a file into a rig."""

from __future__ import annotations

from sqlalchemy.orm import Session

from tickstone.core.wiring.netlist import Device, Wiring
from tickstone.core.wiring.renaming import renamed
from tickstone.formats.family_file import BOARD_FILES, DEVICE_FILES
from tickstone.formats.wiring_file import read_wiring
from tickstone.store.models import OwnFamily, Rig, Sensor
from tickstone.work.catalogue import Catalogue, catalogue_of
from tickstone.work.starting import starts_with
from tickstone.work.wiring import save_wiring


def by_name(wiring: Wiring) -> Wiring:
    """The wiring with its devices' names for keys, as it stands in a file."""
    keys: dict[str, str] = {}
    for device in wiring.devices:
        name, more = device.name, 2
        while name in keys.values():
            name, more = f"{device.name} {more}", more + 1
        keys[device.key] = name
    return renamed(wiring, keys)


def bring_in_wiring(session: Session, rig: Rig, text: str, catalogue: Catalogue) -> Catalogue:
    """Give a rig the board, devices and connections of a file.

    A device of the rig with the same name and family is taken for the one in the file; others are
    added, and none is taken away. Families the file describes itself are added as own ones.

    Raises ValueError naming the field or lead; nothing has been committed then.
    """
    wiring = read_wiring(text, catalogue.boards, catalogue.devices)
    _take_families(session, wiring, catalogue)
    known = {(sensor.name, sensor.family): sensor for sensor in rig.sensors}
    numbers: dict[str, str] = {}
    for device in wiring.devices:
        sensor = known.pop((device.name, device.family.name), None)
        if sensor is None:
            sensor = Sensor(
                rig_id=rig.id,
                name=device.name,
                family=device.family.name,
                place="",
                position=len(rig.sensors),
                parameters=starts_with(device.family, wiring.board),
            )
            rig.sensors.append(sensor)
            session.flush()
        sensor.fitting = _fitting(device)
        numbers[device.key] = str(sensor.id)
    for sensor in rig.sensors:
        sensor.wires.clear()
    session.flush()
    save_wiring(session, rig, renamed(wiring, numbers))
    return catalogue_of(session)


def _fitting(device: Device) -> dict[str, float | int]:
    said = {
        "address": device.address,
        "pulse_hz": device.pulse_hz,
        "full_charge_v": device.full_charge_v,
        "facing_rad": device.facing_rad,
    }
    return {name: value for name, value in said.items() if value is not None}


def _take_families(session: Session, wiring: Wiring, catalogue: Catalogue) -> None:
    """Keep the families a file describes; one that is known here has to be the same."""
    described = {("board", wiring.board.name): BOARD_FILES.document(wiring.board)}
    for device in wiring.devices:
        described["device", device.family.name] = DEVICE_FILES.document(device.family)
    for (kind, name), document in described.items():
        if kind == "board":
            board = catalogue.boards.get(name)
            known = BOARD_FILES.document(board) if board else None
        else:
            family = catalogue.devices.get(name)
            known = DEVICE_FILES.document(family) if family else None
        if known is None:
            session.add(OwnFamily(kind=kind, name=name, document=document))
        elif known != document:
            raise ValueError(
                f"{name}: the file describes this {kind} family otherwise than it is here; "
                "give it another name in the file"
            )
    session.flush()
