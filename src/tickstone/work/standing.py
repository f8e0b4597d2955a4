"""Where a stored rig stands: the facts of each sensor, and its stones."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from tickstone.core.chains.kind import ChainKind
from tickstone.core.inputs import with_inputs
from tickstone.core.status import Status
from tickstone.core.stones.facts import (
    CalibrationFacts,
    RecordingFacts,
    RuleFacts,
    SensorFacts,
    SignOffFacts,
)
from tickstone.core.stones.row import NextStone, next_stone, stones_for
from tickstone.core.stones.stone import Stone, WorkStage
from tickstone.core.surroundings import Surroundings
from tickstone.store.models import CalibrationInUse, Recording, Rig, Rule, Sensor, SignOff, utc_now
from tickstone.work.cache import Cache
from tickstone.work.catalogue import Catalogue, catalogue_of
from tickstone.work.fitting import MOST_SAMPLES_SEARCHED, compared
from tickstone.work.look import statuses_of
from tickstone.work.running import board_lags
from tickstone.work.sensing import (
    Sensing,
    calibration_stages,
    fit_of,
    kind_of,
    latest_recordings,
    parameters_of,
    rule_kind,
    rule_stage,
    rules_of,
    surroundings_from,
    surroundings_of_take,
)
from tickstone.work.sources import source_of
from tickstone.work.wiring import WiringLook, budget_of, look_at_wiring

SignOffs = dict[tuple[int, WorkStage], SignOffFacts]
"""The newest of each, by sensor and stage."""


@dataclass(frozen=True, slots=True)
class Standing:
    """A rig's sensors with their stones, row by row, and the stone to turn to."""

    sensors: tuple[Sensor, ...]
    stones: tuple[tuple[Stone, ...], ...]
    next: NextStone | None


def standing_of(session: Session, cache: Cache, rig: Rig) -> Standing:
    """Work out every stone of a rig."""
    sensors = tuple(rig.sensors)
    catalogue = catalogue_of(session)
    look = look_at_wiring(session, rig, catalogue)
    newest = newest_of(session, sensors)
    stones = tuple(
        stones_for(facts_of(session, cache, sensor, catalogue, look, newest)) for sensor in sensors
    )
    return Standing(sensors, stones, next_stone(stones))


def facts_of(
    session: Session,
    cache: Cache,
    sensor: Sensor,
    catalogue: Catalogue,
    look: WiringLook,
    newest: Newest | None = None,
) -> SensorFacts:
    """All that the stone rules look at, for one sensor. newest: looked up when not at hand."""
    if newest is None:
        newest = newest_of(session, [sensor])
    facts = replace(
        wired_facts_of(sensor, catalogue, look, newest.signed),
        driven=newest.signed.get((sensor.id, WorkStage.DRIVEN)),
        board_lags=newest.board_lags.get(sensor.id, ""),
    )
    kind = kind_of(sensor, catalogue)
    if kind is None:
        return facts
    parameters = parameters_of(sensor, kind)
    recording = newest.recordings.get(sensor.id)
    known = {one.name: one for one in kind.calibrations}
    rules = newest.rules.get(sensor.id, [])
    now = rests_on(sensor, kind, catalogue)
    misfits = {} if recording is None else _misfits(sensor, recording, kind, parameters, rules)
    return replace(
        facts,
        kind=kind,
        parameters=parameters,
        recording=(
            None
            if recording is None
            else _recording_facts(session, cache, recording, kind, parameters)
        ),
        calibrations=tuple(
            replace(
                _calibration_facts(kind, used),
                outgrown=misfits.get(used.kind)
                or _outgrown(session, cache, recording, used, kind, parameters),
            )
            for used in sensor.in_use
            if used.kind in known
        ),
        rules=tuple(
            replace(_rule_facts(kind, one, now), outgrown=misfits.get(one.kind)) for one in rules
        ),
    )


def _misfits(
    sensor: Sensor, recording: Recording, kind: ChainKind, parameters: Any, rules: Sequence[Rule]
) -> dict[str, tuple[str, str]]:
    """Of which calibrations and rules the newest recording says that they are of another row."""
    if all(role.most_lanes == 1 for role in kind.roles):
        return {}
    source = source_of(recording, kind)
    surroundings = surroundings_of_take(recording.take)
    sensing = Sensing(
        kind,
        parameters,
        surroundings,
        calibration_stages(sensor, kind, parameters, surroundings),
        {one.kind: rule_stage(kind, one.kind, one.parameters, parameters) for one in rules},
        source.forms,
        source.lanes,
    )
    return {name: error.grounds for name, error in sensing.fitted()[1].items()}


