"""What follows once a take is whole: recordings of its sensors, overviews to open it with."""

from __future__ import annotations

from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from tickstone.store.models import Mark, Recording, Sensor, Take, TakeMark, utc_now
from tickstone.store.takes import close_cut_takes
from tickstone.work.catalogue import Catalogue, catalogue_of
from tickstone.work.takes.overviews import overviews_ahead


def finish_take(session: Session, take: Take, catalogue: Catalogue | None = None) -> None:
    """All that a whole take gets. The caller commits."""
    catalogue = catalogue or catalogue_of(session)
    give_recordings(session, take, catalogue)
    overviews_ahead(session, take, catalogue)


def give_recordings(session: Session, take: Take, catalogue: Catalogue | None = None) -> None:
    """Let each ranger of the rig have its channel of a finished take, with the marks set on it."""
    catalogue = catalogue or catalogue_of(session)
    have = {
        recording.channel
        for recording in session.scalars(select(Recording).where(Recording.take_id == take.id))
    }
    for number, channel in enumerate(take.channels):
        sensor = _sensor_of(session, channel)
        if number in have or sensor is None or channel["quantity"] != "echo time":
            continue
        family = catalogue.devices.get(sensor.family)
        if family is None or not family.has_chain:
            continue
        recording = Recording(sensor_id=sensor.id, take=take, channel=number)
        session.add(recording)
        session.flush()
        _move_marks(session, take, recording)


def _sensor_of(session: Session, channel: dict[str, Any]) -> Sensor | None:
    if channel.get("sensor_id") is None:
        return None
    sensor = session.get(Sensor, channel["sensor_id"])
    return sensor if sensor is not None and sensor.deleted_at is None else None


def _move_marks(session: Session, take: Take, recording: Recording) -> None:
    """Marks in metres on a ranger's channel are what its calibration rests on."""
    marks = session.scalars(
        select(TakeMark).where(
            TakeMark.take_id == take.id,
            TakeMark.channel == recording.channel,
            TakeMark.unit == "m",
            TakeMark.deleted_at.is_(None),
        )
    )
    for mark in marks:
        if mark.true_value is None:
            continue
        session.add(
            Mark(
                recording_id=recording.id,
                name=mark.name,
                start_s=mark.start_s,
                end_s=mark.end_s,
                true_m=mark.true_value,
                true_u_m=mark.true_u or 0.0005,
            )
        )
        mark.deleted_at = utc_now()


def close_what_was_cut(session: Session) -> list[Take]:
    """At the start of a server: close the takes an ended one left open.

    In one transaction with the recordings they get, so that a server killed on the way leaves them
    open, for the next one to close.
    """
    takes = close_cut_takes(session)
    for take in takes:
        give_recordings(session, take)
    session.commit()
    for take in takes:
        overviews_ahead(session, take)
        session.commit()
    return takes
