"""Reading logs: every good line kept exactly, every bad line kept aside with its number."""

from __future__ import annotations

import io
import tracemalloc

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tickstone.formats import echo_log
from tickstone.formats.echo_log import BadLine, EchoMapping, read_echo_log

COMMA = EchoMapping("comma", "point", 1, 2, 0, "ms", 1, "us")


def read(data: bytes, mapping: EchoMapping = COMMA) -> tuple[list[int], list[int], list[BadLine]]:
    times: list[int] = []
    echoes: list[int] = []
    bad: list[BadLine] = []
    for batch in read_echo_log(io.BytesIO(data), mapping):
        times += batch.time_us.tolist()
        echoes += batch.echo_ns.tolist()
        bad += batch.bad
    return times, echoes, bad


good_lines = st.tuples(st.just("good"), st.integers(0, 40_000))
bad_lines = st.tuples(
    st.just("bad"),
    st.sampled_from(
        ["5,", ",", "nan,nan", "1e999,5", "1.7e308,5", "1,1.7e308", "7,-3", "x,y", "1,2,3", "5;6",
         "9,0x1f", "3,12 3", "é,ü", "1,inf", "1,٣", "1,1_000", '"1","', "4,99999999999999999999"]
    ),
)  # fmt: skip


@given(st.lists(st.one_of(good_lines, bad_lines), max_size=60), st.sampled_from(["\n", "\r\n"]))
def test_nothing_is_lost_and_nothing_invented(lines: list[tuple[str, int | str]], end: str) -> None:
    text, times, echoes, bad_numbers = ["t,echo"], [], [], []
    for number, (kind, content) in enumerate(lines, start=2):
        if kind == "good":
            time = 1000 + 50 * number
            text.append(f"{time},{content}")
            times.append(time * 1000)
            echoes.append(int(content) * 1000)
        else:
            text.append(str(content))
            bad_numbers.append(number)
    got = read(end.join(text).encode())
    assert got[0] == times
    assert got[1] == echoes
    assert [bad.line for bad in got[2]] == bad_numbers
    assert all(bad.reason for bad in got[2])


def test_the_quick_way_and_the_careful_way_agree(monkeypatch: pytest.MonkeyPatch) -> None:
    rng = np.random.default_rng(2)
    times = np.cumsum(rng.integers(40, 60, 5_000))
    echoes = rng.integers(0, 30_000, 5_000)
    text = "t,echo\n" + "".join(f"{t},{e}\n" for t, e in zip(times, echoes, strict=True))
    quick = read(text.encode())
    monkeypatch.setattr(echo_log, "_read_clean", lambda *_: None)
    assert read(text.encode()) == quick
    assert quick[1] == (echoes * 1000).tolist()


@pytest.mark.parametrize("block", [7, 64, 1000])
def test_where_blocks_are_cut_does_not_matter(block: int, monkeypatch: pytest.MonkeyPatch) -> None:
    text = b"t,echo\r\n" + b"".join(b"%d,%d\r\n" % (50 * n, 1800 + n) for n in range(200))
    whole = read(text)
    monkeypatch.setattr(echo_log, "BLOCK_BYTES", block)
    assert read(text) == whole
    assert len(whole[1]) == 200


def test_decimal_commas_seconds_and_fractions_are_exact() -> None:
    mapping = EchoMapping("semicolon", "comma", 1, 2, 0, "s", 1, "ms")
    times, echoes, bad = read(b"t;e\n0,050;5,831\n0,100;5,8315\n", mapping)
    assert (times, echoes, bad) == ([50_000, 100_000], [5_831_000, 5_831_500], [])


def test_a_log_without_times_gets_even_ones() -> None:
    mapping = EchoMapping("comma", "point", 0, 1, None, "ms", 0, "us", 0.06)
    times, echoes, bad = read(b"1800\nbad\n1801\n1802\n", mapping)
    assert times == [0, 60_000, 120_000]
    assert [b.line for b in bad] == [2]
    assert len(echoes) == 3


def test_a_32_bit_counter_that_wraps_is_undone() -> None:
    mapping = EchoMapping("comma", "point", 0, 2, 0, "us", 1, "us")
    first = 2**32 - 60_000
    lines = [(first + 50_000 * n) % 2**32 for n in range(5)]
    times, _, bad = read("".join(f"{t},1800\n" for t in lines).encode(), mapping)
    assert np.diff(times).tolist() == [50_000] * 4
    assert bad == []


def test_a_restarted_board_is_told_and_not_guessed_at() -> None:
    times, _, bad = read(b"t,echo\n5000,1\n5050,2\n10,3\n5100,4\n")
    assert times == [5_000_000, 5_050_000, 5_100_000]
    assert "restart" in bad[0].reason


def test_lines_above_the_header_are_kept_aside() -> None:
    mapping = EchoMapping("comma", "point", 3, 2, 0, "ms", 1, "us")
    _, echoes, bad = read(b"hello\n\nt,echo\n0,7\n", mapping)
    assert echoes == [7000]
    assert [(b.line, b.reason) for b in bad] == [(1, "it stands above the header")]


def test_an_endless_line_is_one_bad_line(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(echo_log, "BLOCK_BYTES", 100_000)
    data = b"t,echo\n0,5\n" + b"7" * 900_000 + b"\n50,6\n"
    _, echoes, bad = read(data)
    assert echoes == [5000, 6000]
    assert [b.line for b in bad] == [3]
    assert len(bad[0].text) <= echo_log.KEPT_TEXT_CHARACTERS


def test_memory_does_not_follow_the_size_of_the_file(tmp_path) -> None:
    path = tmp_path / "long.csv"
    with path.open("wb") as file:
        file.write(b"t,echo\n")
        for part in range(60):
            file.write(
                b"".join(b"%d,%d\n" % (50 * (part * 40_000 + n), n % 30_000) for n in range(40_000))
            )
    assert path.stat().st_size > 30 * 1024 * 1024
    tracemalloc.start()
    with path.open("rb") as file:
        total = sum(len(batch.echo_ns) for batch in read_echo_log(file, COMMA))
    _, peak = tracemalloc.get_traced_memory()
    tracemalloc.stop()
    assert total == 60 * 40_000
    assert peak < 32 * 1024 * 1024


@given(st.binary(max_size=600))
def test_any_bytes_are_read_without_breaking(data: bytes) -> None:
    _, echoes, bad = read(b"t,echo\n" + data)
    assert len(echoes) + len(bad) <= data.count(b"\n") + data.count(b"\r") + 1


def test_reading_can_be_stopped(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(echo_log, "BLOCK_BYTES", 1000)
    text = b"t,echo\n" + b"".join(b"%d,%d\n" % (50 * n, n) for n in range(2000))
    batches = list(read_echo_log(io.BytesIO(text), COMMA, lambda: True))
    assert len(batches) == 1


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"decimal": "comma"}, "cannot both be a comma"),
        ({"time_column": 5}, "no column 6"),
        ({"time_column": 1}, "cannot be the same column"),
        ({"echo_unit": "h"}, "unit of time"),
        ({"separator": "dots"}, "not one Tick Stone knows"),
        ({"time_column": None, "interval_s": 0.0}, "give the interval"),
    ],
)
def test_a_mapping_that_does_not_fit_is_refused(change: dict, said: str) -> None:
    usual = {
        "separator": "comma", "decimal": "point", "header_line": 1, "width": 2, "time_column": 0,
        "time_unit": "ms", "echo_column": 1, "echo_unit": "us",
    }  # fmt: skip
    with pytest.raises(ValueError, match=said):
        EchoMapping(**{**usual, **change})
