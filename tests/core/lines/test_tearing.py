"""Bytes lost on the way: what they tore is a gap, and nothing torn is ever read as a sample."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from tickstone.core.lines.reader import LineReader
from tickstone.core.lines.splitter import LineSplitter
from tickstone.core.lines.tearing import MOST_HELD, Tearing

START = 40
LINES = [b"%d,%d\n" % (n, 1_000 + n * 7) for n in range(400)]
HEADER = b"seq,x\n"
BAD = b"4,5,6,7,8\n"


class Heard:
    """A reader with its tearing, as a line has them."""

    def __init__(self) -> None:
        self.splitter, self.reader, self.tearing = LineSplitter(), LineReader(), Tearing()
        self.rows: list[tuple[float, ...]] = []
        self.verdicts: list[str] = []
        self.missing = 0

    def feed(self, data: bytes) -> None:
        rows, judged = self.reader.feed(self.splitter.feed(data, 0))
        judged, missing = self.tearing.sort(rows, judged)
        assert len(missing) == len(rows)
        self.rows += [row.values for row in rows]
        self.verdicts += [line.verdict for line in judged]
        self.missing += sum(missing)


whole = st.lists(st.tuples(st.integers(5, 60), st.integers(0, 300)), max_size=6)


@given(whole)
def test_what_the_port_says_it_overran_is_a_gap_and_never_a_sample(losses) -> None:
    """Each loss: after so many lines' worth of bytes, so many bytes are gone."""
    heard = Heard()
    heard.feed(HEADER + b"".join(LINES[:START]))
    left = b"".join(LINES[START:])
    for after, lost in losses:
        data, left = left[: after * 9], left[after * 9 + lost :]
        heard.feed(data)
        if lost:
            heard.splitter.tear()
    heard.feed(left)
    assert {(n, 1_000 + 7 * n) for n in range(400)} >= set(heard.rows)
    assert "bad" not in heard.verdicts
    last = int(heard.rows[-1][0])
    assert len(heard.rows) + heard.missing == last + 1


@given(st.integers(30, 200), st.integers(1, 200))
def test_without_the_port_the_boards_own_count_tells(at: int, lost: int) -> None:
    """Where a torn line cannot be read it belongs to the gap, however much is gone."""
    heard = Heard()
    body = HEADER + b"".join(b"seq:%d x:%05d\n" % (n, n * 7) for n in range(400))
    cut = at * 12
    heard.feed(body[:cut])
    heard.feed(body[cut + lost :])
    if heard.verdicts.count("torn"):
        assert heard.missing > heard.verdicts.count("torn")
    assert heard.verdicts.count("bad") <= 1
    if heard.verdicts.count("bad"):
        # One line was hit, and it is the one that is missing: nothing else was lost.
        assert heard.missing == 0


def test_a_line_that_is_bad_by_itself_is_not_said_twice() -> None:
    heard = Heard()
    heard.feed(HEADER + b"".join(LINES[:START]) + BAD + b"".join(LINES[START + 1 :]))
    assert (heard.verdicts.count("bad"), heard.missing) == (1, 0)
    heard = Heard()
    heard.feed(HEADER + b"".join(LINES[:START]) + BAD + b"".join(LINES[START + 3 :]))
    assert (heard.verdicts.count("torn"), heard.verdicts.count("bad"), heard.missing) == (1, 0, 3)


def test_a_board_that_says_something_else_is_held_back_for_no_longer_than_a_tear() -> None:
    heard = Heard()
    heard.feed(HEADER + b"".join(LINES[:START]))
    heard.feed(BAD * 15)
    assert heard.verdicts.count("bad") >= 15 - MOST_HELD
    assert [one.verdict for one in heard.tearing.rest()] == ["bad"] * (
        15 - heard.verdicts.count("bad")
    )
