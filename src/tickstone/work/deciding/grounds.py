"""What a decision rests on, and what of that is no more as it was."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from sqlalchemy.orm import Session

from tickstone.core.stones.stone import day
from tickstone.store.models import Calibration, Decision, Rig, Sensor
from tickstone.work.catalogue import Catalogue, catalogue_of
from tickstone.work.sensing import kind_of, parameters_of, rules_in_use
from tickstone.work.wiring import budget_of

_LOOP_BEARS = 0.2
"""A turn of the program may change by such a share before what rests on it is looked at again."""


def basis_of(session: Session, rig: Rig, sensor_ids: Sequence[int]) -> dict[str, Any]:
    """What a decision that looks at these sensors rests on now."""
    catalogue = catalogue_of(session)
    wanted = set(sensor_ids)
    return {
        "sensors": {
            str(sensor.id): _grounds(session, sensor, catalogue)
            for sensor in rig.sensors
            if sensor.id in wanted
        },
        "loop_s": budget_of(rig, catalogue).loop_s,
    }


def _grounds(session: Session, sensor: Sensor, catalogue: Catalogue) -> dict[str, Any]:
    kind = kind_of(sensor, catalogue)
    geometry = {} if kind is None else kind.grounds(parameters_of(sensor, kind))
    return {
        "name": sensor.name,
        "calibrations": {used.kind: used.calibration_id for used in sensor.in_use},
        "geometry": dict(geometry),
        "rules": {row.kind: row.parameters for row in rules_in_use(session, sensor.id)},
    }


def cracks_in(session: Session, rig: Rig, decision: Decision) -> list[str]:
    """What of its grounds is no more as it was, a sentence each; none while it holds."""
    was = decision.basis.get("sensors", {})
    now = basis_of(session, rig, [int(one) for one in was])
    found = []
    for key, before in was.items():
        after = now["sensors"].get(key)
        if after is None:
            found.append(f"{before['name']} is no more on this rig.")
            continue
        found += _changed(session, before, after)
    loop_was, loop_now = decision.basis.get("loop_s", 0.0), now["loop_s"]
    if was and abs(loop_now - loop_was) > _LOOP_BEARS * max(loop_was, 1e-3):
        found.append(
            f"One turn of the program took {1e3 * loop_was:.0f} ms, and takes "
            f"{1e3 * loop_now:.0f} ms now."
        )
    return found


def _changed(session: Session, before: Mapping[str, Any], after: Mapping[str, Any]) -> list[str]:
    name = after["name"]
    found = []
    for kind in dict.fromkeys((*before["calibrations"], *after["calibrations"])):
        old, new = before["calibrations"].get(kind), after["calibrations"].get(kind)
        if old == new:
            continue
        if new is None:
            found.append(f"The calibration of {name} that it rests on is taken out.")
        elif old is None:
            found.append(f"{name} was calibrated since, on {_day(session, new)}.")
        else:
            found.append(
                f"The calibration of {name} was replaced: it was of {_day(session, old)}, the one "
                f"in use is of {_day(session, new)}."
            )
    for what, value in after["geometry"].items():
        if before["geometry"].get(what, value) != value:
            found.append(f"The {what} of {name} is another than then.")
    if before.get("rules", {}) != after["rules"]:
        found.append(f"What {name} itself decides by was changed since.")
    return found


def _day(session: Session, calibration_id: int) -> str:
    row = session.get(Calibration, calibration_id)
    return "a day that is not known" if row is None else day(row.made_at)


def renumbered(document: Mapping[str, Any], sensors: Mapping[int, int]) -> dict[str, Any]:
    """A document with the numbers that its sensors have elsewhere."""
    if "inputs" not in document:
        return dict(document)
    inputs = []
    for one in document["inputs"]:
        old = one.get("sensor", "")
        new = sensors.get(int(old)) if str(old).isdigit() else None
        inputs.append({**one, "sensor": "" if new is None else str(new)})
    return {**document, "inputs": inputs}


def basis_renumbered(
    basis: Mapping[str, Any], sensors: Mapping[int, int], calibrations: Mapping[int, int]
) -> dict[str, Any]:
    """Grounds with the numbers that sensors and calibrations have elsewhere."""
    found = {}
    for key, one in basis.get("sensors", {}).items():
        if int(key) not in sensors:
            continue
        in_use = {
            kind: calibrations[number]
            for kind, number in one["calibrations"].items()
            if number in calibrations
        }
        found[str(sensors[int(key)])] = {**one, "calibrations": in_use}
    return {**basis, "sensors": found}
