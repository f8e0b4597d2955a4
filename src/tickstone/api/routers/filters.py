"""Filters side by side, on any output of a sensor or any channel of a take."""

from __future__ import annotations

from fastapi import APIRouter

from tickstone.api.desk import CatalogueDep, DeskDep, RecordingDep, SessionDep, TakeDep
from tickstone.api.lines_of_samples import line_of_samples
from tickstone.api.problems import does_not_fit
from tickstone.api.schemas.bench import QuantityOut
from tickstone.api.schemas.filters import (
    ChannelFiltersIn,
    ComparisonOut,
    FilterAsked,
    FilteredOut,
    FilterKindOut,
    FiltersIn,
    InnovationsOut,
    SuggestedOut,
)
from tickstone.api.trying import sensing_tried
from tickstone.core.display import finite
from tickstone.core.filters import FILTERS, stage_from_words
from tickstone.core.filters.comparing import Asked
from tickstone.core.quantity import Quantity
from tickstone.core.stages.value_kalman import ValueKalman
from tickstone.work.filtering import (
    Comparison,
    Through,
    channel_signal,
    compared_on,
    output_lane,
)

router = APIRouter(prefix="/api", tags=["filters"])


@router.get("/filters")
def list_filters() -> list[FilterKindOut]:
    """All kinds of filters."""
    return [FilterKindOut.of(kind) for kind in FILTERS.values()]


@router.post("/recordings/{recording_id}/filters")
def compare_filters(
    recording: RecordingDep,
    body: FiltersIn,
    session: SessionDep,
    desk: DeskDep,
    catalogue: CatalogueDep,
) -> ComparisonOut:
    """Filters on an output of a sensor, before any that is set. Saves nothing."""
    asked = _asked(body.filters)
    sensing = sensing_tried(session, desk, catalogue, recording.sensor, body.draft, recording)
    try:
        signal = output_lane(session, desk.cache, recording, sensing, body.output, body.lane)
        told = compared_on(signal, asked, body.speed_m_per_s, body.from_s, body.to_s)
    except ValueError as error:
        raise does_not_fit(str(error)) from error
    kind = sensing.kind
    labels = {one.name: one.label for one in kind.outputs}
    return _out(
        told,
        signal.quantity,
        asked,
        labels.get(kind.filtered, ""),
        bool(kind.filtered) and (body.output or kind.outputs[0].name) == kind.filtered,
        getattr(sensing.parameters, "smooth", ""),
    )


@router.post("/takes/{take_id}/channels/{number}/filters")
def compare_filters_on_channel(
    take: TakeDep, number: int, body: ChannelFiltersIn, session: SessionDep
) -> ComparisonOut:
    """Filters on a channel as it came. Saves nothing."""
    if not 0 <= number < len(take.channels):
        raise does_not_fit(f"there is no channel {number}", "number")
    asked = _asked(body.filters)
    try:
        signal = channel_signal(session, take, number)
        told = compared_on(signal, asked, body.speed_m_per_s, body.from_s, body.to_s)
    except ValueError as error:
        raise does_not_fit(str(error)) from error
    channel = take.channels[number]
    return _out(told, Quantity(channel["quantity"], channel["unit"]), asked)


def _asked(filters: list[FilterAsked]) -> list[Asked]:
    found = []
    for place, one in enumerate(filters):
        try:
            stage = stage_from_words(one.words)
        except ValueError as error:
            raise does_not_fit(str(error), f"filters.{place}.words") from error
        if stage is None:
            raise does_not_fit("say which filter", f"filters.{place}.words")
        found.append(Asked(one.words, stage, one.is_hindsight))
    return found


def _out(
    told: Comparison,
    quantity: Quantity,
    asked: list[Asked],
    filtered: str = "",
    can_take: bool = False,
    taken: str = "",
) -> ComparisonOut:
    return ComparisonOut(
        quantity=QuantityOut.of(quantity),
        noise=told.known.noise,
        is_still=bool(told.known.stretches_s),
        spikes=len(told.known.spikes),
        gap_s=told.known.gap_s,
        samples=told.samples,
        of=told.of,
        rows=[_row(one, told, of) for one, of in zip(told.rows, (None, *asked), strict=True)],
        suggested=SuggestedOut.model_validate(told.suggested),
        can_take=can_take,
        filtered=filtered,
        taken=taken,
    )


def _row(one: Through, told: Comparison, asked: Asked | None) -> FilteredOut:
    figures, noise = one.figures, told.known.noise
    checked, stage = None, asked.stage if asked is not None else None
    if one.innovations is not None and isinstance(stage, ValueKalman):
        checked = InnovationsOut(
            ratio=finite(one.innovations.ratio),
            echo=finite(one.innovations.echo),
            is_fine=one.innovations.is_fine,
            says=one.innovations.says,
            gain=stage.gain,
        )
    return FilteredOut(
        words=figures.words,
        is_hindsight=figures.is_hindsight,
        noise=finite(figures.noise),
        noise_share=finite(figures.noise / noise) if noise else None,
        rise_s=finite(figures.rise_s),
        delay_s=finite(figures.delay_s),
        overshoot=finite(figures.overshoot),
        spike=finite(figures.spike),
        spikes=figures.spikes,
        costs_m=finite(figures.costs_m),
        line=line_of_samples(one.line),
        hz=one.hz.tolist(),
        density=one.density.tolist(),
        innovations=checked,
    )
