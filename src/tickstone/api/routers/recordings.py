"""Recordings, and looking at them."""

from __future__ import annotations

import re
from collections.abc import Iterator

from fastapi import APIRouter
from fastapi.responses import StreamingResponse

from tickstone.api.air_out import air_out
from tickstone.api.bad_lines import Count, First, bad_lines_out
from tickstone.api.desk import CatalogueDep, DeskDep, RecordingDep, RowId, SessionDep, find
from tickstone.api.lines_of_samples import line_of_samples
from tickstone.api.problems import does_not_fit
from tickstone.api.schemas.air import Air
from tickstone.api.schemas.bench import LevelOut, QuantityOut
from tickstone.api.schemas.finding import FindingOut
from tickstone.api.schemas.look import Draft, LookIn, LookOut, OutputSeenOut, StateSpansOut
from tickstone.api.schemas.recording import BadLinesOut, RecordingChange, RecordingOut
from tickstone.api.trying import rules_tried, sensing_tried
from tickstone.api.working import step_out
from tickstone.core.inputs import with_inputs
from tickstone.core.rules.kind import Level
from tickstone.core.status import Status
from tickstone.formats.result_csv import write_result_csv
from tickstone.store.models import Recording, utc_now
from tickstone.work.air_heard import air_heard
from tickstone.work.look import Look, OutputSeen, look_at, results_of
from tickstone.work.sensing import Sensing, rule_kind

router = APIRouter(prefix="/api/recordings", tags=["recordings"])


def recording_out(recording: Recording) -> RecordingOut:
    """A recording without its readings."""
    return RecordingOut(
        id=recording.id,
        sensor_id=recording.sensor_id,
        take_id=recording.take_id,
        name=recording.name,
        source_name=recording.source_name,
        samples=recording.samples,
        bad_lines=recording.bad_lines,
        duration_s=recording.duration_s,
        rate_hz=recording.rate_hz,
        recorded_at=recording.recorded_at,
        air=Air.of(recording.air),
    )


@router.get("/{recording_id}")
def read_recording(recording: RecordingDep) -> RecordingOut:
    """What is known of a recording."""
    return recording_out(recording)


@router.patch("/{recording_id}")
def change_recording(
    recording: RecordingDep, body: RecordingChange, session: SessionDep
) -> RecordingOut:
    """Change a recording's name or the air it was taken in."""
    if body.name is not None:
        recording.name = body.name
    if body.air is not None:
        recording.take.air = body.air.conditions()
    session.commit()
    return recording_out(recording)


@router.delete("/{recording_id}", status_code=204)
def delete_recording(recording: RecordingDep, session: SessionDep) -> None:
    """Hide a recording; `restore` brings it back. A take that served only this sensor goes too."""
    recording.deleted_at = utc_now()
    if len(recording.take.channels) == 1:
        recording.take.deleted_at = recording.deleted_at
    session.commit()


@router.post("/{recording_id}/restore")
def restore_recording(recording_id: RowId, session: SessionDep) -> RecordingOut:
    """Bring a hidden recording back."""
    recording = find(session, Recording, recording_id, deleted=True)
    recording.deleted_at = recording.take.deleted_at = None
    session.commit()
    return recording_out(recording)


@router.get("/{recording_id}/bad-lines")
def list_bad_lines(
    recording: RecordingDep, session: SessionDep, first: First = 0, count: Count = 100
) -> BadLinesOut:
    """The lines that were put aside when the log was read."""
    return bad_lines_out(session, recording.take, first, count)


