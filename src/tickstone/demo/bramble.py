"""Bramble as the club left it: some done, some stale, some to find."""

from __future__ import annotations

from datetime import timedelta

from sqlalchemy.orm import Session

from tickstone.core.air.conditions import AirConditions
from tickstone.core.chains.echo_ranger import EchoRanger
from tickstone.core.chains.kind import ChainKind
from tickstone.core.chains.reflectance import Reflectance
from tickstone.core.chains.six_axis import SixAxis
from tickstone.core.rules.kind import Known
from tickstone.core.rules.line_thresholds import LineThresholdEvidence, LineThresholds
from tickstone.core.stones.stone import WorkStage
from tickstone.core.studies.height import HeightStudy
from tickstone.demo.bringing import bring_in
from tickstone.demo.deciding import decide_for_bramble
from tickstone.demo.logs import (
    CURTAIN_AIR,
    DECK_RAMP,
    DECK_REST,
    FRONT_CURTAIN,
    LEFT_AIR,
    LEFT_RULER,
    NOSE_HEIGHTS,
    NOSE_LAP,
    NOSE_WAVE,
    REAR_RUN,
    SHED_MORNING,
    STUDY_CELLS_S,
    STUDY_HEIGHTS_MM,
)
from tickstone.demo.wirings import wire_up
from tickstone.store.models import (
    Calibration,
    CalibrationInUse,
    Mark,
    Recording,
    Rig,
    Rule,
    Sensor,
    SignOff,
    Study,
    WiringTick,
    utc_now,
)
from tickstone.work.cache import Cache
from tickstone.work.catalogue import catalogue_of
from tickstone.work.fitting import calibration_row, fit_recording
from tickstone.work.sensing import Sensing, fit_of, parameters_of, surroundings_of_take
from tickstone.work.studies import cell_of, keep_cell, stretch_of
from tickstone.work.wiring import grounds_of, steps_of, wiring_of

SHED_AIR = AirConditions(16.0, 0.58)


_PLACES = {
    "Front ranger": "front, 95 mm up",
    "Left ranger": "left side, 95 mm up",
    "Nose strip": "nose, 6 mm up",
    "Rear wheel": "rear axle, 4 magnets",
    "Deck level": "deck, centre",
    "Shed air": "deck, shaded",
    "Battery": "four cells",
}


_CHANGED_SINCE = ("BAT+",)


def plant_bramble(session: Session) -> Rig:
    """Add Bramble. The front ranger is half done, the left one stale."""
    rig = Rig(
        name="Bramble",
        description="Seed-tray cart of the Fernhollow allotment club",
        board="",
        program={"is_interleaved": True},
    )
    rig.air = SHED_AIR
    session.add(rig)
    session.flush()
    wire_up(session, rig, "bramble", _PLACES)
    _sign_wiring(session, rig)
    front, left = rig.sensors[0], rig.sensors[1]
    front.parameters = {"mount_m": 0.008}
    wheel = next(one for one in rig.sensors if one.name == "Rear wheel")
    wheel.parameters = {"per_turn": 4}
    bring_in(session, front, FRONT_CURTAIN, "first try, curtain", CURTAIN_AIR)
    _finish_left(session, left)
    _finish_strip(session, next(one for one in rig.sensors if one.name == "Nose strip"))
    _rest_deck(session, next(one for one in rig.sensors if one.name == "Deck level"))
    bring_in(session, wheel, REAR_RUN, "tape twice, then spun", SHED_AIR)
    air = next(one for one in rig.sensors if one.name == "Shed air")
    bring_in(session, air, SHED_MORNING, "a cold morning", SHED_AIR, days_ago=1.0)
    decide_for_bramble(session, rig)
    session.commit()
    return rig


def _sign_wiring(session: Session, rig: Rig) -> None:
    """Two people looked it over; the battery's divider has been changed since."""
    wiring = wiring_of(session, rig, catalogue_of(session))
    assert wiring is not None
    noted_at = utc_now() - timedelta(days=20)
    for one in steps_of(session, rig, wiring):
        if one.step.expected is None and one.step.lead not in _CHANGED_SINCE:
            session.add(
                WiringTick(
                    rig_id=rig.id,
                    key=one.step.key,
                    fingerprint=one.step.fingerprint,
                    done_at=noted_at,
                    seen_at=noted_at if one.step.needs_second else None,
                )
            )
    for sensor in rig.sensors:
        grounds = grounds_of(wiring, str(sensor.id))
        if sensor.name == "Battery":
            grounds["BAT+"] = "A7, 10 kΩ in the wire, 33 kΩ down to ground"
        session.add(
            SignOff(
                sensor_id=sensor.id,
                stage=WorkStage.WIRED.value,
                is_right=True,
                note="wired by Wren, looked over by Moss",
                grounds=grounds,
                at=noted_at,
            )
        )


