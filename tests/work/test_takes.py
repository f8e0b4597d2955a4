"""Takes: windows from samples and from the overview, statistics, trimming, splitting, joining."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from scipy import stats
from sqlalchemy import Engine, delete, select
from sqlalchemy.orm import Session

from tickstone.core.blocks import Block
from tickstone.core.looking import describe
from tickstone.core.status import Status
from tickstone.core.thin import Thinned
from tickstone.store.chunks import CHUNK_SAMPLES
from tickstone.store.models import (
    Mark,
    Recording,
    ResultOverview,
    Rig,
    Sensor,
    Take,
    TakeChunk,
)
from tickstone.store.takes import TakeWriter, compact, read_blocks
from tickstone.work.cache import Cache
from tickstone.work.catalogue import catalogue_of
from tickstone.work.results import digest_of
from tickstone.work.takes.channel import Channel, channel_of
from tickstone.work.takes.editing import bring_back, join, put_away, split, trim
from tickstone.work.takes.finishing import finish_take, give_recordings
from tickstone.work.takes.selection import look_into


@pytest.fixture
def session(planted_engine: Engine):
    with Session(planted_engine) as session:
        yield session


def new_take(session: Session, count: int, seed: int = 0, name: str = "long") -> Take:
    """A take of two channels, echoes of the front ranger and a wave, written in odd pieces."""
    rng = np.random.default_rng(seed)
    rig = session.scalars(select(Rig).order_by(Rig.id)).first()
    assert rig is not None
    take = Take(
        rig_id=rig.id, name=name, source_name="test", sha256="", samples=0, bad_lines=0,
        channels=[
            {"name": "front", "unit": "µs", "quantity": "echo time",
             "sensor_id": rig.sensors[0].id},
            {"name": "wave", "unit": "g", "quantity": "acceleration", "sensor_id": None},
        ],
    )  # fmt: skip
    take.air = rig.air
    session.add(take)
    session.flush()
    times = 5_000_000 + np.cumsum(rng.integers(900, 1_100, count))
    echoes = (3_000 + 500 * np.sin(np.arange(count) / 5_000) + rng.normal(0, 4, count)).round()
    echoes[rng.random(count) < 0.001] = 0
    wave = np.round(np.sin(2 * np.pi * 5 * times / 1e6) + rng.normal(0, 0.01, count), 4)
    status = np.zeros(count, np.uint8)
    status[::997] = Status.OVER_RANGE
    wave[::997] = np.nan
    writer = TakeWriter(session, take)
    at = 0
    while at < count:
        to = min(count, at + int(rng.integers(500, 30_000)))
        part = slice(at, to)
        writer.append(Block(times[part], [echoes[part], wave[part]], [None, status[part]]))
        writer.flush()
        at = to
    session.commit()
    return take


def whole(session: Session, take: Take) -> Block:
    blocks = list(read_blocks(session, take))
    return Block(
        np.concatenate([b.time_us for b in blocks]),
        [np.concatenate([np.asarray(b.values[n]) for b in blocks]) for n in range(2)],
        [None, None],
    )


def test_compacting_changes_nothing_but_the_chunks(session: Session) -> None:
    take = new_take(session, 150_000)
    before = whole(session, take)
    compact(session, take)
    session.commit()
    sizes = session.scalars(select(TakeChunk.samples).where(TakeChunk.take_id == take.id)).all()
    assert len(sizes) <= 4
    assert max(sizes) <= CHUNK_SAMPLES
    after = whole(session, take)
    np.testing.assert_array_equal(after.time_us, before.time_us)
    for n in range(2):
        np.testing.assert_array_equal(after.values[n], before.values[n])


@pytest.mark.parametrize("stage", ["", "half"])
def test_a_window_of_any_size_shows_every_extreme(session: Session, stage: str) -> None:
    take = new_take(session, 700_000)
    compact(session, take)
    session.commit()
    shown = channel(session, take, 0)
    data = whole(session, take)
    times = (data.time_us - take.first_time_us) / 1e6
    values = data.values[0] / 2 if stage else data.values[0].astype(float)
    if stage:
        values = np.where(data.values[0] <= 0, np.nan, values)
    rng = np.random.default_rng(1)
    for width in (1e-2, 1.0, 30.0, 300.0, take.duration_s):
        start = rng.uniform(0, take.duration_s - width) if width < take.duration_s else 0.0
        drawn = shown.draw(stage, (start, start + width), 800)[1]
        assert len(drawn.time_s) <= 801
        inside = (times >= start) & (times <= start + width)
        if not inside.any():
            continue
        # The overview's buckets may reach a bucket beyond the window, never short of it.
        assert np.nanmin(drawn.low) <= np.nanmin(values[inside])
        assert np.nanmax(drawn.high) >= np.nanmax(values[inside])
        if drawn.is_thinned:
            assert (np.diff(drawn.time_s) > 0).all()
        else:
            np.testing.assert_array_equal(drawn.low, values[inside])


def slow_take(session: Session, count: int = 60, silent: int = 0) -> Take:
    """A reading every eight seconds, as of a water level; many of them silent if asked for."""
    take = new_take(session, 1)
    rng = np.random.default_rng(11)
    echoes = np.rint(7_000 + rng.normal(0, 300, count))
    echoes[5 : 5 + silent] = 0
    times = take.last_time_us + 8_000_000 * np.arange(1, count + 1)
    writer = TakeWriter(session, take, next_sequence=10)
    writer.append(Block(times, [echoes, np.zeros(count)], [None, None]))
    writer.flush()
    session.commit()
    return take


@pytest.mark.parametrize("silent", [0, 40])
def test_a_window_shows_what_the_whole_shows(session: Session, silent: int) -> None:
    """The median once began anew at a window's edge: 1.195 m where the whole said 1.160."""
    take = slow_take(session, silent=silent)
    shown = channel(session, take, 0)
    whole_take = drawn_whole(session, take)
    for first in range(0, len(whole_take.time_s) - 2, 3):
        window = (float(whole_take.time_s[first]), float(whole_take.time_s[first + 2]))
        drawn = channel(session, take, 0).draw(shown.stages[-1], window, 900)[1]
        np.testing.assert_array_equal(drawn.time_s, whole_take.time_s[first : first + 3])
        np.testing.assert_array_equal(drawn.low, whole_take.low[first : first + 3])
        found = look_into(shown, shown.stages[-1], *window)
        good = whole_take.low[first : first + 3]
        if not np.isnan(good).all():
            assert found.mean == pytest.approx(np.nanmean(good), abs=1e-12)