@router.post("/{recording_id}/look")
def look_at_recording(
    recording: RecordingDep,
    body: LookIn,
    session: SessionDep,
    desk: DeskDep,
    catalogue: CatalogueDep,
) -> LookOut:
    """A window of what a recording gives, with the working of one reading. Saves nothing."""
    if body.from_s is not None and body.to_s is not None and body.to_s < body.from_s:
        raise does_not_fit("the window ends before it begins", "to_s")
    sensing = sensing_tried(session, desk, catalogue, recording.sensor, body.draft, recording)
    look = Look(tuple(body.outputs), body.from_s, body.to_s, body.points, body.at_s)
    try:
        seen = look_at(session, desk.cache, recording, sensing, look)
    except ValueError as error:
        raise does_not_fit(str(error), "outputs") from error
    levels = _levels(session, recording, sensing, body.draft)
    heard = air_heard(session, recording.take, catalogue)
    session.commit()  # overviews that had to be worked out are kept
    return LookOut(
        samples=seen.samples,
        duration_s=seen.duration_s,
        from_s=seen.from_s,
        to_s=seen.to_s,
        outputs=[_output_out(one, sensing, levels) for one in seen.outputs],
        findings=[FindingOut.of(finding) for finding in seen.findings],
        air=None if heard is None else air_out(heard, sensing),
    )


def _levels(
    session: SessionDep, recording: Recording, sensing: Sensing, draft: Draft
) -> dict[str, tuple[Level, ...]]:
    """The levels that the rules in hand draw, by the output they decide on."""
    levels: dict[str, tuple[Level, ...]] = {}
    for name, parameters in rules_tried(session, recording.sensor_id, draft).items():
        rule = rule_kind(sensing.kind, name)
        drawn = rule.lines(with_inputs(rule.parameters, parameters))
        levels[rule.takes] = (*levels.get(rule.takes, ()), *drawn)
    return levels


def _output_out(
    seen: OutputSeen, sensing: Sensing, levels: dict[str, tuple[Level, ...]]
) -> OutputSeenOut:
    states = [state.name for state in seen.quantity.states]
    label = next(one.label for one in sensing.kind.outputs if one.name == seen.name)
    return OutputSeenOut(
        name=seen.name,
        label=label,
        quantity=QuantityOut.of(seen.quantity),
        lines=[line_of_samples(lane) for lane in seen.lanes],
        states=StateSpansOut(
            from_s=seen.states.from_s,
            to_s=seen.states.to_s,
            state=[states[place] for place in seen.states.state],
            lane=seen.states.lane,
        ),
        at_s=seen.at_s,
        at_index=seen.at_index,
        at_status=seen.working[-1].status.code if seen.working else "",
        working=[step_out(step) for step in seen.working],
        spread_at=list(seen.spread_at),
        spread=list(seen.spread),
        samples=seen.samples,
        counts={status.code: seen.counts.get(status, 0) for status in Status},
        beside=seen.beside,
        levels=LevelOut.of(levels.get(seen.name, ())),
    )


@router.get(
    "/{recording_id}/csv",
    response_class=StreamingResponse,
    responses={200: {"content": {"text/csv": {}}, "description": "One row a reading."}},
)
def download_recording(
    recording: RecordingDep,
    session: SessionDep,
    desk: DeskDep,
    catalogue: CatalogueDep,
) -> StreamingResponse:
    """The recording as CSV: raw inputs, results, statuses and decisions, as saved."""
    sensing = sensing_tried(session, desk, catalogue, recording.sensor, Draft(), recording)
    results = results_of(session, desk.cache, recording, sensing)
    raw = results.source.read(session)
    kept = {name: results.whole(results.chain.node_of(name)) for name, _ in results.chain.outputs}
    headline = kept[sensing.kind.headline(results.chain).name]
    beside = {name: one for name, one in kept.items() if len(one) == len(headline)}
    told = {name: one for name, one in beside.items() if not one.quantity.is_decision}
    decided = {name: one for name, one in beside.items() if one.quantity.is_decision}
    safe = re.sub(r"[^A-Za-z0-9]+", "-", recording.name).strip("-") or "recording"

    def pieces() -> Iterator[str]:
        yield from write_result_csv(raw, told, decided)

    return StreamingResponse(
        pieces(),
        media_type="text/csv",
        headers={"content-disposition": f'attachment; filename="{safe}.csv"'},
    )
