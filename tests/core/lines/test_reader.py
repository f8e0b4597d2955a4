"""Lines into channels: the corpus of nasty lines, and properties over arbitrary ones."""

from __future__ import annotations

import gc
import math
import time

import pytest
from hypothesis import Phase, given, settings
from hypothesis import strategies as st
from tests.core.lines.nasty_lines import BOARDS, CASES

from tickstone.core.lines import reader as reader_module
from tickstone.core.lines.names import split_unit
from tickstone.core.lines.reader import LineReader
from tickstone.core.lines.shape import learn_shape
from tickstone.core.lines.splitter import LONGEST_LINE_BYTES, LineSplitter
from tickstone.core.lines.tokens import SEPARATORS, Manner, cells_of, split_words
from tickstone.core.status import Status


def read(data: bytes, reader: LineReader | None = None, pieces: int = 1_000_000):
    """Rows and verdicts of bytes that come a few at a time."""
    splitter, reader = LineSplitter(), reader or LineReader()
    rows, judged = [], []
    for at in range(0, len(data), pieces):
        more = reader.feed(splitter.feed(data[at : at + pieces], at))
        rows += more[0]
        judged += more[1]
    for more in (reader.feed(splitter.rest(len(data))), reader.settle()):
        rows += more[0]
        judged += more[1]
    return rows, judged, reader


def test_corpus_is_a_hundred() -> None:
    assert len(CASES) >= 100


@pytest.mark.parametrize(("board", "line", "expected"), CASES, ids=lambda case: repr(case)[:50])
def test_nasty_line(board: str, line: bytes, expected: list[float | None] | str) -> None:
    rows, judged, _ = read(b"\n".join([*BOARDS[board], line]) + b"\n")
    assert len(judged) == len(BOARDS[board]) + 1
    if isinstance(expected, str):
        assert judged[-1].verdict == expected
        assert judged[-1].reason
        assert len(rows) == sum(one.verdict.startswith("read") for one in judged)
        return
    assert judged[-1].verdict.startswith("read"), judged[-1].reason
    row = rows[-1]
    statuses = row.statuses or (Status.OK,) * len(row.values)
    assert [
        None if status is not Status.OK else pytest.approx(value)
        for value, status in zip(row.values, statuses, strict=True)
    ] == expected
    assert all(
        math.isnan(v) == (s is not Status.OK) for v, s in zip(row.values, statuses, strict=True)
    )


whole = st.integers(-(10**6), 10**6)
tables = st.integers(1, 6).flatmap(
    lambda width: st.lists(st.lists(whole, min_size=width, max_size=width), min_size=6, max_size=40)
)


@given(
    tables, st.sampled_from([",", ";", "\t", " ", "|", ", "]), st.sampled_from(["\n", "\r\n", "\r"])
)
@settings(max_examples=150)
def test_separated_values_come_back_whatever_separates_them(table, separator, end) -> None:
    text = "".join(separator.join(map(str, row)) + end for row in table)
    shape = learn_shape(text.splitlines())
    assert shape is not None
    rows, judged, _ = read(text.encode(), LineReader(shape))
    channels = shape.channels
    assert [row.values for row in rows] == [tuple(float(row[c]) for c in channels) for row in table]
    assert all(one.verdict == "read" for one in judged)


@given(tables, st.sampled_from([": ", ":", "=", " = "]), st.sampled_from([" ", ", ", "; ", "\t"]))
@settings(max_examples=100)
def test_labelled_values_come_back_by_their_labels(table, sign, between) -> None:
    names = ["ax", "by", "left", "Rear wheel", "q_1", "z"]
    lines = [
        between.join(f"{name}{sign}{value}" for name, value in zip(names, row, strict=False))
        for row in table
    ]
    rows, _, reader = read("\n".join(lines).encode() + b"\n")
    assert reader.shape is not None
    assert [column.label for column in reader.shape.columns] == names[: len(table[0])]
    if reader.shape.time is None:
        assert [row.values for row in rows] == [tuple(map(float, row)) for row in table]


@given(st.lists(st.binary(max_size=60), max_size=60), st.integers(1, 50))
@settings(max_examples=200)
def test_any_bytes_are_all_accounted_for_however_they_come(lines, pieces) -> None:
    """Every line is judged once, in order, and how the bytes are cut makes no difference."""
    data = b"\n".join(lines)
    rows, judged, reader = read(data)
    again = read(data, pieces=pieces)
    assert [(one.text, one.verdict) for one in judged] == [
        (one.text, one.verdict) for one in again[1]
    ]
    numbers = [one.number for one in judged] + [line.number for line in reader._waiting]
    assert sorted(numbers) == list(range(1, len(numbers) + 1))
    assert len(rows) == sum(one.verdict in ("read", "read in part") for one in judged)


