"""What follows once a take is whole: recordings of its sensors, overviews to open it with."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from tickstone.core.chains.kind import ChainKind
from tickstone.store.models import Mark, Recording, RecordingInput, Sensor, Take
from tickstone.store.takes import close_cut_takes
from tickstone.work.cache import Cache
from tickstone.work.catalogue import Catalogue, catalogue_of
from tickstone.work.look import results_of
from tickstone.work.results import SHORT_SAMPLES
from tickstone.work.sensing import kind_of, sensing_of, surroundings_of_take
from tickstone.work.sources import likely_inputs


def finish_take(session: Session, take: Take, catalogue: Catalogue | None = None) -> None:
    """All that a whole take gets. The caller commits."""
    catalogue = catalogue or catalogue_of(session)
    give_recordings(session, take, catalogue)
    overviews_ahead(session, take, catalogue)


def give_recordings(session: Session, take: Take, catalogue: Catalogue | None = None) -> None:
    """Let each sensor of the rig have its channels of a finished take, with the marks on them."""
    catalogue = catalogue or catalogue_of(session)
    have = set(
        session.scalars(select(Recording.sensor_id).where(Recording.take_id == take.id)).all()
    )
    named = dict.fromkeys(channel.get("sensor_id") for channel in take.channels)
    for sensor_id in named:
        sensor = session.get(Sensor, sensor_id) if sensor_id is not None else None
        if sensor is None or sensor.id in have or sensor.deleted_at is not None:
            continue
        kind = kind_of(sensor, catalogue)
        if kind is None:
            continue
        inputs = likely_inputs(kind, take.channels, sensor.id)
        if {role.name for role in kind.roles if role.is_needed} <= {one.role for one in inputs}:
            give_recording(session, take, sensor, kind, inputs)


def give_recording(
    session: Session, take: Take, sensor: Sensor, kind: ChainKind, inputs: list[RecordingInput]
) -> Recording:
    """A sensor's recording of a take, with these channels of it as its inputs."""
    recording = Recording(sensor_id=sensor.id, take=take, inputs=inputs)
    session.add(recording)
    session.flush()
    take_over_marks(session, recording, kind)
    return recording


def take_over_marks(session: Session, recording: Recording, kind: ChainKind) -> None:
    """Known values on a sensor's channels, in the unit a calibration asks for, are for that."""
    channels = {one.channel for one in recording.inputs}
    for mark in session.scalars(
        select(Mark).where(
            Mark.take_id == recording.take_id,
            Mark.sensor_id.is_(None),
            Mark.value.is_not(None),
            Mark.deleted_at.is_(None),
        )
    ):
        if mark.channel in channels:
            belongs_to(mark, recording.sensor_id, kind)


def belongs_to(mark: Mark, sensor_id: int, kind: ChainKind) -> None:
    """Give a mark to the first calibration of the kind that asks for what it tells."""
    for calibration in kind.calibrations:
        asked = calibration.asks_for
        if asked is not None and asked.unit == mark.unit and mark.value is not None:
            mark.sensor_id, mark.calibration = sensor_id, calibration.name
            mark.u = mark.u or calibration.usual_u
            mark.name = mark.name or asked.typed(mark.value)
            return


def overviews_ahead(session: Session, take: Take, catalogue: Catalogue | None = None) -> None:
    """Work out what a long take is first looked at with: each sensor's headline."""
    if take.samples <= SHORT_SAMPLES:
        return
    catalogue = catalogue or catalogue_of(session)
    for recording in take.recordings:
        kind = kind_of(recording.sensor, catalogue)
        if recording.deleted_at is None and kind is not None:
            sensing = sensing_of(session, recording.sensor, kind, surroundings_of_take(take))
            results = results_of(session, Cache(), recording, sensing)
            results.lanes(results.chain.node_of(kind.headline(results.chain).name))


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
