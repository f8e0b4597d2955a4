"""What is kept comes back whole, and what must not change cannot."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from sqlalchemy import Engine, func, select, text, update
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from tickstone.core.blocks import Block, Scaled
from tickstone.core.chains.echo_ranger import EchoRanger
from tickstone.demo.rigs import plant_demo
from tickstone.store.chunks import CHUNK_SAMPLES, pack, unpack
from tickstone.store.database import migrate
from tickstone.store.models import (
    Base,
    Calibration,
    Recording,
    RecordingInput,
    Sensor,
    Take,
    TakeChunk,
)
from tickstone.store.takes import TakeWriter, read_bad_lines
from tickstone.work.sources import source_of


@given(st.lists(st.integers(-(2**62), 2**62), max_size=200))
def test_any_column_of_integers_survives_packing(values: list[int]) -> None:
    column = np.array(values, dtype=np.int64)
    np.testing.assert_array_equal(unpack(pack(column)), column)


def test_echoes_pack_small() -> None:
    rng = np.random.default_rng(1)
    column = (1800 + rng.normal(0, 5, CHUNK_SAMPLES)).astype(np.int64) * 1000
    assert len(pack(column)) < column.nbytes / 4


def new_recording(session: Session) -> Recording:
    plant_demo(session)
    sensor = session.scalars(select(Sensor)).first()
    assert sensor is not None
    take = Take(
        rig_id=sensor.rig_id,
        name="long",
        source_name="x",
        sha256="",
        samples=0,
        bad_lines=0,
        channels=[{"name": "echo", "unit": "µs", "quantity": "echo time"}],
    )
    take.air = sensor.rig.air
    recording = Recording(
        sensor_id=sensor.id, take=take, inputs=[RecordingInput(role="echo", channel=0)]
    )
    session.add(recording)
    session.flush()
    return recording


def test_a_recording_written_in_odd_pieces_reads_back_whole(engine: Engine) -> None:
    rng = np.random.default_rng(3)
    count = 2 * CHUNK_SAMPLES + 4321
    times = np.cumsum(rng.integers(40_000, 60_000, count))
    echoes = rng.integers(0, 38_000, count) * 1000
    with Session(engine) as session:
        recording = new_recording(session)
        writer = TakeWriter(session, recording.take)
        cuts = np.sort(rng.integers(0, count, 9)).tolist()
        for first, last in zip([0, *cuts], [*cuts, count], strict=True):
            writer.append(Block(times[first:last], [Scaled(echoes[first:last], 3)], [None]))
        writer.put_aside((n, f"line {n}", "why") for n in range(5_000))
        writer.flush()
        session.commit()
        signal = source_of(recording, EchoRanger()).read(session)["echo"]
        np.testing.assert_array_equal(signal.value, echoes / 1000)
        np.testing.assert_allclose(signal.time_s, (times - times[0]) / 1e6)
        sizes = session.scalars(
            select(TakeChunk.samples).where(TakeChunk.take_id == recording.take_id)
        ).all()
        assert sorted(sizes, reverse=True) == [CHUNK_SAMPLES, CHUNK_SAMPLES, 4321]
        assert recording.bad_lines == 5_000
        page = list(read_bad_lines(session, recording.take_id, 1_990, 20))
        assert [line for line, _, _ in page] == list(range(1_990, 2_010))


@pytest.mark.parametrize("model", [Calibration, TakeChunk])
def test_what_is_immutable_cannot_be_updated_even_past_our_code(
    engine: Engine, model: type[Base]
) -> None:
    with Session(engine) as session:
        plant_demo(session)
        column = Calibration.kind if model is Calibration else TakeChunk.samples
        with pytest.raises(DBAPIError, match="never changed once written"):
            session.execute(update(model).values({column: "7" if model is Calibration else 7}))


def test_migrations_lead_to_the_models_and_may_run_twice(engine: Engine) -> None:
    from alembic.autogenerate import compare_metadata
    from alembic.migration import MigrationContext

    migrate(engine)
    with engine.connect() as connection:
        differences = compare_metadata(MigrationContext.configure(connection), Base.metadata)
        assert differences == []
        assert connection.execute(text("select version_num from alembic_version")).scalar()


def test_the_demo_is_planted_once_only(engine: Engine) -> None:
    with Session(engine) as session:
        assert plant_demo(session)
        assert not plant_demo(session)
        assert session.scalar(select(func.count()).select_from(Sensor)) == 10