@pytest.mark.parametrize("count", [400, 30_000, 300_000])
def test_no_line_is_drawn_where_nothing_came(session: Session, count: int) -> None:
    """However the window is drawn: from samples, thinned, or from overviews."""
    take = new_take(session, count)
    half = count // 2
    away_us = max(5_000_000, (take.last_time_us - take.first_time_us) // 3)
    blocks = list(read_blocks(session, take))
    joined = whole(session, take)
    later = np.where(np.arange(count) >= half, joined.time_us + away_us, joined.time_us)
    session.execute(delete(TakeChunk).where(TakeChunk.take_id == take.id))
    take.samples = 0
    writer = TakeWriter(session, take, next_sequence=len(blocks) + 1)
    writer.append(Block(later, [np.asarray(v) for v in joined.values], [None, None]))
    writer.flush()
    session.commit()
    drawn = drawn_whole(session, take)
    gap = (later[half - 1] - take.first_time_us) / 1e6, (later[half] - take.first_time_us) / 1e6
    ((start, end),) = drawn.pauses
    assert start <= gap[0] + 0.6
    assert end >= gap[1] - 0.6
    inside = (drawn.time_s > gap[0] + 0.6) & (drawn.time_s < gap[1] - 0.6)
    assert inside.any()
    assert np.isnan(drawn.low[inside]).all()
    assert np.isnan(drawn.high[inside]).all()


def channel(session: Session, take: Take, number: int) -> Channel:
    return channel_of(session, Cache(), take, number, catalogue_of(session))


def chain_of(session: Session, take: Take):
    results = channel(session, take, 0).results
    return None if results is None else results.chain


def drawn_whole(session: Session, take: Take) -> Thinned:
    shown = channel(session, take, 0)
    thin = shown.draw(shown.stages[-1], (0.0, take.duration_s), 900)[1]
    session.commit()
    return thin


def test_a_long_take_is_opened_with_what_was_worked_out_ahead(session: Session) -> None:
    take = new_take(session, 300_000)
    compact(session, take)
    finish_take(session, take)
    session.commit()
    (kept,) = session.scalars(select(ResultOverview).where(ResultOverview.take_id == take.id))
    from_store = drawn_whole(session, take)
    session.delete(kept)
    session.commit()
    anew = drawn_whole(session, take)
    np.testing.assert_array_equal(from_store.low, anew.low)
    np.testing.assert_array_equal(from_store.high, anew.high)
    np.testing.assert_array_equal(from_store.time_s, anew.time_s)
    np.testing.assert_array_equal(from_store.flag_s, anew.flag_s)
    short = new_take(session, 3_000)
    finish_take(session, short)
    assert not session.scalars(
        select(ResultOverview).where(ResultOverview.take_id == short.id)
    ).all()


def test_what_was_worked_out_with_other_settings_is_not_used(session: Session) -> None:
    take = new_take(session, 300_000)
    before = drawn_whole(session, take)
    sensor = session.get_one(Sensor, take.channels[0]["sensor_id"])
    mount_m = sensor.parameters["mount_m"] + 0.05
    sensor.parameters = {**sensor.parameters, "mount_m": mount_m}
    session.commit()
    after = drawn_whole(session, take)
    np.testing.assert_allclose(before.low - after.low, 0.05, atol=1e-9)
    kept = session.scalars(select(ResultOverview).where(ResultOverview.take_id == take.id)).all()
    assert len(kept) == 1
    assert np.array_equal(drawn_whole(session, take).low, after.low, equal_nan=True)


def test_chains_are_told_apart_by_their_settings_alone(session: Session) -> None:
    take = new_take(session, 100)
    found = [chain_of(session, take) for _ in range(2)]
    assert found[0] is not None
    assert found[1] is not None
    assert " at 0x" not in repr(found[0])
    assert digest_of(found[0]) == digest_of(found[1])
    take.air = replace(take.air, temperature_c=take.air.temperature_c + 1)
    warmer = chain_of(session, take)
    assert warmer is not None
    assert digest_of(warmer) != digest_of(found[0])


def test_flagged_samples_are_drawn_as_such(session: Session) -> None:
    take = new_take(session, 5_000)
    shown = channel(session, take, 1)
    drawn = shown.draw("", (0.0, 1.1), 5_000)[1]
    assert set(drawn.flag.tolist()) == {int(Status.OVER_RANGE)}
    assert np.isnan(drawn.low[::997]).all()


def test_statistics_are_those_of_the_textbook(session: Session) -> None:
    take = new_take(session, 20_000)
    shown = channel(session, take, 1)
    found = look_into(shown, "", 2.0, 12.0)
    data = whole(session, take)
    times = (data.time_us - take.first_time_us) / 1e6
    inside = (times >= 2.0) & (times <= 12.0)
    good = data.values[1][inside & ~np.isnan(data.values[1])]
    told = stats.describe(good)
    assert found.n == told.nobs
    assert found.mean == pytest.approx(told.mean)
    assert found.sd == pytest.approx(np.sqrt(told.variance))
    assert (found.lowest, found.highest) == pytest.approx(told.minmax)
    assert found.flagged == int((inside & np.isnan(data.values[1])).sum())
    assert found.rate_hz == pytest.approx(1_000, rel=0.01)
    # A wave of 5 Hz for 10 s.
    assert found.pulses in (49, 50, 51)
    assert found.pulse_hz == pytest.approx(5.0, rel=0.002)
    assert found.spectrum_hz[np.argmax(found.spectrum)] == pytest.approx(5.0, abs=0.3)
    assert found.histogram.sum() == found.n
    # Parseval: the spectrum holds the whole variance.
    power = float(np.sum(found.spectrum**2) * (found.spectrum_hz[1] - found.spectrum_hz[0]))
    assert power == pytest.approx(told.variance, rel=0.05)


def test_a_running_count_gives_its_own_frequency() -> None:
    times = np.arange(0, 10, 0.04)
    count = np.floor(times * 8.0)
    found = describe(times, count, np.ones(len(times), bool), "", is_count=True)
    assert found.pulses == 79
    assert found.pulse_hz == pytest.approx(8.0, rel=0.01)


def marked(session: Session, count: int = 10_000) -> Take:
    take = new_take(session, count)
    give_recordings(session, take)
    recording = session.scalars(select(Recording).where(Recording.take_id == take.id)).one()
    session.add(
        Mark(
            take_id=take.id,
            sensor_id=recording.sensor_id,
            channel=0,
            calibration="offset-scale",
            name="nail",
            start_s=3.0,
            end_s=4.0,
            value=0.5,
            u=0.001,
            unit="m",
        )
    )
    session.add(Mark(take_id=take.id, channel=1, name="shake", start_s=6.0, end_s=9.0))
    take.gaps = [
        {
            "from_us": take.first_time_us + 3_500_000,
            "to_us": take.first_time_us + 3_600_000,
            "why": "x",
        }
    ]
    session.commit()
    return take


def marks_of_rangers(session: Session, take: Take) -> list[tuple[float, float, float | None]]:
    rows = session.scalars(
        select(Mark).where(Mark.take_id == take.id, Mark.calibration == "offset-scale")
    )
    return [(round(m.start_s, 2), round(m.end_s, 2), m.value) for m in rows]


def test_trimming_keeps_the_stretch_its_marks_and_the_old_one(session: Session) -> None:
    take = marked(session)
    before = whole(session, take)
    fresh = trim(session, take, 2.0, 7.0)
    session.commit()
    after = whole(session, fresh)
    inside = (before.time_us >= take.first_time_us + 2_000_000) & (
        before.time_us <= take.first_time_us + 7_000_000
    )
    np.testing.assert_array_equal(after.time_us, before.time_us[inside])
    np.testing.assert_array_equal(after.values[1], before.values[1][inside])
    assert marks_of_rangers(session, fresh) == [(1.0, 2.0, 0.5)]
    assert len(fresh.gaps) == 1
    assert take.deleted_at is not None
    np.testing.assert_array_equal(whole(session, take).time_us, before.time_us)
    bring_back(take)
    assert [r.deleted_at for r in take.recordings] == [None]


def test_split_and_joined_again_is_the_same(session: Session) -> None:
    take = marked(session)
    before = whole(session, take)
    first, second = split(session, take, 5.0)
    session.commit()
    assert first.samples + second.samples == take.samples
    assert marks_of_rangers(session, first) == [(3.0, 4.0, 0.5)]
    again = join(session, [first, second], "again")
    session.commit()
    after = whole(session, again)
    for n in range(2):
        np.testing.assert_array_equal(after.values[n], before.values[n])
    assert (
        np.abs((after.time_us - after.time_us[0]) - (before.time_us - before.time_us[0])).max()
        < 500
    )
    assert marks_of_rangers(session, again) == [(3.0, 4.0, 0.5)]
    assert [gap["why"] for gap in again.gaps].count("joined here") == 1


def test_what_cannot_be_edited_says_why(session: Session) -> None:
    take = marked(session)
    with pytest.raises(ValueError, match="no sample"):
        trim(session, take, 1e6, 2e6)
    with pytest.raises(ValueError, match="inside"):
        split(session, take, 0.0)
    other = new_take(session, 100, name="other")
    other.channels = [{**other.channels[0], "name": "rear"}, other.channels[1]]
    with pytest.raises(ValueError, match="other channels"):
        join(session, [take, other], "x")
    take.state = "open"
    with pytest.raises(ValueError, match="still being recorded"):
        trim(session, take, 1.0, 2.0)


def test_putting_away_and_back_keeps_what_was_away_before(session: Session) -> None:
    take = marked(session)
    put_away(take)
    session.commit()
    bring_back(take)
    session.commit()
    assert take.deleted_at is None
    assert all(recording.deleted_at is None for recording in take.recordings)