def _finish_left(session: Session, left: Sensor) -> None:
    """The left ranger was done on a cold morning, which by now is stale."""
    recording = bring_in(session, left, LEFT_RULER, "ruler, frosty morning", LEFT_AIR)
    marks = [
        Mark(
            take_id=recording.take_id,
            sensor_id=left.id,
            channel=0,
            calibration="offset-scale",
            name=name,
            start_s=start_s,
            end_s=end_s,
            value=true_m,
            u=0.001,
            unit="m",
        )
        for name, start_s, end_s, true_m in (
            ("bench leg", 1.0, 10.0, 0.150),
            ("first slab", 14.0, 24.0, 0.400),
            ("second slab", 29.0, 38.0, 0.800),
            ("door frame", 44.0, 52.0, 1.400),
        )
    ]
    session.add_all(marks)
    session.flush()
    row = _calibrate(session, left, EchoRanger(), recording, marks)
    session.add(
        Rule(
            sensor_id=left.id,
            kind="stop-and-go",
            parameters={"stop_m": 0.15, "go_m": 0.22},
            basis={"calibrations": str(row.id)},
            set_at=utc_now() - timedelta(days=17),
        )
    )


def _finish_strip(session: Session, strip: Sensor) -> None:
    """The strip's five sensors were waved across it in the shed; a lap in low sun came later."""
    strip.parameters = {"line_m": 0.038, "spot_m": 0.0066, "pitch_m": 0.019}
    recording = bring_in(session, strip, NOSE_WAVE, "waved across the strip", SHED_AIR)
    wave = Mark(
        take_id=recording.take_id,
        sensor_id=strip.id,
        channel=0,
        calibration="black-white",
        pose="wave",
        name="twice across",
        start_s=2.0,
        end_s=16.0,
    )
    session.add(wave)
    session.flush()
    kind = Reflectance()
    row = _calibrate(session, strip, kind, recording, [wave])
    rule = LineThresholds()
    fits = {row.kind: fit_of(row)}
    known = Known(0.02, 0.0, 0.02, "", lambda _: 0.0, parameters_of(strip, kind), fits)
    told = rule.suggest(LineThresholdEvidence(), known)
    session.add(
        Rule(
            sensor_id=strip.id,
            kind=rule.name,
            parameters=dict(told.parameters),
            basis={"calibrations": str(row.id)},
            set_at=utc_now() - timedelta(days=17),
        )
    )
    _study_heights(session, strip, kind)
    bring_in(session, strip, NOSE_LAP, "a lap, door open, low sun", SHED_AIR, days_ago=2.0)


def _rest_deck(session: Session, deck: Sensor) -> None:
    """The deck unit lay still once, which is long ago; its faces were never held. Then a ramp."""
    recording = bring_in(session, deck, DECK_REST, "left alone on a slab", SHED_AIR, days_ago=41.0)
    rest = Mark(
        take_id=recording.take_id,
        sensor_id=deck.id,
        channel=None,
        calibration="rest-bias",
        pose="rest",
        name="a minute and a half",
        start_s=1.0,
        end_s=89.0,
    )
    session.add(rest)
    session.flush()
    _calibrate(session, deck, SixAxis(), recording, [rest], "rest-bias", days_ago=41.0)
    bring_in(session, deck, DECK_RAMP, "ramp, stop, turn, down", SHED_AIR, days_ago=3.0)


def _study_heights(session: Session, strip: Sensor, kind: ChainKind) -> None:
    """Five heights, lamps on and off, taken in one go before the strip was calibrated."""
    recording = bring_in(session, strip, NOSE_HEIGHTS, "five heights", SHED_AIR, days_ago=18.0)
    sensing = Sensing(kind, parameters_of(strip, kind), surroundings_of_take(recording.take))
    study = HeightStudy()
    row = Study(
        sensor_id=strip.id,
        kind=study.name,
        name="Heights over the concrete",
        plan={"levels": [height / 1000.0 for height in STUDY_HEIGHTS_MM]},
        cells=[],
        made_at=utc_now() - timedelta(days=18),
    )
    session.add(row)
    session.flush()
    for key, start_s, end_s in STUDY_CELLS_S:
        signal = stretch_of(session, Cache(), recording, sensing, start_s, end_s)
        taken = study.take(cell_of(row, study, key), signal, sensing.parameters)
        where = {"recording_id": recording.id, "start_s": start_s, "end_s": end_s}
        keep_cell(row, taken, where)


def _calibrate(
    session: Session,
    sensor: Sensor,
    kind: ChainKind,
    recording: Recording,
    marks: list[Mark],
    name: str = "",
    days_ago: float = 17.0,
) -> Calibration:
    """A calibration from marks, the first of a kind or that of a name, made then and in use."""
    calibration = next(one for one in kind.calibrations if name in ("", one.name))
    sensing = Sensing(kind, parameters_of(sensor, kind), surroundings_of_take(recording.take))
    fit = fit_recording(session, Cache(), recording, calibration, sensing, marks)
    row = calibration_row(recording, calibration, sensing, marks, fit)
    row.made_at = utc_now() - timedelta(days=days_ago)
    session.add(row)
    session.flush()
    sensor.in_use.append(CalibrationInUse(kind=row.kind, calibration=row))
    return row
