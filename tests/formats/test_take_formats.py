"""Recordings written and read in each format, and checked with readers that are not ours."""

from __future__ import annotations

import contextlib
import json
import signal
import wave
from pathlib import Path

import numpy as np
import pandas
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from mcap.reader import make_reader
from pyarrow import parquet
from vcdvcd import VCDVCD

from tickstone.core.blocks import Block
from tickstone.core.status import Status
from tickstone.formats.takes import FORMATS, format_named, format_of, read_take_file
from tickstone.formats.takes.csv_format import sidecar_path, write_sidecar
from tickstone.formats.takes.header import (
    ChannelInfo,
    ReadAs,
    TakeHeader,
    UnreadableFileError,
    UnwritableError,
)

# That reader of VCD, as a command of its own, has a write to a closed connection end the process.
# Here this is the process that runs all the tests, and the servers some of them talk to.
signal.signal(signal.SIGPIPE, signal.SIG_IGN)

EXACT = ("csv", "jsonl", "parquet", "mcap")
FLAGS = (Status.MISSING, Status.BAD_TEXT, Status.OVER_RANGE)


def header_of(width: int, names: list[str] | None = None) -> TakeHeader:
    names = names or [f"channel {n}" for n in range(width)]
    return TakeHeader(
        "bench",
        tuple(ChannelInfo(name, "mV" if n else "", "number") for n, name in enumerate(names)),
        recorded_at="2026-11-20T10:00:00+00:00",
        rate_hz=100.0,
        air={"temperature_c": 12.0},
        conditions={"light": "lamp", "height_mm": 6.0, "battery_v": None, "notes": "=1+1"},
        tags=("a", "b"),
        marks=(
            {
                "channel": 0,
                "name": "nail",
                "start_s": 0.1,
                "end_s": 0.2,
                "true_value": 0.3,
                "true_u": None,
                "unit": "m",
            },
        ),
    )


def write(form: str, header: TakeHeader, blocks: list[Block], folder: Path) -> Path:
    path = folder / f"bench.{format_named(form).extension}"
    with path.open("wb") as file:
        format_named(form).write(header, iter(blocks), file)
    return path


def read(path: Path):
    reading = read_take_file(path)
    blocks = list(reading.blocks)
    width = len(reading.header.channels)
    times = np.concatenate([block.time_us for block in blocks])
    values = [np.concatenate([np.asarray(b.values[n]) for b in blocks]) for n in range(width)]
    status = [
        np.concatenate(
            [np.zeros(len(b), np.uint8) if b.status[n] is None else b.status[n] for b in blocks]
        )
        for n in range(width)
    ]
    return reading, times, values, status


number = st.one_of(
    st.integers(-(2**40), 2**40).map(float),
    st.decimals(-1000, 1000, places=4).map(float),
    st.floats(-1e12, 1e12, allow_nan=False),
)
samples = st.integers(1, 4).flatmap(
    lambda width: st.lists(
        st.tuples(
            st.integers(1, 100_000),
            st.lists(
                st.tuples(number, st.sampled_from([Status.OK] * 5 + list(FLAGS))),
                min_size=width,
                max_size=width,
            ),
        ),
        min_size=6,
        max_size=40,
    )
)


@pytest.mark.parametrize("form", EXACT)
@given(samples, st.integers(1, 20), st.integers(0, 10**12))
@settings(max_examples=40)
def test_samples_come_back_exactly(tmp_path_factory, form, rows, cut, origin) -> None:
    folder = tmp_path_factory.mktemp(form)
    times = origin + np.cumsum([step for step, _ in rows])
    width = len(rows[0][1])
    status = np.array([[flag for _, flag in cells] for _, cells in rows], dtype=np.uint8)
    values = np.array([[value + 0.0 for value, _ in cells] for _, cells in rows])
    # A first row of flags alone would leave nothing to learn a text's shape from.
    status[:6] = 0
    values[status != 0] = np.nan
    blocks = [
        Block(
            times[first : first + cut],
            [values[first : first + cut, n].copy() for n in range(width)],
            [status[first : first + cut, n].copy() for n in range(width)],
        )
        for first in range(0, len(rows), cut)
    ]
    reading, back, back_values, back_status = read(write(form, header_of(width), blocks, folder))
    np.testing.assert_array_equal(back, times - times[0])
    for n in range(width):
        np.testing.assert_array_equal(back_values[n], values[:, n])
        np.testing.assert_array_equal(back_status[n], status[:, n])
    assert reading.bad_rows == 0


