"""Takes: find, look at, mark, trim, split, join, put away."""

from __future__ import annotations

import time
from typing import Annotated, Any, Literal, cast

from fastapi import APIRouter, Query
from sqlalchemy import Text, or_, select
from sqlalchemy.orm import Session

from tickstone.api.bad_lines import Count, First, bad_lines_out
from tickstone.api.desk import (
    CatalogueDep,
    DeskDep,
    RigDep,
    RowId,
    SessionDep,
    TakeDep,
    checked_channel,
    find,
)
from tickstone.api.lines_of_samples import line_of_samples
from tickstone.api.problems import ProblemError, does_not_fit
from tickstone.api.schemas.air import Air
from tickstone.api.schemas.bench import QuantityOut, ShownOut
from tickstone.api.schemas.live import Conditions
from tickstone.api.schemas.recording import BadLinesOut
from tickstone.api.schemas.take import (
    ChannelOut,
    GapOut,
    JoinIn,
    PlotIn,
    PlotOut,
    SelectionIn,
    SelectionOut,
    SeriesOut,
    SpanIn,
    SplitIn,
    TakeChange,
    TakeOut,
)
from tickstone.core.display import finite
from tickstone.store.models import Sensor, Take
from tickstone.work.cache import Cache
from tickstone.work.catalogue import Catalogue, catalogue_of
from tickstone.work.sensing import kind_of
from tickstone.work.takes.channel import channel_of
from tickstone.work.takes.editing import bring_back, join, put_away, split, trim
from tickstone.work.takes.selection import look_into

router = APIRouter(prefix="/api", tags=["takes"])


def take_out(take: Take, catalogue: Catalogue | None = None) -> TakeOut:
    """A take without its samples."""
    session = Session.object_session(take)
    assert session is not None
    catalogue = catalogue or catalogue_of(session)
    recordings = {
        one.channel: r.id for r in take.recordings if r.deleted_at is None for one in r.inputs
    }
    origin = take.first_time_us
    return TakeOut(
        id=take.id,
        rig_id=take.rig_id,
        name=take.name,
        source_name=take.source_name,
        source_kind=str(take.source.get("kind", "file")),
        state=cast(Literal["open", "whole", "cut"], take.state),
        samples=take.samples,
        bad_lines=take.bad_lines,
        duration_s=take.duration_s,
        rate_hz=take.rate_hz,
        recorded_at=take.recorded_at,
        time_source=take.time_source,
        jitter_us=take.jitter_us,
        air=Air.of(take.air),
        conditions=Conditions.model_validate(take.conditions),
        tags=take.tags,
        gaps=[
            GapOut(
                from_s=(gap["from_us"] - origin) / 1e6,
                to_s=(gap["to_us"] - origin) / 1e6,
                why=gap["why"],
            )
            for gap in take.gaps
        ],
        channels=[
            _channel_out(session, take, number, channel, recordings.get(number), catalogue)
            for number, channel in enumerate(take.channels)
        ],
    )


def _channel_out(
    session: Session,
    take: Take,
    number: int,
    channel: dict[str, Any],
    recording_id: int | None,
    catalogue: Catalogue,
) -> ChannelOut:
    sensor_id = channel.get("sensor_id")
    sensor = session.get(Sensor, sensor_id) if sensor_id is not None else None
    shown = channel_of(session, Cache(), take, number, catalogue)
    asked = None
    if recording_id is not None and sensor is not None:
        kind = kind_of(sensor, catalogue)
        asked = kind.asks_for if kind is not None else None
    return ChannelOut(
        number=number,
        name=channel["name"],
        unit=channel["unit"],
        quantity=channel["quantity"],
        sensor_id=sensor.id if sensor else None,
        sensor_name=sensor.name if sensor else "",
        recording_id=recording_id,
        asks_for=QuantityOut.of(asked) if asked is not None else None,
        stages=shown.stages,
    )


@router.get("/rigs/{rig_id}/takes")
def list_takes(
    rig: RigDep,
    session: SessionDep,
    catalogue: CatalogueDep,
    search: Annotated[str, Query(max_length=100)] = "",
    tag: Annotated[str, Query(max_length=40)] = "",
    put_away: bool = False,
) -> list[TakeOut]:
    """A rig's takes, newest first. search: in name, source, notes and tags."""
    query = select(Take).where(
        Take.rig_id == rig.id,
        Take.deleted_at.is_not(None) if put_away else Take.deleted_at.is_(None),
    )
    for word in search.split():
        pattern = "%" + word.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_") + "%"
        query = query.where(
            or_(
                Take.name.ilike(pattern),
                Take.source_name.ilike(pattern),
                Take.conditions["notes"].astext.ilike(pattern),
                Take.tags.cast(Text).ilike(pattern),
                Take.channels.cast(Text).ilike(pattern),
            )
        )
    if tag:
        query = query.where(Take.tags.contains([tag]))
    takes = session.scalars(query.order_by(Take.recorded_at.desc(), Take.id.desc()).limit(500))
    return [take_out(take, catalogue) for take in takes]


@router.get("/takes/{take_id}")
def read_take(take: TakeDep, catalogue: CatalogueDep) -> TakeOut:
    """What is known of a take."""
    return take_out(take, catalogue)


@router.patch("/takes/{take_id}")
def change_take(take: TakeDep, body: TakeChange, session: SessionDep) -> TakeOut:
    """Change a take's name, tags, air or conditions."""
    if body.name is not None:
        take.name = body.name
    if body.tags is not None:
        take.tags = list(dict.fromkeys(body.tags))
    if body.air is not None:
        take.air = body.air.conditions()
    if body.conditions is not None:
        take.conditions = body.conditions.model_dump()
    session.commit()
    return take_out(take)


