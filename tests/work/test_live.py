"""An open line: the ring, the pictures, what is remembered, gaps, and a database that goes away."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterable
from dataclasses import dataclass

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from sqlalchemy import Engine, select, text
from sqlalchemy.orm import Session
from tests.board import wait_for

from tickstone.core.air.conditions import AirConditions
from tickstone.core.blocks import Block
from tickstone.core.chains.echo_ranger import EchoRanger, RangerParameters
from tickstone.core.families.columns import Candidate, usual_columns
from tickstone.core.lines.shape import LineShape, learn_shape
from tickstone.core.signal import Signal
from tickstone.core.status import Status
from tickstone.core.surroundings import Surroundings
from tickstone.demo.rigs import plant_demo
from tickstone.formats.family_file import shipped_devices
from tickstone.link.source import LineLostError, PortError, Source
from tickstone.store.models import Rig, Take
from tickstone.store.takes import read_blocks
from tickstone.work.live.folds import LiveSensor
from tickstone.work.live.frames import Painter
from tickstone.work.live.line import LinePlace, LiveLine
from tickstone.work.live.memory import (
    remembered_sensors,
    remembered_shape,
    renamed,
    shape_as_json,
    shape_from_json,
    signature_of,
    suggested_sensors,
)
from tickstone.work.live.recorder import Recorder
from tickstone.work.live.ring import Ring
from tickstone.work.sensing import Sensing
from tickstone.work.sources import RoleSource


@given(st.lists(st.integers(0, 40), max_size=30), st.integers(1, 64))
def test_a_ring_holds_the_newest_in_order(pieces: list[int], capacity: int) -> None:
    ring = Ring(2, capacity)
    n = 0
    for piece in pieces:
        count = min(piece, capacity)
        numbers = np.arange(n, n + count)
        ring.append(numbers, numbers + 5, np.stack([numbers, -numbers]), np.zeros((2, count)))
        n += count
    held = ring.since(0)
    assert held.time_us.tolist() == list(range(max(0, n - capacity), n))
    assert held.values[1].tolist() == [-float(k) for k in held.time_us]
    assert ring.total == n
    assert len(ring.since(n)) == 0
    for number in (0, n // 2, n - 1, n, n + 5):
        expected = min(max(number, n - len(held), 0), n)
        assert ring.first_at_or_after(number) == expected


@given(
    st.lists(st.integers(1, 400), min_size=1, max_size=25),
    st.sampled_from([100, 1_000, 20_000]),
    st.integers(50, 400),
    st.integers(1, 4),
)
@settings(max_examples=60)
def test_pictures_put_together_show_every_extreme(
    pieces: list[int], step_us: int, columns: int, patience: int
) -> None:
    """However often a page takes pictures, what stands on its screen is the signal's envelope."""
    rng = np.random.default_rng(7)
    ring, painter = Ring(1), Painter(window_s=10.0, columns=columns)
    drawn: list[tuple[float, float | None]] = []
    whole: list[tuple[int, float]] = []
    n = 0
    for turn, piece in enumerate(pieces):
        times = (n + np.arange(piece)) * step_us
        values = rng.normal(0, 1, piece)
        ring.append(times, times, values[None, :], np.zeros((1, piece), np.uint8))
        whole += list(zip(times.tolist(), values.tolist(), strict=True))
        n += piece
        if turn % patience == 0 or turn == len(pieces) - 1:
            frame = painter.frame(ring, {})
            if frame is None:
                continue
            drawn = [(t, v) for t, v in drawn if t < frame.from_s]
            drawn += list(zip(frame.time_s, frame.raw[0].value, strict=True))
            assert frame.samples == n
    assert [t for t, _ in drawn] == sorted(t for t, _ in drawn)
    last = whole[-1][0]
    # What is drawn stands where its column begins, so the first may begin before the stretch.
    column_us = 10e6 / columns
    shown = [(t, v) for t, v in drawn if t * 1e6 > last - 9e6 - column_us]
    inside = [v for t, v in whole if t > last - 9e6]
    if shown and inside:
        values_shown = [v for _, v in shown if v is not None]
        assert max(values_shown) >= max(inside) - 1e-9 or len(values_shown) == 0
        assert min(values_shown) <= min(inside) + 1e-9