@given(st.data())
@settings(max_examples=60)
def test_good_lines_among_rubbish_are_never_lost(data) -> None:
    good = [f"{50 * n},{100 + n},{7 * n}" for n in range(12)]
    rubbish = data.draw(
        st.lists(
            st.text(st.characters(exclude_categories=["Nd", "Cc", "Cs"]), max_size=30), max_size=15
        )
    )
    lines = list(good[:6])
    for n, line in enumerate(good[6:]):
        lines += rubbish[n::6]
        lines.append(line)
    rows, _, reader = read("\n".join(lines).encode() + b"\n")
    assert reader.shape is not None
    read_back = [row.values[-1] for row in rows]
    assert [7.0 * n for n in range(12)] == [v for v in read_back if not math.isnan(v)]


def test_a_new_program_on_the_board_is_learnt_again() -> None:
    text = "".join(f"{n},{n * 2}\n" for n in range(30)) + "".join(
        f"a:{n} b:{n} c:{n}\n" for n in range(30)
    )
    rows, judged, reader = read(text.encode())
    assert reader.relearned == 1
    assert len(rows) == 60
    assert not [one for one in judged if one.is_bad]


def test_a_settled_shape_is_not_learnt_away() -> None:
    shape = learn_shape(["1,2"] * 20)
    rows, judged, reader = read(b"a:1 b:2 c:3\n" * 50, LineReader(shape, learns_again=False))
    assert rows == []
    assert len([one for one in judged if one.verdict == "bad"]) == 50
    assert reader.shape is shape


