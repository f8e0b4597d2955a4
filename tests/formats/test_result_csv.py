"""What is written can be read again, by us and by a general reader, and is no formula."""

from __future__ import annotations

import csv
import io

import numpy as np

from tickstone.core.air.conditions import AirConditions
from tickstone.core.chains.echo_ranger import RangerParameters, ranger_chain
from tickstone.core.quantity import ECHO_TIME
from tickstone.core.signal import Signal
from tickstone.formats.echo_log import EchoMapping, read_echo_log
from tickstone.formats.log_shape import preview_log
from tickstone.formats.result_csv import write_result_csv


def test_a_written_recording_comes_back_raw_reading_for_raw_reading() -> None:
    rng = np.random.default_rng(5)
    raw = rng.integers(0, 40_000, 45_000)
    echo = Signal.of(np.arange(len(raw)) * 0.05, raw, ECHO_TIME)
    distance = ranger_chain(RangerParameters(), AirConditions(20.0)).apply(echo)
    text = "".join(write_result_csv({"echo": echo}, {"distance": distance}, {}))
    shape = preview_log(text.encode()[:60_000]).shape
    assert (shape.columns[shape.time_column], shape.columns[shape.echo_column]) == (
        "time_s",
        "echo_us",
    )
    mapping = EchoMapping("comma", "point", 1, 4, 0, "s", 1, "us")
    batches = list(read_echo_log(io.BytesIO(text.encode()), mapping))
    np.testing.assert_array_equal(np.concatenate([b.echo_ns for b in batches]), raw * 1000)
    rows = list(csv.DictReader(io.StringIO(text)))
    assert len(rows) == len(raw)
    assert {row["status"] for row in rows} == {"ok", "no_echo", "timed_out", "too_near", "too_far"}
    assert all(not cell.startswith(("=", "+", "@")) for row in rows[:500] for cell in row.values())