def test_a_page_that_falls_behind_gets_fewer_pictures_and_the_ring_keeps_all() -> None:
    ring, painter = Ring(1), Painter(window_s=1.0, columns=100)
    for second in range(20):
        times = second * 1_000_000 + np.arange(1_000) * 1_000
        ring.append(times, times, np.arange(1_000.0)[None, :], np.zeros((1, 1_000), np.uint8))
        if second in (0, 19):
            frame = painter.frame(ring, {})
            assert frame is not None
            assert len(frame.time_s) <= 2 * 130
    assert frame is not None
    assert frame.skipped > 15_000
    assert ring.total == 20_000


def test_flagged_samples_are_pictured_as_flags() -> None:
    ring, painter = Ring(1), Painter()
    status = np.zeros((1, 50), np.uint8)
    status[0, 10] = Status.BAD_TEXT
    values = np.arange(50.0)[None, :]
    values[0, 10] = np.nan
    times = np.arange(50) * 40_000
    ring.append(times, times, values, status)
    frame = painter.frame(ring, {})
    assert frame is not None
    assert frame.raw[0].value[10] is None
    assert frame.raw[0].flag[10] == Status.BAD_TEXT
    assert painter.frame(ring, {}) is None


@pytest.mark.parametrize("silent", [0, 30, 700])
def test_a_live_lane_shows_what_the_recording_will(silent: int) -> None:
    """Whatever is pictured and explained live is what the chain gives over all that came."""
    kind = EchoRanger()
    sensing = Sensing(kind, RangerParameters(median_n=5), Surroundings(AirConditions(20.0)))
    live = LiveSensor(1, sensing, (RoleSource("echo", kind.roles[0].forms[0], (0,), (1.0,)),))
    rng = np.random.default_rng(5)
    count = 900
    echoes = np.rint(7_000 + rng.normal(0, 300, count))
    echoes[100 : 100 + silent] = 0
    ring, painter = Ring(1), Painter(window_s=2.0, columns=4_000)
    times = np.arange(count) * 50_000
    whole_line = sensing.chain().apply(Signal.of(times / 1e6, echoes))
    for n in range(count):
        ring.append(times[n : n + 1], times[n : n + 1], echoes[None, n : n + 1], np.zeros((1, 1)))
        if n % 7 and n < count - 9:
            continue
        frame = painter.frame(ring, {0: live})
        assert frame is not None
        chained = frame.chained[0]
        assert chained.time_s == frame.time_s
        places = np.rint(np.array(chained.time_s) * 20).astype(int)
        shown = np.array([np.nan if v is None else v for v in chained.trace.value])
        np.testing.assert_allclose(shown, whole_line.value[places], atol=1e-9)
        fold = painter.fold(0)
        assert fold is not None
        np.testing.assert_allclose(fold.working()[-1].value, whole_line.value[n], atol=1e-9)


BRAMBLE = [
    Candidate(number, name, usual_columns(shipped_devices()[family]))
    for number, (name, family) in enumerate(
        (
            ("Front ranger", "ultrasonic_ranger"),
            ("Left ranger", "ultrasonic_ranger"),
            ("Nose strip", "reflective_array_5"),
            ("Rear wheel", "hall_switch_unipolar"),
            ("Deck level", "six_axis"),
            ("Shed air", "thermometer"),
            ("Battery", "battery_divider"),
        ),
        start=1,
    )
]


