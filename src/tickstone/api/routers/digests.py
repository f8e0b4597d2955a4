"""Recordings in a few figures, as JSON and as a table to take away."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import replace
from typing import Annotated

import numpy as np
from fastapi import APIRouter, Query
from fastapi.responses import PlainTextResponse
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from tickstone.api.desk import CatalogueDep, DeskDep, RecordingDep, SessionDep
from tickstone.api.problems import does_not_fit, not_found
from tickstone.api.schemas.bench import ShownOut
from tickstone.api.schemas.digest import (
    BesideOut,
    DigestIn,
    DigestOut,
    FeedOut,
    FigureOut,
    StretchOut,
)
from tickstone.api.trying import sensing_tried
from tickstone.core.digests.kind import BESIDE, MARKED, DigestKind, Figure, laps
from tickstone.core.display import finite
from tickstone.core.inputs import inputs_of
from tickstone.core.signal import Signal
from tickstone.store.models import Mark, Recording, Rig
from tickstone.work.beside import others_giving, seen_beside
from tickstone.work.catalogue import Catalogue
from tickstone.work.look import results_of, u_at
from tickstone.work.sensing import kind_of

router = APIRouter(prefix="/api/recordings/{recording_id}/digests", tags=["digests"])
Edge = Annotated[float | None, Query(ge=0, le=1e10)]


@router.post("/{name}")
def digest_recording(
    name: str,
    recording: RecordingDep,
    body: DigestIn,
    session: SessionDep,
    desk: DeskDep,
    catalogue: CatalogueDep,
) -> DigestOut:
    """A recording, or a stretch of it, in a few figures; laps end at notes of the take."""
    sensing = sensing_tried(session, desk, catalogue, recording.sensor, body.draft, recording)
    kind = {one.name: one for one in sensing.kind.digests}.get(name)
    if kind is None:
        raise not_found("digest of this kind of sensor")
    results = results_of(session, desk.cache, recording, sensing)
    given = dict(results.chain.outputs)
    if any(output not in given for output in kind.takes):
        raise not_found("digest of this recording: it holds too little for one")
    signals = {output: results.whole(given[output]) for output in kind.takes}
    others = others_giving(session, catalogue, recording, kind.beside) if kind.beside else []
    other = _chosen(others, body.beside)
    if other is not None:
        try:
            signals[BESIDE] = seen_beside(
                session, desk.cache, catalogue, other, kind.beside, signals[kind.takes[0]]
            )
        except ValueError as error:
            raise does_not_fit(str(error), "beside") from error
    if kind.marks:
        signals[MARKED] = _marked(session, recording, kind, signals[kind.takes[0]])
    session.commit()
    to_s = recording.duration_s if body.to_s is None else min(body.to_s, recording.duration_s)
    whole = (min(body.from_s or 0.0, to_s), to_s)
    ends = session.scalars(
        select(Mark.start_s).where(
            Mark.take_id == recording.take_id,
            Mark.deleted_at.is_(None),
            func.lower(Mark.name) == kind.lap,
        )
    ).all()
    feeds = _feeds(recording.sensor.rig, catalogue)
    is_missing_one = bool(kind.beside) and other is None
    stretches = [] if is_missing_one else [whole, *laps(*whole, list(ends))]
    return DigestOut(
        name=kind.name,
        label=kind.label,
        lap_note=kind.lap,
        beside=None if other is None else other.id,
        others=[BesideOut(recording_id=one.id, sensor=one.sensor.name) for one in others],
        stretches=[
            StretchOut(
                lap=number,
                from_s=start,
                to_s=end,
                figures=[
                    _figure_out(one, feeds)
                    for one in kind.figures(
                        signals,
                        start,
                        end,
                        lambda output, at: u_at(sensing, at, output),
                        sensing.parameters,
                    )
                ],
            )
            for number, (start, end) in enumerate(stretches)
        ],
    )


def _marked(session: Session, recording: Recording, kind: DigestKind, at: Signal) -> Signal:
    """What was marked as true in the take, a lane for each, at the times of `at`."""
    first = kind.marks[0].quantity
    values = np.full((len(kind.marks), len(at)), np.nan)
    names = {one.name: (lane, one.quantity.unit) for lane, one in enumerate(kind.marks)}
    marks = session.scalars(
        select(Mark)
        .where(
            Mark.take_id == recording.take_id,
            Mark.deleted_at.is_(None),
            Mark.value.is_not(None),
            func.lower(Mark.name).in_(names),
        )
        .order_by(Mark.id)
    )
    for mark in marks:
        lane, unit = names[mark.name.lower()]
        if mark.unit != unit:
            continue
        start, end = np.searchsorted(at.time_s, (mark.start_s, mark.end_s)).tolist()
        # One moment is the reading at it.
        values[lane, start : max(end, start + 1)] = mark.value
    quantity = replace(first, name=MARKED, lanes=tuple(one.label for one in kind.marks))
    return Signal.of(at.time_s, values, quantity)


def _chosen(others: list[Recording], asked: int | None) -> Recording | None:
    """The one that was asked for, or the first. A problem when there is none of that number."""
    if asked is None:
        return others[0] if others else None
    for one in others:
        if one.id == asked:
            return one
    raise does_not_fit("no such recording of another sensor in this take gives that", "beside")


def _feeds(rig: Rig, catalogue: Catalogue) -> dict[str, list[FeedOut]]:
    """The questions that decisions of the rig's sensors ask, by their names."""
    found: dict[str, list[FeedOut]] = {}
    for sensor in rig.sensors:
        kind = kind_of(sensor, catalogue)
        for rule in kind.rules if kind is not None else ():
            names = [one.name for one in inputs_of(rule.evidence)]
            for name in names:
                u_input = name.partition("_m_per")[0] + "_u"
                found.setdefault(name, []).append(
                    FeedOut(
                        sensor_id=sensor.id,
                        sensor=sensor.name,
                        rule=rule.name,
                        label=rule.label,
                        input=name,
                        u_input=u_input if u_input in names else "",
                    )
                )
    return found