@pytest.mark.parametrize(("unit", "tick_us"), [("µs", 1), ("ms", 1_000), ("s", 1_000_000)])
@pytest.mark.parametrize("step_us", [1_000, 20_000, 500_000, 3_000_000])
def test_an_unnamed_unit_of_time_is_told_by_when_lines_arrive(
    unit: str, tick_us: int, step_us: int
) -> None:
    if step_us < tick_us:
        step_us = tick_us
    splitter, reader = LineSplitter(), LineReader()
    rows = []
    for n in range(12):
        line = b"%d,%d\n" % (n * step_us // tick_us + 7, n * n % 5)
        rows += reader.feed(splitter.feed(line, 10**15 + n * step_us))[0]
    rows += reader.settle()[0]
    assert reader.shape is not None
    if reader.shape.time is not None:
        assert reader.shape.time_unit == unit
        assert [row.time_us for row in rows] == [n * step_us for n in range(12)]
    else:
        assert step_us == tick_us, "a plain counter of lines is no time"


def test_ticks_of_no_unit_are_no_time() -> None:
    splitter, reader = LineSplitter(), LineReader()
    for n in range(12):
        reader.feed(splitter.feed(b"%d,%d\n" % (1_000 * n, n % 5), n * 37_000))
    assert reader.shape is not None
    assert reader.shape.time is None


ENDLESS = [
    "9",
    "a",
    " ",
    "a1",
    "a=",
    "1,",
    "-",
    "[{",
    "1.",
    "x:1 ",
    "0x",
    '{"a":',
    "1;2,",
    "\u20ac1",
]


@pytest.mark.parametrize("piece", ENDLESS)
def test_endless_lines_are_kept_and_harm_nobody(piece: str) -> None:
    """What never ends is cut, judged, and does not keep the lines after it from being read."""
    splitter, reader = LineSplitter(), LineReader()
    endless = (piece * 4_000).encode()[:LONGEST_LINE_BYTES]
    rows, judged = reader.feed(splitter.feed(endless * 90 + b"\n", 0))
    numbers = [one.number for one in judged + reader.waiting]
    assert numbers == list(range(1, splitter.lines + 1))
    good = b"".join(b"front:%d left:%d\n" % (5_000 + n, 300 + n) for n in range(100))
    rows, _ = reader.feed(splitter.feed(good, 1_000_000))
    assert (5_099.0, 399.0) in [row.values for row in rows]


PIECES = [
    *ENDLESS,
    "  ",
    ">",
    "> ",
    "->",
    "=",
    "x : ",
    "\t",
    '"',
    "'a",
    "_",
    "é ",
    "−",
    "12:00:00 ",
    "\\",
]


def seconds(text: str) -> float:
    """This process's own time for it: what else runs does not count."""
    gc.disable()
    began = time.process_time()
    understand(text)
    spent = time.process_time() - began
    gc.enable()
    return spent


def understand(text: str) -> None:
    """All that is done with a line before and after its shape is known."""
    for kind in ("json", "labelled", "words"):
        for decimal in ("point", "comma"):
            cells_of(text, Manner(kind, "", decimal))
    for separator in SEPARATORS:
        for decimal in ("point", "comma"):
            cells_of(text, Manner("separated", separator, decimal))
        split_words(text, separator)
    learn_shape([text] * 3)
    split_unit(text)


@given(
    start=st.text(st.sampled_from("".join(PIECES)), max_size=6),
    piece=st.one_of(
        st.sampled_from(PIECES), st.text(st.sampled_from("".join(PIECES)), min_size=1, max_size=4)
    ),
    end=st.text(st.sampled_from("".join(PIECES) + "\n"), max_size=3),
)
@settings(max_examples=20, phases=[Phase.explicit, Phase.reuse, Phase.generate])
def test_twice_the_line_takes_about_twice_the_time(start: str, piece: str, end: str) -> None:
    """Four times the line in at most eight times the time; a quadratic step would take sixteen.

    Below twice the fair share lies what memory costs. The least of some measurements counts: a
    machine can only make them longer.
    """
    size = LONGEST_LINE_BYTES
    once = start + (piece * size)[:size] + end
    fourfold = start + (piece * 4 * size)[: 4 * size] + end
    short, long = math.inf, math.inf
    for _ in range(6):
        short, long = min(short, seconds(once)), min(long, seconds(fourfold))
        if long < 8.0 * short:
            return
    raise AssertionError((start, piece, end, short, long))


def test_what_is_not_understood_yet_can_be_seen(monkeypatch: pytest.MonkeyPatch) -> None:
    tries = []
    learn = reader_module.learn_shape
    monkeypatch.setattr(
        reader_module, "learn_shape", lambda *words: tries.append(1) or learn(*words)
    )
    splitter, reader = LineSplitter(), LineReader()
    assert reader.feed(splitter.feed(b"hello\n" + b"7," * 300 + b"\n", 0)) == ([], [])
    settled = [reader.settle() for _ in range(5)]
    assert settled == [([], [])] * 5
    assert len(tries) == 2, "what did not help once does not help again"
    assert [one.verdict for one in reader.waiting] == ["waiting", "waiting"]
    assert [bool(one.reason) for one in reader.waiting] == [False, True]
    reader.feed(splitter.feed(b"t_ms,front_us\n" + b"0,5831\n40,5836\n80,5833\n" * 9, 0))
    assert reader.shape is not None
    assert reader.waiting == []


def test_lines_that_waited_are_read_with_the_shape_a_person_settled() -> None:
    splitter, reader = LineSplitter(), LineReader()
    assert reader.feed(splitter.feed(b"ready\n1,2\n3,4\n", 0)) == ([], [])
    shape = learn_shape(["1,2"] * 20)
    assert shape is not None
    reader.reshape(shape)
    rows, judged = reader.feed(splitter.feed(b"5,6\n", 0))
    assert [row.values for row in rows] == [(1.0, 2.0), (3.0, 4.0), (5.0, 6.0)]
    assert [one.verdict for one in judged] == ["text", "read", "read", "read"]
    assert reader.waiting == []


def test_lines_nothing_can_be_learnt_from_are_told_why() -> None:
    wide = (",".join(str(k * 7 % 977) for k in range(300)) + "\n").encode() * 90
    _, judged, reader = read(b"just words\n" * 3 + wide)
    assert reader.shape is None
    assert [one.verdict for one in judged[:3]] == ["text"] * 3
    assert {one.reason for one in judged[3:]} == {
        "it holds too many values; 64 to a line are understood"
    }


@given(st.lists(st.tuples(st.integers(0, 3), st.integers(0, 50_000)), min_size=2, max_size=20))
def test_lines_faster_than_their_wire_are_spread_since_the_read_before(reads) -> None:
    """A board with USB of its own heeds no speed; nothing arrives before the read before it."""
    splitter = LineSplitter(byte_us=1_000.0)
    before = at_us = 0
    assert list(splitter.feed(b"", 0)) == []
    for gap, lines in reads:
        before, at_us = at_us, at_us + 1_000 * gap
        arrived = [line.at_us for line in splitter.feed(b"1\n" * (lines % 97), at_us)]
        assert arrived == sorted(arrived)
        assert all(before <= arrival <= at_us for arrival in arrived)
