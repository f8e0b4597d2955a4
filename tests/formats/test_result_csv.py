"""What is written can be read again, by us and by a general reader, and is no formula."""

from __future__ import annotations

import csv
import io
from pathlib import Path

import numpy as np

from tickstone.core.air.conditions import AirConditions
from tickstone.core.chains.echo_ranger import RangerParameters, ranger_chain
from tickstone.core.quantity import ECHO_TIME
from tickstone.core.signal import Signal
from tickstone.formats.result_csv import write_result_csv
from tickstone.formats.takes import read_take_file
from tickstone.formats.takes.cells import values_of


def test_a_written_recording_comes_back_raw_reading_for_raw_reading(tmp_path: Path) -> None:
    rng = np.random.default_rng(5)
    raw = rng.integers(0, 40_000, 45_000)
    echo = Signal.of(np.arange(len(raw)) * 0.05, raw, ECHO_TIME)
    distance = ranger_chain(RangerParameters(), AirConditions(20.0)).apply(echo)
    text = "".join(write_result_csv({"echo": echo}, {"distance": distance}, {}))
    path = tmp_path / "written.csv"
    path.write_text(text)
    reading = read_take_file(path)
    assert (reading.time_column, reading.time_unit) == ("time", "s")
    channel = reading.header.channels[0]
    assert (channel.name, channel.unit, channel.quantity) == ("echo", "µs", "echo time")
    back = np.concatenate([values_of(block, 0) for block in reading.blocks])
    np.testing.assert_array_equal(back, raw)
    rows = list(csv.DictReader(io.StringIO(text)))
    assert len(rows) == len(raw)
    assert {row["status"] for row in rows} == {"ok", "no_echo", "timed_out", "too_near", "too_far"}
    assert all(not cell.startswith(("=", "+", "@")) for row in rows[:500] for cell in row.values())
