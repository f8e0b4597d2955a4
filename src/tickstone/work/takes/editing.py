"""Trimming, splitting and joining: new takes from old ones, which are put away and not changed."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from tickstone.store.models import Mark, Take, utc_now
from tickstone.store.takes import TakeWriter, read_bad_lines, read_blocks
from tickstone.work.takes.finishing import finish_take

_BAD_LINES_AT_ONCE = 2_000
_MARK_KEEPS = ("sensor_id", "channel", "calibration", "pose", "name", "value", "u", "unit")


def put_away(take: Take) -> None:
    """Hide a take and the recordings of its sensors; nothing is destroyed."""
    take.deleted_at = utc_now()
    for recording in take.recordings:
        if recording.deleted_at is None:
            recording.deleted_at = take.deleted_at


def bring_back(take: Take) -> None:
    """Undo `put_away`: recordings that were hidden with the take come back with it."""
    for recording in take.recordings:
        if recording.deleted_at == take.deleted_at:
            recording.deleted_at = None
    take.deleted_at = None


def trim(session: Session, take: Take, from_s: float, to_s: float) -> Take:
    """A take of this one's stretch; this one is put away. Raises ValueError when it is empty."""
    _closed(take)
    fresh = _cut(session, take, from_s, to_s, f"{take.name}, trimmed", "trim")
    put_away(take)
    return fresh


def split(session: Session, take: Take, at_s: float) -> tuple[Take, Take]:
    """Two takes, before and from `at_s`; this one is put away. Raises ValueError."""
    _closed(take)
    if not 0.0 < at_s < take.duration_s:
        raise ValueError("split it somewhere inside")
    first = _cut(session, take, 0.0, at_s - 1e-6, f"{take.name}, part 1", "split")
    second = _cut(session, take, at_s, take.duration_s, f"{take.name}, part 2", "split")
    put_away(take)
    return first, second


def join(session: Session, takes: Sequence[Take], name: str) -> Take:
    """One take of several, one after the other; a gap of its usual interval lies between them.

    The old ones stay. Raises ValueError when their channels differ.
    """
    first = takes[0]
    for take in takes:
        _closed(take)
        if [_likeness(c) for c in take.channels] != [_likeness(c) for c in first.channels]:
            raise ValueError(f"“{take.name}” has other channels than “{first.name}”")
        if take.rig_id != first.rig_id:
            raise ValueError(f"“{take.name}” is of another rig")
    fresh = _like(session, first, name, "join", [take.id for take in takes])
    writer = TakeWriter(session, fresh)
    gaps: list[dict[str, Any]] = []
    end_us = 0
    for number, take in enumerate(takes):
        interval_us = round(1e6 / take.rate_hz) if take.rate_hz > 0 else 0
        shift = end_us + (interval_us if number else 0) - take.first_time_us
        if number:
            gaps.append({"from_us": end_us, "to_us": end_us + interval_us, "why": "joined here"})
        for block in read_blocks(session, take):
            writer.append(block.shifted(shift))
        gaps += [_shifted_gap(gap, shift) for gap in take.gaps]
        _copy_bad_lines(session, take, writer)
        _copy_marks(session, take, fresh, (take.first_time_us + shift) / 1e6, 0.0, take.duration_s)
        end_us = take.last_time_us + shift
    writer.flush()
    fresh.gaps = gaps
    finish_take(session, fresh)
    return fresh


def _closed(take: Take) -> None:
    if take.state == "open":
        raise ValueError(f"“{take.name}” is still being recorded; stop it first")


def _likeness(channel: dict[str, Any]) -> tuple[str, str]:
    return channel["name"], channel["unit"]


def _cut(session: Session, take: Take, from_s: float, to_s: float, name: str, kind: str) -> Take:
    origin = take.first_time_us
    from_us, to_us = origin + round(from_s * 1e6), origin + round(to_s * 1e6)
    fresh = _like(session, take, name, kind, [take.id])
    writer = TakeWriter(session, fresh)
    for block in read_blocks(session, take, from_us, to_us):
        writer.append(block)
    writer.flush()
    if fresh.samples == 0:
        raise ValueError("there is no sample in this stretch")
    fresh.gaps = [gap for gap in take.gaps if gap["to_us"] >= from_us and gap["from_us"] <= to_us]
    shift_s = (origin - fresh.first_time_us) / 1e6
    _copy_marks(session, take, fresh, shift_s, from_s, to_s)
    if kind == "trim" or from_s == 0.0:
        _copy_bad_lines(session, take, writer)
        writer.flush()
    finish_take(session, fresh)
    return fresh


def _like(session: Session, take: Take, name: str, kind: str, of: list[int]) -> Take:
    """A new empty take with everything else of another one."""
    fresh = Take(
        rig_id=take.rig_id,
        name=name[:120],
        source_name=take.source_name,
        source={"kind": kind, "of": of},
        sha256="",
        channels=take.channels,
        recorded_at=take.recorded_at,
        conditions=take.conditions,
        tags=take.tags,
        shape=take.shape,
        time_source=take.time_source,
        jitter_us=take.jitter_us,
        state="whole",
        samples=0,
        bad_lines=0,
    )
    fresh.air = take.air
    session.add(fresh)
    session.flush()
    return fresh


def _shifted_gap(gap: dict[str, Any], by_us: int) -> dict[str, Any]:
    return {**gap, "from_us": gap["from_us"] + by_us, "to_us": gap["to_us"] + by_us}


def _copy_bad_lines(session: Session, take: Take, writer: TakeWriter) -> None:
    for first in range(0, take.bad_lines, _BAD_LINES_AT_ONCE):
        writer.put_aside(list(read_bad_lines(session, take.id, first, _BAD_LINES_AT_ONCE)))


def _copy_marks(
    session: Session, take: Take, fresh: Take, shift_s: float, from_s: float, to_s: float
) -> None:
    """Marks that lie in the stretch go along, moved by `shift_s` and cut at its ends."""
    span = fresh.duration_s if fresh.samples else to_s + shift_s

    def moved(start_s: float, end_s: float) -> dict[str, float] | None:
        if end_s < from_s or start_s > to_s:
            return None
        return {
            "start_s": max(0.0, start_s + shift_s),
            "end_s": min(max(span, 0.0), end_s + shift_s),
        }

    for mark in session.scalars(
        select(Mark).where(Mark.take_id == take.id, Mark.deleted_at.is_(None))
    ):
        place = moved(mark.start_s, mark.end_s)
        if place is not None:
            kept = {name: getattr(mark, name) for name in _MARK_KEEPS}
            session.add(Mark(take_id=fresh.id, **kept, **place))
    session.flush()
