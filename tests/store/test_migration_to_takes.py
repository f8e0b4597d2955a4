"""Recordings kept before there were takes are there afterwards, to the last reading."""

from __future__ import annotations

import json
import uuid

import numpy as np
from alembic import command
from alembic.config import Config
from sqlalchemy import create_engine, make_url, text
from sqlalchemy.orm import Session

from tickstone.core.chains.echo_ranger import EchoRanger
from tickstone.store.chunks import pack, pack_text
from tickstone.store.database import MIGRATIONS, connect, migrate
from tickstone.store.models import Recording
from tickstone.store.takes import read_bad_lines
from tickstone.work.cache import Cache
from tickstone.work.catalogue import catalogue_of
from tickstone.work.sources import source_of
from tickstone.work.takes.channel import channel_of


def test_recordings_become_takes(cluster_url: str) -> None:
    name = f"old_{uuid.uuid4().hex[:10]}"
    admin = create_engine(cluster_url, isolation_level="AUTOCOMMIT")
    with admin.connect() as connection:
        connection.execute(text(f"CREATE DATABASE {name}"))
    engine = connect(make_url(cluster_url).set(database=name).render_as_string(hide_password=False))
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    rng = np.random.default_rng(4)
    times = np.cumsum(rng.integers(40_000, 60_000, 70_000))
    echoes = rng.integers(0, 38_000, 70_000) * 1_000 + 250
    air = "20, 0.5, 101325, 2, 0.05, 3000"
    columns = (
        "temperature_c, relative_humidity, pressure_pa, temperature_tolerance_c, "
        "humidity_tolerance, pressure_tolerance_pa"
    )
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "0002")
        connection.execute(
            text(
                f"INSERT INTO rig (name, description, board, wiring, program, wiring_revision, "
                f"created_at, {columns}) VALUES ('Old', '', '', '{{}}', '{{}}', 0, now(), {air})"
            )
        )
        connection.execute(
            text(
                "INSERT INTO sensor (rig_id, name, family, place, position, parameters, fitting) "
                "VALUES (1, 'Front', 'ultrasonic_ranger', '', 0, '{}', '{}')"
            )
        )
        connection.execute(
            text(
                f"INSERT INTO recording (sensor_id, name, source_name, sha256, samples, bad_lines, "
                f"first_time_us, last_time_us, recorded_at, {columns}) VALUES (1, 'ruler', 'r', "
                f"'abc', 70000, 1, {times[0]}, {times[-1]}, now(), {air})"
            )
        )
        for sequence, part in enumerate((slice(0, 65_536), slice(65_536, None))):
            connection.execute(
                text(
                    "INSERT INTO recording_chunk VALUES (1, :sequence, :samples, :first, :last, "
                    ":times, :echoes)"
                ),
                {
                    "sequence": sequence,
                    "samples": len(times[part]),
                    "first": int(times[part][0]),
                    "last": int(times[part][-1]),
                    "times": pack(times[part]),
                    "echoes": pack(echoes[part]),
                },
            )
        connection.execute(
            text("INSERT INTO bad_line_chunk VALUES (1, 0, 0, 1, :body)"),
            {"body": pack_text(json.dumps([[7, "oops", "why"]]))},
        )
    migrate(engine)
    with Session(engine) as session:
        recording = session.get_one(Recording, 1)
        assert (recording.name, recording.samples, recording.sha256) == ("ruler", 70_000, "abc")
        signal = source_of(recording, EchoRanger()).read(session)["echo"]
        np.testing.assert_array_equal(signal.value, echoes / 1_000)
        np.testing.assert_allclose(signal.time_s, (times - times[0]) / 1e6)
        assert list(read_bad_lines(session, recording.take_id, 0, 9)) == [(7, "oops", "why")]
        # Chunks from before there were overviews are drawn all the same.
        channel = channel_of(session, Cache(), recording.take, 0, catalogue_of(session))
        drawn = channel.draw("", (0.0, recording.duration_s), 500)[1]
        assert np.nanmax(drawn.high) == (echoes / 1_000).max()
    engine.dispose()
    with admin.connect() as connection:
        connection.execute(text(f"DROP DATABASE {name} WITH (FORCE)"))
    admin.dispose()