@pytest.mark.parametrize(
    ("header", "row", "expected"),
    [
        ("front_us,left_us", "{},{}", {"front": 1, "left": 2}),
        ("echo1 [us],echo2 [us]", "{},{}", {"echo1": 1, "echo2": 2}),
        ("hall_count,ax,temp_C", "{},{},20.5", {"hall_count": 4, "ax": 5, "temp": 6}),
        ("ir1,ir5,batt", "{},{},500", {"ir1": 3, "ir5": 3, "batt": 7}),
        ("gap_us,temp_C", "{},{}.5", {"gap": 4, "temp": 6}),
        ("nothing,known", "{},{}", {}),
    ],
)
def test_columns_find_their_sensors(header: str, row: str, expected: dict[str, int]) -> None:
    lines = [header] + [row.format(3_000 + 7 * n % 5, 2_000 + n % 3) for n in range(12)]
    shape = learn_shape(lines)
    assert shape is not None
    found = suggested_sensors(shape, BRAMBLE)
    assert {name: found.get(name) for name in expected} == expected
    if not expected:
        assert set(found.values()) <= {3}


def learnt(header: str = "t_ms,front_us") -> LineShape:
    shape = learn_shape([header] + [f"{40 * n},{5831 + n % 3}" for n in range(12)])
    assert shape is not None
    return shape


def test_a_shape_is_remembered_as_it_was_corrected() -> None:
    shape = learnt()
    corrected = renamed(shape, [(1, "nose", "µs", "echo time", True)])
    line = {
        "shape": shape_as_json(corrected),
        "signature": signature_of(shape),
        "sensors": {"nose": 1, "gone": 9},
    }
    assert shape_from_json(shape_as_json(corrected)) == corrected
    assert remembered_shape(shape, line) == corrected
    assert remembered_sensors(corrected, line) == {"nose": 1}
    other = learnt("t_ms,left_us")
    assert remembered_shape(other, line) == other
    # A board that was running already says its numbers only.
    nameless = learnt("")
    assert remembered_shape(nameless, line).columns == corrected.columns
    narrower = learn_shape([f"{5831 + n % 3}" for n in range(12)])
    assert narrower is not None
    assert remembered_shape(narrower, line) == narrower
    for broken in ({}, {**line, "shape": {}}, {**line, "shape": {"manner": {"x": 1}}}):
        assert remembered_shape(shape, broken) == shape


IMPOSSIBLE = [
    [(9, "x", "", "number", True)],
    [(1, "t", "", "number", True)],
    [(1, "x", "", "number", False)],
]


@pytest.mark.parametrize("change", IMPOSSIBLE)
def test_corrections_that_cannot_be_are_refused(change: list) -> None:
    with pytest.raises(ValueError, match=r".+"):
        renamed(learnt(), change)


@dataclass(frozen=True)
class Pause:
    """Nothing comes for so long."""

    seconds: float


class Script:
    """A wire written down beforehand: bytes, a break in seconds, a pause."""

    byte_us = 0.0

    def __init__(self, parts: Iterable[bytes | float | Pause]) -> None:
        self.parts = list(parts)
        self.away_until = 0.0
        self.is_over = False

    def open(self) -> Source:
        if time.monotonic() < self.away_until:
            raise PortError("the cable is out")
        return self

    def read(self) -> bytes:
        if not self.parts:
            self.is_over = True
            time.sleep(0.01)
            return b""
        part = self.parts.pop(0)
        if isinstance(part, Pause):
            time.sleep(part.seconds)
            return b""
        if isinstance(part, float):
            self.away_until = time.monotonic() + part
            raise LineLostError("the cable is out")
        time.sleep(0.002)
        return part

    def overran(self) -> bool:
        return False

    def write(self, data: bytes) -> None:
        """Nobody listens."""

    def close(self) -> None:
        """Nothing to let go of."""


def numbered(first: int, count: int) -> bytes:
    return b"".join(b"n:%d\n" % n for n in range(first, first + count))


@pytest.mark.parametrize(("lines", "every_s", "times"), [(3, 0.1, 22), (1, 2.1, 1)])
def test_the_rate_is_that_of_the_lines(lines: int, every_s: float, times: int) -> None:
    """A sleep may be longer than asked for, never shorter: the rate is hardly ever above this."""
    parts: list[bytes | float | Pause] = [numbered(0, 12)]
    for turn in range(times):
        parts += [Pause(every_s), numbered(12 + turn * lines, lines)]
    line = heard(parts)
    assert 0.6 * lines / every_s < line.rate_hz <= 1.03 * lines / every_s