@router.delete("/takes/{take_id}", status_code=204)
def delete_take(take: TakeDep, session: SessionDep) -> None:
    """Put a take away; `restore` brings it back."""
    if take.state == "open":
        raise ProblemError(409, "Recording", "It is being recorded now. Stop it first.")
    put_away(take)
    session.commit()


@router.post("/takes/{take_id}/restore")
def restore_take(take_id: RowId, session: SessionDep) -> TakeOut:
    """Bring a take back that was put away."""
    take = find(session, Take, take_id, deleted=True)
    bring_back(take)
    session.commit()
    return take_out(take)


@router.post("/takes/{take_id}/trim", status_code=201)
def trim_take(take: TakeDep, body: SpanIn, session: SessionDep) -> TakeOut:
    """A new take of one stretch; the whole one is put away."""
    if body.to_s <= body.from_s:
        raise does_not_fit("the stretch ends before it begins", "to_s")
    return _edited(session, lambda: trim(session, take, body.from_s, body.to_s), "from_s")


@router.post("/takes/{take_id}/split", status_code=201)
def split_take(take: TakeDep, body: SplitIn, session: SessionDep) -> list[TakeOut]:
    """Two new takes; the whole one is put away."""
    try:
        parts = split(session, take, body.at_s)
    except ValueError as error:
        session.rollback()
        raise does_not_fit(str(error), "at_s") from error
    session.commit()
    return [take_out(part) for part in parts]


@router.post("/takes/join", status_code=201)
def join_takes(body: JoinIn, session: SessionDep) -> TakeOut:
    """One new take of several; they stay as they are."""
    takes = [find(session, Take, take_id) for take_id in body.take_ids]
    return _edited(session, lambda: join(session, takes, body.name), "take_ids")


def _edited(session: Session, edit: Any, field: str) -> TakeOut:
    try:
        fresh = edit()
    except ValueError as error:
        session.rollback()
        raise does_not_fit(str(error), field) from error
    session.commit()
    return take_out(fresh)


@router.get("/takes/{take_id}/bad-lines")
def list_take_bad_lines(
    take: TakeDep, session: SessionDep, first: First = 0, count: Count = 100
) -> BadLinesOut:
    """Lines that were not plain data, with their place."""
    return bad_lines_out(session, take, first, count)


@router.post("/takes/{take_id}/plot")
def plot_take(
    take: TakeDep, body: PlotIn, session: SessionDep, desk: DeskDep, catalogue: CatalogueDep
) -> PlotOut:
    """A window of some channels, raw or after a stage, thinned to the points asked for."""
    began = time.perf_counter()
    from_s = 0.0 if body.from_s is None else body.from_s
    to_s = take.duration_s if body.to_s is None else body.to_s
    if to_s < from_s:
        raise does_not_fit("the window ends before it begins", "to_s")
    series = []
    for wanted in body.channels:
        number = checked_channel(take, wanted.channel)
        channel = channel_of(session, desk.cache, take, number, catalogue)
        try:
            quantity, thin = channel.draw(wanted.stage, (from_s, to_s), body.points)
        except ValueError as error:
            raise does_not_fit(str(error), "stage") from error
        line = line_of_samples(thin).model_dump()
        series.append(
            SeriesOut(
                channel=number,
                stage=wanted.stage,
                unit=quantity.unit,
                shown=ShownOut.of(quantity.key, quantity.decimals),
                **line,
            )
        )
    session.commit()  # overviews that had to be worked out are kept
    took_ms = 1e3 * (time.perf_counter() - began)
    return PlotOut(from_s=from_s, to_s=to_s, series=series, took_ms=took_ms)


@router.post("/takes/{take_id}/selection")
def look_into_selection(
    take: TakeDep, body: SelectionIn, session: SessionDep, desk: DeskDep, catalogue: CatalogueDep
) -> SelectionOut:
    """Statistics, histogram and spectrum of a stretch of one channel."""
    number = checked_channel(take, body.channel)
    channel = channel_of(session, desk.cache, take, number, catalogue)
    try:
        found = look_into(channel, body.stage, body.from_s, body.to_s)
    except ValueError as error:
        raise does_not_fit(str(error), "stage") from error
    (at_from_s, at_from), (at_to_s, at_to) = found.ends
    return SelectionOut(
        unit=found.unit,
        n=found.n,
        flagged=found.flagged,
        mean=finite(found.mean),
        sd=finite(found.sd),
        lowest=finite(found.lowest),
        highest=finite(found.highest),
        rate_hz=finite(found.rate_hz),
        interval_sd_s=finite(found.interval_sd_s),
        at_from_s=finite(at_from_s),
        at_from=finite(at_from),
        at_to_s=finite(at_to_s),
        at_to=finite(at_to),
        pulses=found.pulses,
        pulse_hz=finite(found.pulse_hz),
        histogram_edges=found.histogram_edges.tolist(),
        histogram=[int(count) for count in found.histogram],
        spectrum_hz=found.spectrum_hz.tolist(),
        spectrum=found.spectrum.tolist(),
        spectrum_unit=f"{found.unit or '1'}/√Hz",
        shown=ShownOut.of(channel.quantity(body.stage).key, channel.quantity(body.stage).decimals),
        spectrum_note=found.spectrum_note,
    )
