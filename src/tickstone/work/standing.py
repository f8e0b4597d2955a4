"""Where a stored rig stands: the facts of each sensor, and its stones."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

from sqlalchemy import select
from sqlalchemy.orm import Session

from tickstone.core.families.ultrasonic_ranger import calibration_grounds
from tickstone.core.status import Status
from tickstone.core.stones.facts import (
    CalibrationFacts,
    RecordingFacts,
    SensorFacts,
    SignOffFacts,
    ThresholdFacts,
)
from tickstone.core.stones.row import NextStone, next_stone, stones_for
from tickstone.core.stones.stone import Stone, WorkStage
from tickstone.store.models import Calibration, Rig, Sensor, SignOff, Threshold, utc_now
from tickstone.work.cache import RecordingCache
from tickstone.work.catalogue import Catalogue, catalogue_of
from tickstone.work.chains import latest_recording, latest_threshold, parameters_of
from tickstone.work.wiring import WiringLook, look_at_wiring

SignOffs = dict[tuple[int, WorkStage], SignOffFacts]
"""The newest of each, by sensor and stage."""


@dataclass(frozen=True, slots=True)
class Standing:
    """A rig's sensors with their stones, row by row, and the stone to turn to."""

    sensors: tuple[Sensor, ...]
    stones: tuple[tuple[Stone, ...], ...]
    next: NextStone | None


def standing_of(session: Session, cache: RecordingCache, rig: Rig) -> Standing:
    """Work out every stone of a rig."""
    sensors = tuple(rig.sensors)
    catalogue = catalogue_of(session)
    look = look_at_wiring(session, rig, catalogue)
    signed = sign_offs_of(session, sensors)
    stones = tuple(
        stones_for(facts_of(session, cache, sensor, catalogue, look, signed)) for sensor in sensors
    )
    return Standing(sensors, stones, next_stone(stones))


def facts_of(
    session: Session,
    cache: RecordingCache,
    sensor: Sensor,
    catalogue: Catalogue,
    look: WiringLook,
    signed: SignOffs | None = None,
) -> SensorFacts:
    """All that the stone rules look at, for one sensor. signed: looked up when not at hand."""
    if signed is None:
        signed = sign_offs_of(session, [sensor])
    facts = replace(
        wired_facts_of(sensor, catalogue, look, signed),
        driven=signed.get((sensor.id, WorkStage.DRIVEN)),
    )
    if not facts.family.has_chain:
        return facts
    parameters = parameters_of(sensor)
    threshold = latest_threshold(session, sensor.id)
    return replace(
        facts,
        grounds=calibration_grounds(parameters),
        reads_the_air=parameters.reads_the_air,
        recording=_recording_facts(session, cache, sensor),
        calibration=_calibration_facts(sensor.calibration) if sensor.calibration else None,
        threshold=_threshold_facts(threshold) if threshold else None,
    )


def wired_facts_of(
    sensor: Sensor, catalogue: Catalogue, look: WiringLook, signed: SignOffs
) -> SensorFacts:
    """What the rule of the Wired stone looks at, for one sensor."""
    return SensorFacts(
        family=catalogue.devices[sensor.family],
        now=utc_now(),
        air=sensor.rig.air,
        wired=signed.get((sensor.id, WorkStage.WIRED)),
        wiring=look.facts(str(sensor.id)),
    )


def sign_offs_of(session: Session, sensors: Iterable[Sensor]) -> SignOffs:
    """The newest sign-off of each sensor and stage, all in one question."""
    rows = session.scalars(
        select(SignOff)
        .where(SignOff.sensor_id.in_([one.id for one in sensors]), SignOff.deleted_at.is_(None))
        .order_by(SignOff.at, SignOff.id)
    )
    return {  # a newer one takes the place of an older
        (row.sensor_id, WorkStage(row.stage)): SignOffFacts(
            row.at, row.is_right, row.note, row.grounds
        )
        for row in rows
    }


def _recording_facts(
    session: Session, cache: RecordingCache, sensor: Sensor
) -> RecordingFacts | None:
    recording = latest_recording(session, sensor.id)
    if recording is None:
        return None
    counts = cache.counts(session, recording, parameters_of(sensor))
    return RecordingFacts(
        name=recording.name,
        at=recording.recorded_at,
        samples=recording.samples,
        good=counts.get(Status.OK, 0),
        no_echo=counts.get(Status.NO_ECHO, 0) + counts.get(Status.TIMED_OUT, 0),
        rate_hz=recording.rate_hz,
    )


def _calibration_facts(row: Calibration) -> CalibrationFacts:
    return CalibrationFacts(
        identity=str(row.id),
        at=row.made_at,
        air=row.air,
        grounds=row.grounds,
        scale=row.scale,
        offset_m=row.offset_m,
        u_at_1m_m=row.u_at_1m_m,
        marks=row.marks_used,
        errors=tuple(row.errors),
    )


def _threshold_facts(row: Threshold) -> ThresholdFacts:
    return ThresholdFacts(
        at=row.set_at,
        stop_m=row.stop_m,
        go_m=row.go_m,
        needed_m=row.needed_m,
        calibration_identity=None if row.calibration_id is None else str(row.calibration_id),
    )
