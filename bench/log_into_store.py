"""A CSV log of 2 M rows × 3 into PostgreSQL, committed, against pyarrow's own CSV reader."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from pyarrow import csv as pa_csv
from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from bench.clock import Ratio, compare
from bench.own_database import own_database
from tickstone.core.air.conditions import AirConditions
from tickstone.demo.bramble import plant_bramble
from tickstone.formats.takes import read_take_file
from tickstone.store.models import Sensor
from tickstone.work.import_desk import ImportDesk
from tickstone.work.takes.bringing import ColumnUse, NewTake, TakeImport, inspect_file

ROWS = 2_000_000


def run() -> Ratio:
    with own_database() as (engine, folder):
        return _measure(engine, folder)


def _measure(engine: Engine, folder: Path) -> Ratio:
    with Session(engine) as session:
        plant_bramble(session)
        sensor = session.scalars(select(Sensor)).first()
        assert sensor is not None
        new = NewTake(
            sensor.rig_id, "long", AirConditions(20.0), "long.csv", "", {0: ColumnUse(sensor.id)}
        )
    source = folder / "long.csv"
    _write_log(source)
    desk = ImportDesk(folder / "uploads")
    desk.open()

    def bring_in() -> None:
        path = desk.new_path()
        path.hardlink_to(source)
        log = TakeImport(
            path.stem, path, "long.csv", "", source.stat().st_size,
            rig_id=new.rig_id, found=inspect_file(read_take_file(path), 1_000),
        )  # fmt: skip
        log.claim()
        log.read(engine, new)
        log.wait()
        assert (log.state, log.samples) == ("done", ROWS), log.problem

    ratio = compare(
        "CSV log, 2 M rows × 3, into PostgreSQL, committed",
        bring_in,
        "pyarrow.csv.read_csv",
        lambda: pa_csv.read_csv(source),
        budget=6.0,
        rounds=5,
    )
    return ratio


def _write_log(path: Path) -> None:
    rng = np.random.default_rng(1)
    times = np.arange(ROWS) * 50
    echoes = (3_000 + 2_000 * np.sin(times / 9e5) + rng.normal(0, 6, ROWS)).astype(int)
    echoes[rng.random(ROWS) < 0.01] = 0
    battery = 4_900 + rng.integers(-5, 5, ROWS)
    with path.open("w") as file:
        file.write("t_ms,echo_us,battery_mv\n")
        for first in range(0, ROWS, 100_000):
            part = slice(first, first + 100_000)
            rows = zip(
                times[part].tolist(), echoes[part].tolist(), battery[part].tolist(), strict=True
            )
            file.writelines(f"{t},{e},{b}\n" for t, e, b in rows)