def _outgrown(
    session: Session,
    cache: Cache,
    recording: Recording | None,
    used: CalibrationInUse,
    kind: ChainKind,
    parameters: Any,
) -> tuple[str, str] | None:
    """Why a recording newer than a calibration says that it holds no more."""
    calibration = next(one for one in kind.calibrations if one.name == used.kind)
    row = used.calibration
    if (
        not calibration.can_be_outgrown
        or recording is None
        or recording.recorded_at <= row.made_at
        or recording.samples > MOST_SAMPLES_SEARCHED
    ):
        return None
    sensing = Sensing(kind, parameters, surroundings_of_take(recording.take))

    def judge() -> tuple[str, str] | None:
        signal = compared(session, cache, recording, calibration, sensing)
        return calibration.outgrown(fit_of(row), signal)

    key = (recording.id, row.id, repr(parameters), "outgrown")
    return cache.get(key, judge, lambda _: 0)


def wired_facts_of(
    sensor: Sensor, catalogue: Catalogue, look: WiringLook, signed: SignOffs
) -> SensorFacts:
    """What the rule of the Wired stone looks at, for one sensor."""
    return SensorFacts(
        family=catalogue.devices[sensor.family],
        now=utc_now(),
        surroundings=Surroundings(sensor.rig.air),
        wired=signed.get((sensor.id, WorkStage.WIRED)),
        wiring=look.facts(str(sensor.id)),
    )


@dataclass(frozen=True, slots=True)
class Newest:
    """What counts of several sensors' sign-offs, recordings and rules: the newest of each.

    board_lags: why the board runs something older, a sentence, by sensor.
    """

    signed: SignOffs
    recordings: dict[int, Recording]
    rules: dict[int, list[Rule]]
    board_lags: dict[int, str]


def newest_of(session: Session, sensors: Sequence[Sensor]) -> Newest:
    """All of them, a question each."""
    ids = [one.id for one in sensors]
    return Newest(
        sign_offs_of(session, sensors),
        latest_recordings(session, ids),
        rules_of(session, ids),
        board_lags(session, sensors[0].rig) if sensors else {},
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
    session: Session, cache: Cache, recording: Recording, kind: ChainKind, parameters: Any
) -> RecordingFacts:
    # Without calibrations and rules: neither has a say in what is good.
    sensing = Sensing(kind, parameters, surroundings_of_take(recording.take))
    counts = statuses_of(session, cache, recording, sensing)
    return RecordingFacts(
        name=recording.name,
        at=recording.recorded_at,
        samples=sum(counts.values()),
        good=sum(counts.pop(status, 0) for status in (Status.OK, *kind.fine)),
        flagged=counts,
        rate_hz=recording.rate_hz,
    )


def _calibration_facts(kind: ChainKind, used: CalibrationInUse) -> CalibrationFacts:
    row = used.calibration
    return CalibrationFacts(
        identity=str(row.id),
        kind=next(one for one in kind.calibrations if one.name == used.kind),
        fit=fit_of(row),
        at=row.made_at,
        surroundings=surroundings_from(row.surroundings),
        grounds=row.grounds,
        errors=tuple(row.errors),
        undone_by=used.undone_by,
    )


def rests_on(sensor: Sensor, kind: ChainKind, catalogue: Catalogue) -> dict[str, Any]:
    """What a rule rests on besides calibrations: the delays of its readings, and how it sits."""
    parameters = parameters_of(sensor, kind)
    loop_s = budget_of(sensor.rig, catalogue).loop_s
    return {
        "delays": {"loop_s": loop_s, "filter_s": kind.filter_lag_s(parameters, 0.05)},
        "geometry": dict(kind.grounds(parameters)),
    }


_SAID = {"loop_s": "One turn of the program", "filter_s": "The lag of the filter"}
_BEARS, _LEAST_S = 0.2, 0.005
"""A delay may change by such a share, or so little, before what rests on it is looked at again."""


def _moved(was: dict[str, Any], now: dict[str, Any]) -> tuple[str, str] | None:
    """Why what a rule rests on is no more as it was: a few words, and a sentence."""
    for name, before in was.get("delays", {}).items():
        after = now["delays"].get(name, before)
        if abs(after - before) > max(_LEAST_S, _BEARS * before):
            return "other delays", (
                f"{_SAID.get(name, name)} took {1e3 * before:.0f} ms when it was set, and takes "
                f"{1e3 * after:.0f} ms now."
            )
    for name, value in now["geometry"].items():
        if was.get("geometry", {}).get(name, value) != value:
            return f"{name} changed", f"It was set with another {name} than the chain has now."
    return None


def _rule_facts(kind: ChainKind, row: Rule, now: dict[str, Any]) -> RuleFacts:
    rule = rule_kind(kind, row.kind)
    return RuleFacts(
        kind=rule,
        parameters=with_inputs(rule.parameters, row.parameters),
        at=row.set_at,
        needed=row.basis.get("needed"),
        calibration_identity=row.basis.get("calibrations", ""),
        moved=_moved(row.basis, now),
    )
