"""Guessing a log's shape: right for what people print, overruled by what they say."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tickstone.formats.log_shape import (
    DECIMALS,
    HEAD_BYTES,
    SEPARATORS,
    UnreadableLogError,
    preview_log,
)


def log(separator: str, decimal: str, header: str, unit: str, rows: int = 30) -> bytes:
    """A log as a board would print it, in one of many shapes."""
    scale = {"us": 50_000.0, "ms": 50.0, "s": 0.05}[unit]
    lines = [header] if header else []
    for n in range(rows):
        time = f"{n * scale:.3f}" if unit == "s" else f"{n * scale:.0f}"
        cells = [time.replace(".", decimal), str(1800 + (n * 37) % 400), str(100 + n % 3)]
        lines.append(separator.join(cells))
    return "\n".join(lines).encode()


@pytest.mark.parametrize("unit", ["us", "ms", "s"])
@pytest.mark.parametrize("named", [True, False])
@pytest.mark.parametrize("separator", list(SEPARATORS))
@pytest.mark.parametrize("decimal", list(DECIMALS))
def test_every_usual_shape_is_guessed(separator: str, decimal: str, named: bool, unit: str) -> None:
    if separator == decimal:
        decimal = "point"
    mark = SEPARATORS[separator]
    header = mark.join([f"t_{unit}", "echo_us", "light"]) if named else ""
    shape = preview_log(log(mark, DECIMALS[decimal], header, unit)).shape
    assert shape.separator == separator
    assert shape.header_line == (1 if named else 0)
    assert (shape.time_column, shape.echo_column) == (0, 1)
    assert (shape.time_unit, shape.echo_unit) == (unit, "us")
    if unit == "s":
        assert shape.decimal == decimal


def test_banner_lines_above_the_header_are_seen_as_such() -> None:
    text = b"cart ready\nv2, built today\n\nmillis,echo us\n" + b"\n".join(
        b"%d,%d" % (50 * n, 1800 + n) for n in range(20)
    )
    preview = preview_log(text)
    assert preview.shape.header_line == 4
    assert preview.shape.columns == ("millis", "echo us")
    assert preview.rows[0] == (5, ("0", "1800"))


def test_one_column_without_times() -> None:
    shape = preview_log(b"1800\n1810\n0\n1790\n1805\n").shape
    assert (shape.time_column, shape.echo_column, shape.header_line) == (None, 0, 0)


def test_milliseconds_of_echo_are_told_from_their_size() -> None:
    assert preview_log(b"0;1,76\n50;1,77\n100;1,75\n150;1,79\n").shape.echo_unit == "ms"


def test_the_person_overrules_the_guess() -> None:
    text = b"1,5;2\n2,5;3\n3,5;1\n"
    assert preview_log(text).shape.separator == "semicolon"
    overruled = preview_log(text, "comma", "point").shape
    assert overruled.separator == "comma"
    assert len(overruled.columns) == 2


@pytest.mark.parametrize(
    ("head", "said"),
    [
        (b"", "empty"),
        (b"  \n\n", "empty"),
        ("t,echo\n1,2\n".encode("utf-16"), "UTF-16"),
        (b"\x7fELF\0\0\0", "not text"),
    ],
)
def test_what_is_no_log_is_refused_in_words(head: bytes, said: str) -> None:
    with pytest.raises(UnreadableLogError, match=said):
        preview_log(head)


@given(st.binary(max_size=400))
def test_any_bytes_are_read_or_refused_but_never_break_it(head: bytes) -> None:
    try:
        preview = preview_log(head)
    except UnreadableLogError:
        return
    assert len(preview.shape.columns) >= 1


def test_a_head_cut_in_mid_line_does_not_show_the_torn_line() -> None:
    text = log(",", ".", "t_ms,echo_us,light", "ms", rows=8_000)[:HEAD_BYTES]
    assert all(len(cells) == 3 for _, cells in preview_log(text).rows)