def _figure_out(one: Figure, feeds: Mapping[str, list[FeedOut]]) -> FigureOut:
    return FigureOut(
        name=one.name,
        label=one.label,
        value=finite(one.value),
        u=finite(one.u),
        shown=ShownOut.of(one.quantity.key, one.quantity.decimals),
        how=one.how,
        feeds=feeds.get(one.feeds, []) if math.isfinite(one.value) else [],
        sets=dict(one.sets),
    )


@router.get(
    "/{name}/csv",
    response_class=PlainTextResponse,
    responses={200: {"content": {"text/csv": {}}, "description": "The table."}},
)
def download_digest(
    name: str,
    recording: RecordingDep,
    session: SessionDep,
    desk: DeskDep,
    catalogue: CatalogueDep,
    from_s: Edge = None,
    to_s: Edge = None,
    beside: Annotated[int | None, Query(ge=1, le=2**31 - 1)] = None,
) -> PlainTextResponse:
    """The same as CSV, as kept: the whole, then each lap, SI, `u_…` the standard uncertainty."""
    body = DigestIn(from_s=from_s, to_s=to_s, beside=beside)
    digest = digest_recording(name, recording, body, session, desk, catalogue)
    if not digest.stretches:
        raise not_found("other sensor in this take to hold it against")
    first = digest.stretches[0].figures
    heads = [word for one in first for word in (one.name, f"u_{one.name}")]
    rows = [",".join(["lap", "from_s", "to_s", *heads])]
    for stretch in digest.stretches:
        cells = [str(stretch.lap or "all"), f"{stretch.from_s:.3f}", f"{stretch.to_s:.3f}"]
        for one in stretch.figures:
            cells += ["" if part is None else f"{part:.6g}" for part in (one.value, one.u)]
        rows.append(",".join(cells))
    return PlainTextResponse(
        "\n".join(rows) + "\n",
        media_type="text/csv",
        headers={"content-disposition": f'attachment; filename="{digest.name}.csv"'},
    )
