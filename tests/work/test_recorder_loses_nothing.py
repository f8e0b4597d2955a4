"""Commit, lost answer, cut wire, database away, in any order: each sample, line and gap once."""

from __future__ import annotations

import gc
from collections.abc import Iterator
from typing import ClassVar

import numpy as np
import pytest
from hypothesis import Phase, settings
from hypothesis import strategies as st
from hypothesis.stateful import (
    RuleBasedStateMachine,
    invariant,
    precondition,
    rule,
    run_state_machine_as_test,
)
from sqlalchemy import Engine, make_url
from sqlalchemy.orm import Session
from tests.fragile_wire import FragileWire

from tickstone.core.air.conditions import AirConditions
from tickstone.core.blocks import Block
from tickstone.store.database import connect
from tickstone.store.models import Rig, Take
from tickstone.store.takes import read_bad_lines, read_blocks
from tickstone.work.live.recorder import Recorder


class RecorderModel(RuleBasedStateMachine):
    """A recorder on a wire to its database that breaks; beside it, plain counts of what it got."""

    sound: ClassVar[Engine]
    fragile: ClassVar[Engine]
    wire: ClassVar[FragileWire]

    def __init__(self) -> None:
        super().__init__()
        self.wire.cut, self.wire.is_away = "", False
        with Session(self.sound) as session:
            rig = Rig(name="rig", description="", board="")
            rig.air = AirConditions(20.0)
            session.add(rig)
            session.flush()
            take = Take(
                rig_id=rig.id, name="live", source_name="x", sha256="", samples=0, bad_lines=0,
                channels=[{"name": "x", "unit": "", "quantity": "number", "sensor_id": None}],
                state="open",
            )  # fmt: skip
            take.air = rig.air
            session.add(take)
            session.commit()
            self.take_id = take.id
        self.recorder = Recorder(self.fragile, self.take_id, "live", 0)
        self.samples = self.lines = self.gaps = 0

    @rule(count=st.integers(1, 900))
    def samples_arrive(self, count: int) -> None:
        numbers = np.arange(self.samples, self.samples + count)
        self.recorder.append(Block(numbers * 1_000, [numbers.astype(float)], [None], numbers))
        self.samples += count

    @rule(count=st.integers(1, 30))
    def lines_do_not_fit(self, count: int) -> None:
        self.recorder.put_aside(
            [(self.lines + n, f"line {self.lines + n}", "odd") for n in range(count)]
        )
        self.lines += count

    @rule()
    def the_cable_is_pulled(self) -> None:
        self.recorder.note_gap(self.gaps, self.gaps + 1, "the line was gone")
        self.gaps += 1

    @rule(cut=st.sampled_from(["before the commit", "before its answer", "after its answer"]))
    def the_next_commit_will_break_it(self, cut: str) -> None:
        self.wire.cut = cut

    @rule()
    def the_wire_breaks(self) -> None:
        self.wire.drop()

    @rule()
    def the_database_goes(self) -> None:
        self.wire.is_away = True

    @precondition(lambda self: self.wire.is_away)
    @rule()
    def the_database_comes_back(self) -> None:
        self.wire.is_away = False

    @rule()
    def it_writes(self) -> None:
        wrote = self.recorder.write()
        assert wrote == (self.recorder.trouble == "")

    @invariant()
    def nothing_is_there_twice(self) -> None:
        with Session(self.sound) as session:
            take = session.get_one(Take, self.take_id)
            assert take.samples <= self.samples
            assert take.bad_lines <= self.lines
            assert len(take.gaps) <= self.gaps

    def teardown(self) -> None:
        self.wire.cut, self.wire.is_away = "", False
        assert any(self.recorder.write(is_last=True) for _ in range(3))
        with Session(self.sound) as session:
            take = session.get_one(Take, self.take_id)
            assert take.state == "whole"
            assert [gap["from_us"] for gap in take.gaps] == list(range(self.gaps))
            held = [block.time_us for block in read_blocks(session, take)]
            times = np.concatenate(held) if held else np.empty(0)
            assert times.tolist() == [1_000 * n for n in range(self.samples)]
            assert take.samples == self.samples
            lines = list(read_bad_lines(session, take.id, 0, 10_000))
            assert [number for number, *_ in lines] == list(range(self.lines))
            assert take.bad_lines == self.lines


@pytest.fixture
def wire(engine: Engine) -> Iterator[FragileWire]:
    port = make_url(engine.url).port
    assert port is not None
    wire = FragileWire(port)
    yield wire
    wire.close()


def run_model(engine: Engine, wire: FragileWire, examples: int) -> None:
    RecorderModel.sound, RecorderModel.wire = engine, wire
    url = engine.url.set(port=wire.port).render_as_string(hide_password=False)
    RecorderModel.fragile = connect(url)
    try:
        run_state_machine_as_test(
            RecorderModel,
            # To look for a shorter way to a failure takes minutes; this one can be repeated.
            settings=settings(
                max_examples=examples,
                stateful_step_count=25,
                phases=[Phase.explicit, Phase.reuse, Phase.generate],
            ),
        )
    finally:
        RecorderModel.fragile.dispose()
        gc.collect()


def test_each_sample_is_written_once_whatever_happens(engine: Engine, wire: FragileWire) -> None:
    run_model(engine, wire, 40)