@pytest.mark.parametrize("form", ["jsonl", "parquet", "mcap"])
@pytest.mark.parametrize("names", [["a,b", 'say "hi"'], ["=cmd", "t_us"], ["x", "x"], ["µ²", " "]])
def test_the_description_comes_back_whole(tmp_path: Path, form: str, names: list[str]) -> None:
    header = header_of(2, names)
    block = Block(np.arange(8) * 10, [np.arange(8.0), np.arange(8.0)], [None, None])
    reading, *_ = read(write(form, header, [block], tmp_path))
    assert reading.header == header


def test_a_csv_finds_its_description_beside_it(tmp_path: Path) -> None:
    header = header_of(2, ["=2+5", "front, left"])
    block = Block(np.arange(8) * 10, [np.arange(8.0), np.arange(8.0) / 2], [None, None])
    path = write("csv", header, [block], tmp_path)
    lines = path.read_text().splitlines()
    assert lines[0] == 't_us,\'=2+5,"front, left [mV]"'
    assert lines[1] == "0,0,0"
    sidecar_path(path).write_text(write_sidecar(header))
    assert read(path)[0].header == header
    sidecar_path(path).unlink()
    assert [c.name for c in read(path)[0].header.channels] == ["=2+5", "front, left"]


@given(
    st.lists(
        st.tuples(number, st.sampled_from([Status.OK] * 5 + list(FLAGS))), min_size=6, max_size=30
    ),
    st.sampled_from(["speed_m", "=1+1", "7", "x [m/s]", "a, b", "µ²"]),
    st.sampled_from(["", "µs", "m/s²", "LSB"]),
)
@settings(max_examples=40)
def test_a_csv_opens_as_numbers_in_a_data_frame(tmp_path_factory, cells, name, unit) -> None:
    """The usual library, without an option; and names and units come back to us."""
    folder = tmp_path_factory.mktemp("frame")
    status = np.array([0, *[flag for _, flag in cells]], dtype=np.uint8)
    values = np.array([1.5, *[value + 0.0 for value, _ in cells]])
    values[status != 0] = np.nan
    header = TakeHeader("x", (ChannelInfo(name, unit, "number"),))
    path = write("csv", header, [Block(np.arange(len(values)) * 10, [values], [status])], folder)
    frame = pandas.read_csv(path)
    assert [kind.kind in "if" for kind in frame.dtypes] == [True, True]
    seen = frame.iloc[:, 1].to_numpy(float)
    np.testing.assert_array_equal(np.isinf(seen), status == Status.OVER_RANGE)
    np.testing.assert_allclose(seen[status == 0], values[status == 0], rtol=1e-15)
    back = read(path)[0].header.channels[0]
    assert (back.name, back.unit) == (name, unit)