def test_a_line_that_fell_silent_says_for_how_long() -> None:
    line = heard([part for n in range(8) for part in (numbered(4 * n, 4), Pause(0.05))])
    assert line.silent_s == 0.0
    time.sleep(1.1)
    assert 1.1 <= line.silent_s < 30.0


def heard(parts: Iterable[bytes | float | Pause]) -> LiveLine:
    """A line that has heard all of a script."""
    script = Script(parts)
    place = LinePlace("line", "x", "script", 9_600, False, script.open)
    line = LiveLine(1, place, script)
    line.start()
    wait_for(lambda: script.is_over or line.state == "ended")
    wait_for(lambda: line.shape is not None)
    line.close()
    return line


def rows(first: int, count: int, clock_ms: Callable[[int], int]) -> list[bytes]:
    return [b"t:%d x:%d\r\n" % (clock_ms(n), n) for n in range(first, first + count)]


def test_time_runs_on_through_a_pulled_cable_whatever_the_board_did() -> None:
    for restarts in (False, True):
        line = heard(
            [
                *rows(0, 30, lambda n: 1_000 + 20 * n),
                b"t:1600 x:",
                0.5,
                *rows(31, 30, lambda n, r=restarts: 20 * (n - 31) if r else 1_000 + 20 * n + 500),
            ]
        )
        assert line.ring is not None
        held = line.ring.since(0)
        assert held.values[0].tolist() == [float(n) for n in range(61) if n != 30]
        steps = np.diff(held.time_us)
        assert (steps >= 0).all()
        assert 0.4e6 < steps[29] < 1.2e6, "the gap is as long as the cable was out"
        assert line.counters.lost == 1
        # The half line is kept with its place and counted; it is not passed for a whole one.
        assert [one.text for one in line.lines if one.is_bad] == ["t:1600 x:"]


def test_lines_before_the_shape_was_known_are_not_lost() -> None:
    line = heard([b"hello\r\n", *rows(0, 3, lambda n: 20 * n)])
    assert line.counters.rows == 3
    assert line.counters.text == 1


def test_a_board_that_prints_other_columns_in_the_middle_of_a_read() -> None:
    """It was reset into another program: what came in one piece is two shapes, and none is lost."""
    before = b"".join(b"a:%d b:%d\n" % (n, 2 * n) for n in range(30))
    after = b"".join(b"a:%d b:%d c:%d\n" % (n, n, n) for n in range(60))
    swapped = b"".join(b"%d;%d;%d;%d\n" % (n, n, n, n) for n in range(60))
    line = heard([before, Pause(0.1), before + after + swapped])
    assert line.trouble == ""
    assert line.counters.rows == 2 * 30 + 60 + 60
    assert line.shape is not None
    assert len(line.shape.channels) == 4
    assert line.ring is not None
    assert line.ring.total == 60


def test_a_time_beyond_every_clock_is_a_bad_line_and_no_more() -> None:
    beyond = b"9007199254740000,5\n" * 3 + b"-9007199254740000,5\n"
    line = heard(
        [*rows(0, 20, lambda n: 20 * n), beyond, *rows(20, 20, lambda n: 20 * n)],
    )
    assert line.counters.rows + line.counters.bad == 44
    assert line.counters.rows >= 40
    assert line.ring is not None
    assert (np.diff(line.ring.since(0).time_us) >= 0).all()


