"""What a board says that it runs: its columns find their sensors, and what is older is told."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from sqlalchemy import Engine, select
from sqlalchemy.orm import Session
from tests.board import wait_for

from tickstone.link.page_port import PageSource
from tickstone.store.models import BoardRuns, Calibration, Rig, utc_now
from tickstone.work.cache import Cache
from tickstone.work.catalogue import catalogue_of
from tickstone.work.deciding.keeping import RULES, in_use_of, keep, use
from tickstone.work.live.desk import LineDesk
from tickstone.work.live.line import LiveLine
from tickstone.work.programs import Wanted, Written, keep_written, write_program
from tickstone.work.running import board_lags, board_program
from tickstone.work.standing import standing_of

LISTEN = Wanted()


@pytest.fixture
def desk(planted_engine: Engine) -> Iterator[LineDesk]:
    desk = LineDesk(planted_engine)
    yield desk
    desk.close_all()


def written(
    session: Session, name: str = "Bramble", wanted: Wanted = LISTEN
) -> tuple[Rig, Written]:
    rig = session.scalars(select(Rig).where(Rig.name == name)).one()
    found = write_program(session, rig, catalogue_of(session), wanted)
    keep_written(session, rig, found)
    session.commit()
    return rig, found


def heard(
    desk: LineDesk, rig_id: int, identity: str, header: str, values: str, kind: str = "listening"
) -> LiveLine:
    """A line that a board of that program prints."""
    source = PageSource()
    line = desk.open_page(rig_id, source, "a board")
    source.feed(f"\r\n# Tick Stone: {kind} program {identity}\r\n{header}\r\n".encode())
    for n in range(12):
        source.feed(f"{n * 50_000},{values}\r\n".encode())
    wait_for(lambda: line.shape is not None and bool(line.sensors))
    return line


def values_of(found: Written) -> str:
    return ",".join("7" for _ in found.plan.columns[1:])


def test_all_channels_are_named_and_assigned_without_a_question(
    planted_engine: Engine, desk: LineDesk
) -> None:
    with Session(planted_engine) as session:
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


def test_without_a_record_the_names_still_tell(planted_engine: Engine, desk: LineDesk) -> None:
    with Session(planted_engine) as session:
        rig, found = written(session)
        line = heard(desk, rig.id, "00000001", found.plan.header, values_of(found))
        assert line.program is not None
        assert line.program.standing == "unknown"
        assert "not in this record" in line.program.says
        for one in found.plan.columns[1:]:
            assert line.sensors[one.name] == int(one.device), one.name


def test_a_board_with_an_older_program_is_told_on_the_line_and_the_stones(
    planted_engine: Engine, desk: LineDesk
) -> None:
    with Session(planted_engine) as session:
        rig, found = written(session)
        sensor = next(one for one in rig.sensors if one.name == "Left ranger")
        next(one for one in sensor.wires if one.lead == "ECHO").to = "D9"
        session.commit()
        line = heard(desk, rig.id, found.program.identity, found.plan.header, values_of(found))
        assert line.program is not None
        assert line.program.standing == "older"
        assert "Left ranger: wired otherwise since" in line.program.says
        standing = standing_of(session, Cache(), rig)
        stones = dict(zip((one.name for one in standing.sensors), standing.stones, strict=True))
        assert any("wired otherwise since" in one.reason for one in stones["Left ranger"])
        assert not any("wired otherwise" in one.reason for one in stones["Nose strip"])


def test_a_program_changed_by_hand_is_said_and_read_as_it_prints(
    planted_engine: Engine, desk: LineDesk
) -> None:
    with Session(planted_engine) as session:
        rig, found = written(session)
        header = found.plan.header.replace("battery[counts]", "battery[counts],mood")
        line = heard(desk, rig.id, found.program.identity, header, values_of(found) + ",3")
        wait_for(lambda: line.program is not None and line.program.standing == "changed")
        assert line.program is not None
        assert "changed by hand" in line.program.says
        runs = session.get(BoardRuns, rig.id)
        assert runs is not None
        assert runs.is_changed


def test_a_program_of_another_rig_is_known_as_such(planted_engine: Engine, desk: LineDesk) -> None:
    with Session(planted_engine) as session:
        _, found = written(session, "Pipit")
        rig = session.scalars(select(Rig).where(Rig.name == "Bramble")).one()
        line = heard(desk, rig.id, found.program.identity, found.plan.header, values_of(found))
        assert line.program is not None
        assert line.program.standing == "other rig"
        assert "Pipit" in line.program.says


def test_a_program_that_converts_is_told_by_what_is_in_use(
    planted_engine: Engine, desk: LineDesk
) -> None:
    with Session(planted_engine) as session:
        rig, found = written(session, wanted=Wanted("convert"))
        identity = found.program.identity
        header = ",".join(one.header for one in found.columns)
        values = ",".join("1" for _ in found.columns[1:])
        line = heard(desk, rig.id, identity, header, values, "converting")
        assert line.program is not None
        assert line.program.standing == "now"
        assert "which fits what is wired and in use now" in line.program.says
        assert {line.sensors[one.name] for one in found.columns[1:]} == {
            int(one.device) for one in found.columns[1:]
        }
        desk.sensors(session, line)
        assert board_lags(session, rig) == {}

        front, left, strip = (
            next(one for one in rig.sensors if one.name == name)
            for name in ("Front ranger", "Left ranger", "Nose strip")
        )
        used = left.in_use[0]
        columns = {
            column.name: getattr(used.calibration, column.name)
            for column in Calibration.__table__.columns
            if column.name != "id"
        }
        again = Calibration(**{**columns, "made_at": utc_now()})
        session.add(again)
        session.flush()
        used.calibration_id = again.id
        session.commit()
        session.refresh(used)
        assert board_lags(session, rig) == {}  # dated otherwise, but the same

        parameters = {name: 1.01 * value for name, value in again.parameters.items()}
        other = Calibration(**{**columns, "parameters": parameters, "made_at": utc_now()})
        session.add(other)
        session.flush()
        used.calibration_id = other.id
        session.commit()
        session.refresh(used)
        lags = board_lags(session, rig)
        assert set(lags) == {left.id}
        assert "Left ranger: it has “" in lags[left.id]
        assert f"in use is that of {utc_now().day} {utc_now():%B}" in lags[left.id]

        rig.temperature_c = (rig.temperature_c or 0.0) + 5.0
        session.commit()
        lags = board_lags(session, rig)
        assert front.id in lags  # the speed of sound is another
        assert strip.id not in lags  # which light does not ask for
        program = board_program(session, rig, "convert", identity)
        assert program.standing == "older"
        assert "Front ranger: set otherwise since, or in other air" in program.says


def test_a_board_that_ran_already_is_asked_and_its_columns_are_named(
    planted_engine: Engine, desk: LineDesk
) -> None:
    with Session(planted_engine) as session:
        rig, found = written(session)
        asked: list[bytes] = []
        source = PageSource(asked.append)
        line = desk.open_page(rig.id, source, "a board")

        def prints(first: int) -> None:
            for n in range(first, first + 12):
                source.feed(f"{n * 50_000},{values_of(found)}\r\n".encode())

        prints(0)
        wait_for(lambda: line.shape is not None)
        assert line.program is None
        line.send("?")
        wait_for(lambda: b"".join(asked) == b"?\n")
        said = (
            f"# Tick Stone: listening program {found.program.identity}\r\n{found.plan.header}\r\n"
        )
        source.feed(said.encode())
        prints(12)
        wait_for(lambda: line.counters.rows == 24)
        assert line.shape is not None
        assert line.program is not None
        assert line.program.standing == "now"
        assert [one.name for one in line.shape.columns] == [one.name for one in found.columns]
        assert [one.quantity for one in line.shape.columns][1:] == [
            one.quantity for one in found.columns
        ][1:]
        assert line.sensors == {one.name: int(one.device) for one in found.columns[1:]}
        assert line.counters.bad == 0


def test_a_program_that_decides_is_told_by_the_rules_in_use(
    planted_engine: Engine, desk: LineDesk
) -> None:
    with Session(planted_engine) as session:
        rig, found = written(session, wanted=Wanted("rules"))
        header = ",".join(one.header for one in found.columns)
        values = ",".join("1" for _ in found.columns[1:])
        line = heard(desk, rig.id, found.program.identity, header, values, "deciding")
        assert line.program is not None
        assert line.program.standing == "now"
        assert "deciding" in line.program.says
        assert "rules_state" not in line.sensors  # of the rig, and of no sensor of it

        rules = in_use_of(session, rig)[RULES]
        looks_at = [int(one) for one in rules.basis["sensors"]]
        keep(session, rig, RULES, "Bolder", rules.document, looks_at, "")
        session.commit()
        program = board_program(session, rig, "rules", found.program.identity)
        assert program.standing == "older"
        today = f"{utc_now().day} {utc_now():%B}"
        assert f"in use is “Bolder” of {today}" in program.says
        assert program.says.count("Rules: it has “Bramble’s rule” of") == 1
        assert set(board_lags(session, rig)) == set(looks_at)
        use(session, rules)
        session.commit()
        assert board_lags(session, rig) == {}