def example_block() -> tuple[TakeHeader, Block]:
    times = np.arange(0, 1_000_000, 2_500)
    hall = (np.arange(400) // 20 % 2).astype(float)
    wave_ = np.round(1000 * np.sin(np.arange(400) / 9))
    status = np.zeros(400, np.uint8)
    status[7] = Status.OVER_RANGE
    wave_[7] = np.nan
    header = TakeHeader(
        "wheel",
        (ChannelInfo("hall", "", "pulse"), ChannelInfo("ax", "", "acceleration")),
        rate_hz=400.0,
    )
    return header, Block(times, [hall, wave_], [None, status], times + 10**15)


def test_parquet_is_what_arrow_reads(tmp_path: Path) -> None:
    header, block = example_block()
    table = parquet.read_table(write("parquet", header, [block], tmp_path))
    assert table.column_names == ["t_us", "host_us", "hall", "hall.status", "ax", "ax.status"]
    assert table["t_us"].to_pylist() == block.time_us.tolist()
    assert table["ax"].null_count == 1
    assert table["ax"].to_pylist()[8] == block.values[1][8]


def test_vcd_is_what_a_vcd_library_reads(tmp_path: Path) -> None:
    header, block = example_block()
    path = write("vcd", header, [block], tmp_path)
    vcd = VCDVCD(str(path))
    (signal,) = [vcd[name] for name in vcd.signals if name.endswith("hall")]
    changes = [(int(t), v) for t, v in signal.tv]
    values = block.values[0]
    expected = [
        (int(t), str(int(v)))
        for n, (t, v) in enumerate(zip(block.time_us, values, strict=True))
        if n == 0 or v != values[n - 1]
    ]
    assert changes == expected
    assert vcd.timescale["unit"] == "us"
    reading, times, back, _ = read(path)
    assert reading.header.channels[0].quantity == "pulse changes"
    assert [(int(t), str(int(v))) for t, v in zip(times, back[0], strict=True)][
        : len(expected)
    ] == expected
    assert int(times[-1]) == int(block.time_us[-1])


def test_mcap_is_what_its_own_reader_reads(tmp_path: Path) -> None:
    header, block = example_block()
    with write("mcap", header, [block], tmp_path).open("rb") as file:
        messages = list(make_reader(file, validate_crcs=True).iter_messages())
    assert len(messages) == 400
    schema, channel, message = messages[8]
    assert (schema.encoding, channel.message_encoding) == ("jsonschema", "json")
    assert json.loads(schema.data)["properties"]["ax"]["type"] == ["number", "null"]
    document = json.loads(message.data)
    assert document == {"t_us": 20_000, "hall": 0, "ax": block.values[1][8]}
    assert message.publish_time == 20_000_000
    assert json.loads(messages[7][2].data)["_status"] == {"ax": "over_range"}


def test_wav_is_what_the_standard_library_reads(tmp_path: Path) -> None:
    header, block = example_block()
    one = Block(block.time_us, [block.values[1]], [block.status[1]])
    with wave.open(str(write("wav", header.only((1,)), [one], tmp_path))) as sound:
        assert (sound.getframerate(), sound.getsampwidth(), sound.getnchannels()) == (400, 2, 1)
        frames = np.frombuffer(sound.readframes(sound.getnframes()), "<i2")
    held = block.values[1].copy()
    held[7] = held[6]
    np.testing.assert_array_equal(frames, held)


def test_what_does_not_fit_says_so(tmp_path: Path) -> None:
    header, block = example_block()
    with pytest.raises(UnwritableError, match="one channel"):
        write("wav", header, [block], tmp_path)
    with pytest.raises(UnwritableError, match="no pulse channel"):
        write("vcd", header.only((1,)), [Block(block.time_us, [block.values[1]], [None])], tmp_path)


@pytest.mark.parametrize("form", [one.name for one in FORMATS if one.reads])
@pytest.mark.parametrize("keep", [0.1, 0.5, 0.9, 0.999])
def test_a_torn_file_is_told_of_and_never_crashes(tmp_path: Path, form: str, keep: float) -> None:
    header, block = example_block()
    path = write(form, header, [block], tmp_path)
    data = path.read_bytes()
    path.write_bytes(data[: int(len(data) * keep)])
    with contextlib.suppress(UnreadableFileError, ValueError):
        reading, times, *_ = read(path)
        assert 0 < len(times) <= 400
        assert reading.bad_rows <= 400


@given(st.sampled_from([one.name for one in FORMATS if one.reads]), st.data())
@settings(max_examples=150)
def test_a_spoilt_file_is_told_of_and_never_crashes(tmp_path_factory, form, data) -> None:
    header, block = example_block()
    path = write(form, header, [block], tmp_path_factory.mktemp("spoilt"))
    raw = bytearray(path.read_bytes())
    for _ in range(data.draw(st.integers(1, 6))):
        at = data.draw(st.integers(0, len(raw) - 1))
        raw[at] = data.draw(st.integers(0, 255))
    path.write_bytes(bytes(raw))
    with contextlib.suppress(UnreadableFileError, ValueError):
        read(path)


@given(st.binary(max_size=400))
@settings(max_examples=150)
def test_any_bytes_are_read_or_refused(tmp_path_factory, data) -> None:
    path = tmp_path_factory.mktemp("any") / "x.dat"
    path.write_bytes(data)
    with contextlib.suppress(UnreadableFileError):
        list(read_take_file(path, ReadAs(rate_hz=10.0)).blocks)


def test_what_is_no_recording_is_refused_with_what_to_do(tmp_path: Path) -> None:
    for data, words in (
        (b"", "empty"),
        (b"\xff\xfea\0", "UTF-16"),
        (b"PK\x03\x04rest", "zip"),
        (b"\x1f\x8brest", "gzip"),
        (b"\x7fELF\0\0\0", "not text"),
        (b"once upon a time\nthere was\n", "No line"),
    ):
        path = tmp_path / "x"
        path.write_bytes(data)
        with pytest.raises(UnreadableFileError, match=words):
            read_take_file(path)


def test_formats_are_recognised_by_content_not_by_name(tmp_path: Path) -> None:
    header, block = example_block()
    for form in (one for one in FORMATS if one.reads):
        path = write(form.name, header, [block], tmp_path)
        other = path.rename(tmp_path / "what.bin")
        assert format_of(other).name == form.name
