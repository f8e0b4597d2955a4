"""Wrapped counters, units in names, and speed by readable text."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tickstone.core.lines.clock import BoardClock
from tickstone.core.lines.guess import guess_quantity
from tickstone.core.lines.names import split_unit
from tickstone.core.lines.speed import readable_share
from tickstone.core.lines.splitter import LineSplitter
from tickstone.core.lines.tokens import clock_us


@given(
    st.integers(0, 2**33),
    st.lists(st.integers(900, 1_100), min_size=5, max_size=200),
    st.sampled_from([16, 32]),
    st.sampled_from(["µs", "ms"]),
)
def test_a_counter_that_wraps_runs_on(start: int, steps: list[int], bits: int, unit: str) -> None:
    """As long as it was seen to run three steps before the first wrap."""
    clock = BoardClock(unit)
    scale = {"µs": 1, "ms": 1000}[unit]
    time = start - start % 2**bits
    total, wraps, before = 0, 0, time
    clock.read(float(time % 2**bits), 0)
    for step in steps:
        time, before = time + step, time
        total += step
        wraps += time // 2**bits - before // 2**bits
        assert clock.read(float(time % 2**bits), 0)[0] == total * scale
    assert clock.wraps == wraps
    assert clock.restarts == 0


@given(st.lists(st.floats(0, 1e6), min_size=2, max_size=50))
def test_time_never_runs_back(raws: list[float]) -> None:
    clock = BoardClock("ms")
    times = [clock.read(raw, 1_000 * n)[0] for n, raw in enumerate(raws)]
    assert times == sorted(times)


def test_a_restart_goes_on_by_the_hosts_clock() -> None:
    clock = BoardClock("ms")
    for n in range(5):
        clock.read(1_000_000.0 + 50 * n, 50_000 * n)
    assert clock.read(3.0, 200_000 + 2_000_000) == (2_200_000, "restart")
    assert clock.read(53.0, 2_250_000) == (2_250_000, "")


@pytest.mark.parametrize(
    ("header", "name", "unit"),
    [
        ("Acceleration (m/s^2)", "Acceleration", "m/s²"),
        ("gyro_x_dps", "gyro_x", "°/s"),
        ("gyro x [deg/s]", "gyro x", "°/s"),
        ("Time (seconds)", "Time", "s"),
        ("time,ms", "time", "ms"),
        ("temp/C", "temp/C", ""),
        ("temp / C", "temp", "°C"),
        ("supply in mV", "supply", "mV"),
        ("[V]", "[V]", "V"),
        ("count", "count", ""),
        ("a_x", "a_x", ""),
        ("temp_C", "temp", "°C"),
        ("phase_c", "phase_c", ""),
        ("humidity %", "humidity", "%"),
        ("", "", ""),
        ('"dist [cm]"', "dist", "cm"),
        ("pressure (bananas)", "pressure", "bananas"),
        ("value[0]", "value[0]", ""),
    ],
)
def test_units_in_headers(header: str, name: str, unit: str) -> None:
    assert split_unit(header) == (name, unit)


def test_midnight() -> None:
    clock = BoardClock("clock")
    assert clock.read(clock_us("23:59:59.5"), 0)[0] == 0
    assert clock.read(clock_us("00:00:00.5"), 0) == (1_000_000, "wrap")


@given(st.dates(), st.times())
def test_clock_text_is_the_calendars(day, time) -> None:
    from datetime import UTC, datetime, timedelta

    text = f"{day.isoformat()} {time.strftime('%H:%M:%S.%f')}"
    since = datetime.combine(day, time, UTC) - datetime(1970, 1, 1, tzinfo=UTC)
    assert clock_us(text) == pytest.approx(since / timedelta(microseconds=1), abs=100)


def test_readable_text_beats_the_same_text_at_another_speed() -> None:
    text = b"".join(b"%d,%d\r\n" % (50 * n, 5831 + n) for n in range(20))
    assert readable_share(text) > 0.95
    assert readable_share(bytes(b ^ 0xF0 for b in text)) < 0.4
    assert readable_share(b"") == 0.0


def test_line_times_follow_the_bytes_on_the_wire() -> None:
    splitter = LineSplitter(byte_us=100.0)
    times = [line.at_us for line in splitter.feed(b"12\n345\n6\n", 10_000)]
    assert times == [10_000 - 600, 10_000 - 200, 10_000]


def test_an_endless_line_is_cut_and_all_of_it_kept() -> None:
    splitter = LineSplitter()
    lines = list(splitter.feed(b"9" * 10_000 + b"\n1\n", 0))
    assert "".join(line.text for line in lines) == "9" * 10_000 + "1"
    assert [line.is_cut for line in lines] == [True, True, False, False]


def test_guesses() -> None:
    assert guess_quantity("tof_word", "", [0.0, 4.0, 7.0]) == "status word"
    assert guess_quantity("status", "", [5831.0, 5840.0]) != "status word"
    assert guess_quantity("hall", "", [0.0, 1.0, 0.0]) == "pulse"
    assert guess_quantity("left", "", [5831.0, 0.0, 900.0]) == "echo time"
    assert guess_quantity("left", "cm", [58.0]) == "distance"
    assert guess_quantity("side", "", [2041.0, 2043.0]) == "echo time"
    assert guess_quantity("A0", "", [512.0]) == "converter counts"
    # Nobody's battery has 546 V: what the converter says is not taken for volts.
    assert guess_quantity("batt", "", [546.0, 547.0]) == "converter counts"
    assert guess_quantity("vbat", "counts", [12.0]) == "converter counts"
    assert guess_quantity("batt", "", [7.94, 8.01]) == guess_quantity("v", "", [12.0]) == "voltage"
    assert guess_quantity("batt", "mV", [7940.0]) == "voltage"