def test_a_slip_of_our_own_is_told_and_the_line_goes_on(monkeypatch: pytest.MonkeyPatch) -> None:
    slips = iter([True])

    def slip(self: LiveLine, *words: object) -> None:
        if next(slips, False):
            raise ZeroDivisionError("made to happen")
        keep(self, *words)

    keep = LiveLine._keep
    monkeypatch.setattr(LiveLine, "_keep", slip)
    line = heard([*rows(0, 20, lambda n: 20 * n), Pause(0.3), *rows(20, 40, lambda n: 20 * n)])
    assert line.counters.rows >= 30
    monkeypatch.setattr(LiveLine, "_keep", lambda *_: 1 / 0)
    told = heard([part for n in range(8) for part in (*rows(20 * n, 20, lambda k: k), Pause(0.1))])
    assert told.state == "ended"
    assert "ZeroDivisionError" in told.trouble


def test_lines_that_never_came_are_told_by_the_boards_own_count() -> None:
    def counted(first: int, count: int) -> list[bytes]:
        return [b"seq:%d x:%d\n" % (n % 256, n * 7 % 11) for n in range(first, first + count)]

    whole_line = heard(counted(0, 600))
    assert whole_line.counters.never_came == 0
    torn = heard([*counted(0, 100), *counted(103, 200), *counted(304, 100)])
    assert torn.counters.never_came == 3 + 1


def test_garbage_is_counted_and_kept() -> None:
    line = heard(
        [*rows(0, 20, lambda n: 20 * n), b"\x80\x81\xff\x00\x99\n", *rows(20, 20, lambda n: 20 * n)]
    )
    assert line.counters.rows == 40
    assert line.counters.bad == 1
    assert "not text" in next(one for one in line.lines if one.is_bad).reason


def new_take(session: Session) -> Take:
    plant_demo(session)
    rig = session.scalars(select(Rig)).first()
    assert rig is not None
    take = Take(
        rig_id=rig.id,
        name="live",
        source_name="x",
        sha256="",
        channels=[{"name": "x", "unit": "", "quantity": "number", "sensor_id": None}],
        samples=0,
        bad_lines=0,
        state="open",
    )
    take.air = rig.air
    session.add(take)
    session.commit()
    return take


def block(first: int, count: int) -> Block:
    numbers = np.arange(first, first + count)
    return Block(numbers * 1_000, [numbers.astype(float)], [None], numbers * 1_000 + 7)


def test_a_recorder_writes_every_half_second_and_closes_whole(engine: Engine) -> None:
    with Session(engine) as session:
        take = new_take(session)
        recorder = Recorder(engine, take.id, "live", 0)
        recorder.start()
        recorder.append(block(0, 10))
        recorder.put_aside([(3, "oops", "why")])
        wait_for(lambda: recorder.written_samples == 10)
        recorder.append(block(10, 5))
        recorder.note_gap(9_000, 10_000, "x")
        recorder.stop()
        session.refresh(take)
        assert (take.samples, take.bad_lines, take.state) == (15, 1, "whole")
        assert len(take.gaps) == 1
        (held,) = list(read_blocks(session, take))
        assert held.time_us.tolist() == [1_000 * n for n in range(15)]
        assert held.host_us is not None
        assert held.host_us.tolist() == [1_000 * n + 7 for n in range(15)]


def test_a_write_that_failed_is_written_once(engine: Engine) -> None:
    """Connections are cut under the recorder again and again; all is written, nothing twice."""
    with Session(engine) as session:
        take_id = new_take(session).id
    recorder = Recorder(engine, take_id, "live", 0)
    recorder.start()
    cut = text(
        "SELECT pg_terminate_backend(pid) FROM pg_stat_activity "
        "WHERE datname = current_database() AND pid <> pg_backend_pid()"
    )
    for n in range(40):
        recorder.append(block(100 * n, 100))
        with engine.connect() as connection:
            connection.execute(cut)
        time.sleep(0.07)
    recorder.stop()
    engine.dispose()
    with Session(engine) as session:
        kept = session.get_one(Take, take_id)
        assert kept.state == "whole"
        times = np.concatenate([one.time_us for one in read_blocks(session, kept)])
        assert times.tolist() == [1_000 * n for n in range(4_000)]
        assert kept.samples == 4_000
