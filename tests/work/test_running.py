"""What a board says that it runs: its columns find their sensors, and what is older is told."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from sqlalchemy import Engine, select
from sqlalchemy.orm import Session
from tests.board import wait_for

from tickstone.demo.rigs import plant_demo
from tickstone.link.page_port import PageSource
from tickstone.store.models import BoardRuns, Rig
from tickstone.work.cache import Cache
from tickstone.work.catalogue import catalogue_of
from tickstone.work.live.desk import LineDesk
from tickstone.work.live.line import LiveLine
from tickstone.work.programs import Wanted, Written, keep_written, write_program
from tickstone.work.standing import standing_of


@pytest.fixture
def desk(engine: Engine) -> Iterator[LineDesk]:
    with Session(engine) as session:
        plant_demo(session)
    desk = LineDesk(engine)
    yield desk
    desk.close_all()


def written(session: Session, name: str = "Bramble") -> tuple[Rig, Written]:
    rig = session.scalars(select(Rig).where(Rig.name == name)).one()
    found = write_program(session, rig, catalogue_of(session), Wanted())
    keep_written(session, rig, found)
    session.commit()
    return rig, found


def heard(desk: LineDesk, rig_id: int, identity: str, header: str, values: str) -> LiveLine:
    """A line that a board of that program prints."""
    source = PageSource()
    line = desk.open_page(rig_id, source, "a board")
    source.feed(f"\r\n# Tick Stone: listening program {identity}\r\n{header}\r\n".encode())
    for n in range(12):
        source.feed(f"{n * 50_000},{values}\r\n".encode())
    wait_for(lambda: line.shape is not None and bool(line.sensors))
    return line


def values_of(found: Written) -> str:
    return ",".join("7" for _ in found.plan.columns[1:])


def test_all_channels_are_named_and_assigned_without_a_question(
    engine: Engine, desk: LineDesk
) -> None:
    with Session(engine) as session:
        rig, found = written(session)
        line = heard(desk, rig.id, found.program.identity, found.plan.header, values_of(found))
        assert line.program is not None
        assert line.program.standing == "now"
        assert line.shape is not None
        columns = [line.shape.columns[n] for n in line.shape.channels]
        assert {one.name for one in columns} == {one.name for one in found.plan.columns[1:]}
        told = {one.name: one for one in found.plan.columns}
        for one in columns:
            assert line.sensors[one.name] == int(told[one.name].device)
            assert one.quantity == told[one.name].quantity
        chained = {sensor.sensor_id for sensor in desk.sensors(session, line).values()}
        assert chained == {int(one.device) for one in found.plan.readings}


def test_without_a_record_the_names_still_tell(engine: Engine, desk: LineDesk) -> None:
    with Session(engine) as session:
        rig, found = written(session)
        line = heard(desk, rig.id, "00000001", found.plan.header, values_of(found))
        assert line.program is not None
        assert line.program.standing == "unknown"
        assert "not in this record" in line.program.says
        for one in found.plan.columns[1:]:
            assert line.sensors[one.name] == int(one.device), one.name


def test_a_board_with_an_older_program_is_told_on_the_line_and_the_stones(
    engine: Engine, desk: LineDesk
) -> None:
    with Session(engine) as session:
        rig, found = written(session)
        sensor = next(one for one in rig.sensors if one.name == "Left ranger")
        next(one for one in sensor.wires if one.lead == "ECHO").to = "D9"
        session.commit()
        line = heard(desk, rig.id, found.program.identity, found.plan.header, values_of(found))
        assert line.program is not None
        assert line.program.standing == "older"
        assert "Left ranger is wired otherwise since" in line.program.says
        standing = standing_of(session, Cache(), rig)
        stones = dict(zip((one.name for one in standing.sensors), standing.stones, strict=True))
        assert any("wired otherwise since" in one.reason for one in stones["Left ranger"])
        assert not any("wired otherwise" in one.reason for one in stones["Nose strip"])


def test_a_program_changed_by_hand_is_said_and_read_as_it_prints(
    engine: Engine, desk: LineDesk
) -> None:
    with Session(engine) as session:
        rig, found = written(session)
        header = found.plan.header.replace("battery[counts]", "battery[counts],mood")
        line = heard(desk, rig.id, found.program.identity, header, values_of(found) + ",3")
        wait_for(lambda: line.program is not None and line.program.standing == "changed")
        assert line.program is not None
        assert "changed by hand" in line.program.says
        runs = session.get(BoardRuns, rig.id)
        assert runs is not None
        assert runs.is_changed


def test_a_program_of_another_rig_is_known_as_such(engine: Engine, desk: LineDesk) -> None:
    with Session(engine) as session:
        _, found = written(session, "Pipit")
        rig = session.scalars(select(Rig).where(Rig.name == "Bramble")).one()
        line = heard(desk, rig.id, found.program.identity, found.plan.header, values_of(found))
        assert line.program is not None
        assert line.program.standing == "other rig"
        assert "Pipit" in line.program.says
