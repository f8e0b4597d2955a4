"""Logs from elsewhere: imported without editing, whatever stands around the numbers."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from tickstone.formats.takes import read_take_file, text_log
from tickstone.formats.takes.header import ReadAs


def rows(line, count: int = 40) -> str:
    return "".join(line(n) + "\n" for n in range(count))


# name: (text, [(channel, unit)], µs of the first three rows, first value of the first channel)
LOGS = {
    "comments before the header": (
        "# bench test\n// third\ntime_ms,front_us\n" + rows(lambda n: f"{50 * n},{5831 + n}"),
        [("front", "µs")], [0, 50_000, 100_000], 5831,
    ),
    "comment instead of a header": (
        "# time[ms] dist[cm] temp[C]\n" + rows(lambda n: f"{20 * n} {100 + n} 20.5"),
        [("dist", "cm"), ("temp", "°C")], [0, 20_000, 40_000], 100,
    ),
    "units in brackets": (
        "Time (s),Accel X (m/s^2),Gyro Z [deg/s]\n" + rows(lambda n: f"{n / 100:.2f},{n / 8},-1.5"),
        [("Accel X", "m/s²"), ("Gyro Z", "°/s")], [0, 10_000, 20_000], 0,
    ),
    "units after a comma, tab separated": (
        "time, ms\tspeed, m/s\n" + rows(lambda n: f"{10 * n}\t{n / 4}"),
        [("speed", "m/s")], [0, 10_000, 20_000], 0,
    ),
    "units after an underscore": (
        "t_us;echo_us;batt_mV\n" + rows(lambda n: f"{20_000 * n};{5831};{4900 - n}"),
        [("echo", "µs"), ("batt", "mV")], [0, 20_000, 40_000], 5831,
    ),
    "a row of units": (
        "zeit;weg;temp\nms;cm;C\n" + rows(lambda n: f"{50 * n};{12 + n},5;20,25"),
        [("weg", "cm"), ("temp", "°C")], [0, 50_000, 100_000], 12.5,
    ),
    "a counter with the rate in the preamble": (
        "Data logger 3000\nSample rate: 200 Hz\nChannels: 2\n\nSample\tax\tay\n"
        + rows(lambda n: f"{n}\t{n % 7}\t{n % 5}"),
        [("ax", ""), ("ay", "")], [0, 5_000, 10_000], 0,
    ),
    "a counter with the interval in the preamble": (
        "# interval = 2.5 ms\nn,adc\n" + rows(lambda n: f"{n + 17},{512 + n}"),
        [("adc", "")], [0, 2_500, 5_000], 512,
    ),
    "no counter at all but a rate": (
        "# fs=1.5 kHz\nax,ay\n" + rows(lambda n: f"{n * 37 % 11},{n * 53 % 13}"),
        [("ax", ""), ("ay", "")], [0, 667, 1_333], 0,
    ),
    "integer microseconds": (
        "micros,hall\n" + rows(lambda n: f"{4_294_900_000 + 2_000 * n},{n % 2}"),
        [("hall", "")], [0, 2_000, 4_000], 0,
    ),
    "clock text": (
        "time,left_cm\n" + rows(lambda n: f"10:00:{n // 10:02d}.{n % 10}00,{34 + n}"),
        [("left", "cm")], [0, 100_000, 200_000], 34,
    ),
    "date and clock text": (
        "timestamp,left_cm\n" + rows(lambda n: f"2026-11-20 23:59:{20 + n:02d}.000,{34 + n}"),
        [("left", "cm")], [0, 1_000_000, 2_000_000], 34,
    ),
    "labels on every line": (
        "boot ok\n" + rows(lambda n: f"t:{20 * n} front: {300 + n}mm tilt={n / 10:.1f}deg"),
        [("front", "mm"), ("tilt", "°")], [0, 20_000, 40_000], 300,
    ),
    "JSON lines": (
        rows(lambda n: f'{{"t_ms": {10 * n}, "imu": {{"ax": {n}, "az": 1.0}}}}'),
        [("imu.ax", ""), ("imu.az", "")], [0, 10_000, 20_000], 0,
    ),
    "Windows ends and a byte order mark": (
        "\ufeffms,front\r\n" + rows(lambda n: f"{40 * n},{5831 + n}\r"),
        [("front", "")], [0, 40_000, 80_000], 5831,
    ),
    "tabs with a preamble of many lines": (
        "Project:\tBramble\nOperator:\tnobody\nNotes:\tbench, lamp on\n\nTime (s)\tForce [V]\n"
        + rows(lambda n: f"{n * 0.005:.3f}\t{n / 64}"),
        [("Force", "V")], [0, 5_000, 10_000], 0,
    ),
}  # fmt: skip


@pytest.mark.parametrize("name", LOGS)
def test_a_log_from_elsewhere(tmp_path: Path, name: str) -> None:
    text, channels, times, first = LOGS[name]
    path = tmp_path / "log.txt"
    path.write_text(text, newline="")
    reading = read_take_file(path)
    blocks = list(reading.blocks)
    assert [(c.name, c.unit) for c in reading.header.channels] == channels
    assert sum(len(block) for block in blocks) == 40
    time_us = np.concatenate([block.time_us for block in blocks])
    assert (time_us - time_us[0]).tolist()[:3] == times
    assert blocks[0].values[0][0] == first


def test_a_torn_log_keeps_its_good_lines_and_tells_of_the_others(tmp_path: Path) -> None:
    good = [f"{50 * n},{5831 + n}" for n in range(300)]
    lines = ["t_ms,front_us", *good]
    lines[10] = "450,58"[:3]
    lines[20] = "950,oops"
    lines[30] = "garbage \x80\x81 here 1"
    path = tmp_path / "torn.csv"
    path.write_text("\n".join(lines) + "\n")
    reading = read_take_file(path)
    count = sum(len(block) for block in reading.blocks)
    assert count == 298
    assert [(bad.line, bool(bad.reason)) for bad in reading.bad] == [
        (11, True),
        (21, True),
        (31, True),
    ]
    assert reading.bad_rows == 3


def test_large_and_small_blocks_read_the_same(tmp_path: Path, monkeypatch) -> None:
    """What Arrow reads at once and what is read line by line agree."""

    rng = np.random.default_rng(5)
    text = "t_us,a,b\n" + "".join(
        f"{(4_294_000_000 + 900 * n) % 2**32},{rng.integers(-500, 500)},{rng.normal():.5f}\n"
        for n in range(3_000)
    )
    path = tmp_path / "x.csv"
    path.write_text(text)

    def all_of(reading):
        blocks = list(reading.blocks)
        return [np.concatenate([b.time_us for b in blocks])] + [
            np.concatenate([b.values[n] for b in blocks]) for n in range(2)
        ]

    whole = all_of(read_take_file(path))
    assert len(whole[0]) == 3_000
    assert (np.diff(whole[0]) == 900).all()
    monkeypatch.setattr(text_log, "BLOCK_BYTES", 700)
    small = all_of(read_take_file(path))
    monkeypatch.setattr(text_log, "_read_at_once", lambda data, state: None)
    slow = all_of(read_take_file(path))
    for one, two, three in zip(whole, small, slow, strict=True):
        np.testing.assert_array_equal(one, two)
        np.testing.assert_array_equal(one, three)


def test_a_log_without_time_asks_for_the_rate(tmp_path: Path) -> None:
    path = tmp_path / "x.csv"
    path.write_text("ax,ay\n" + rows(lambda n: f"{n * 37 % 11},{n * 53 % 13}"))
    reading = read_take_file(path)
    assert reading.asks_rate
    assert [channel.name for channel in reading.header.channels] == ["ax", "ay"]
    (counted,) = list(reading.blocks)
    assert counted.time_us.tolist()[:3] == [0, 1_000_000, 2_000_000]
    (block,) = list(read_take_file(path, ReadAs(rate_hz=50.0)).blocks)
    assert block.time_us.tolist()[:3] == [0, 20_000, 40_000]


@pytest.mark.parametrize("odd", ["=1+1", "+-", "", "@!#", "→", ")", "µ+²", "'"])
@pytest.mark.parametrize("rows", [3, 60])
def test_a_name_that_is_no_word_leaves_the_unit_of_time_alone(
    tmp_path: Path, odd: str, rows: int
) -> None:
    """Names of signs once made the header no header, and its µs were taken for ms."""
    path = tmp_path / "signs.csv"
    body = "".join(f"{1_000 * n},{n % 7},{n % 3}\n" for n in range(rows))
    path.write_text(f"t_us,{odd},=1+1\n{body}", encoding="utf-8")
    times = np.concatenate([block.time_us for block in read_take_file(path).blocks])
    assert times.tolist() == [1_000 * n for n in range(rows)]


@pytest.mark.parametrize("header", ["", "t_s,a\n", "n,a\n"])
@pytest.mark.parametrize("place", [0, 30, 60])
def test_numbers_near_the_largest_there_is_are_judged_like_any_other(
    tmp_path: Path, monkeypatch, header: str, place: int
) -> None:
    """Scaled, or one taken from another, they are more than a float holds; a warning fails here."""
    monkeypatch.setattr(text_log, "BLOCK_BYTES", 100)  # most blocks hold no header
    path = tmp_path / "huge.csv"
    lines = [f"{50 * n},{n % 7}" for n in range(60)]
    path.write_text(header + "\n".join([*lines[:place], "1.7e308,3", "-1.7e308,4", *lines[place:]]))
    reading = read_take_file(path, ReadAs(rate_hz=50.0))
    kept = sum(len(block.time_us) for block in reading.blocks)
    assert kept >= 60
    assert kept + reading.bad_rows == 62
