"""Programs of the demo rigs as they are calibrated: run, and held to the chains of the record."""

from __future__ import annotations

import math
from collections.abc import Iterator
from pathlib import Path

import pytest
from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from tickstone.core.emit.deciding import FromSum
from tickstone.lookover.checks import look_over
from tickstone.lookover.reading import read_program
from tickstone.proof.agreement import lines_for, made_up
from tickstone.proof.eight_bit.chip import build
from tickstone.proof.eight_bit.listening import listen_on_chip
from tickstone.proof.heard import Heard
from tickstone.proof.rules import replayed
from tickstone.proof.small_python.listening import listen_on_interpreter
from tickstone.proof.stepped import Row, stepped_here
from tickstone.store.models import Program, Rig
from tickstone.work.catalogue import catalogue_of
from tickstone.work.looking_over import rig_facts
from tickstone.work.programs import KINDS, Wanted, Written, keep_written, write_program
from tickstone.work.proving import prove


@pytest.fixture
def session(planted_engine: Engine) -> Iterator[Session]:
    with Session(planted_engine) as session:
        yield session


def written(session: Session, name: str, wanted: Wanted) -> Written:
    rig = session.scalars(select(Rig).where(Rig.name == name)).one()
    return write_program(session, rig, catalogue_of(session), wanted)


def heard_by(found: Written, told: dict[str, list[float]], lines: int, folder: Path) -> Heard:
    if found.target.name == "cpp":
        for one in found.beside:
            (folder / Path(one.path).name).write_text(one.text, encoding="utf-8")
        return listen_on_chip(build(found.program.text, folder), found.plan, told, lines)
    sums = found.beside[0].text
    program = f"""import sys
class Sums: pass
_made = {{}}
exec({sums!r}, _made)
_sums = Sums()
for _name in _made:
    setattr(_sums, _name, _made[_name])
sys.modules["sums"] = _sums
{found.program.text}"""
    return listen_on_interpreter(program, found.plan, told, lines)


@pytest.mark.parametrize("rig", ["Bramble", "Pipit"])
def test_a_program_that_converts_tells_what_the_chains_tell(
    session: Session, rig: str, tmp_path: Path
) -> None:
    found = written(session, rig, Wanted("convert"))
    assert found.summed is not None
    lines = lines_for(found.plan) + 10
    told = made_up(found.plan, lines, seed=4)
    heard = heard_by(found, told, lines, tmp_path)
    assert list(heard.columns) == [one.name for one in found.columns]
    compared = 0
    for one in found.summed.summings:
        names = [name for entry in one.routine.entries for name in entry.names]
        # A thermometer says nothing before its first conversion, a gap before two pulses.
        way = next(r.way for r in found.plan.readings if r.device == one.device)
        first = {"one_wire": 25, "edges": 6}.get(way, 0)
        rows = [
            Row(
                round(heard.column("t")[n] or 0.0),
                {
                    name: fed.scale * told[fed.column][n] if fed.column else math.nan
                    for name, fed in zip(names, one.fed, strict=True)
                },
            )
            for n in range(lines)
        ]
        due = stepped_here(one.routine, rows, is_single=False)
        for place, column in enumerate(one.columns()):
            said = heard.column(column.name)[first:]
            for n, (got, want, status) in enumerate(
                zip(said, due.values[first:], due.statuses[first:], strict=True)
            ):
                lane = want[place]
                if status[place] != 0 or math.isnan(lane):
                    assert got is None, (column.name, n)
                    continue
                assert got is not None, (column.name, n)
                # An echo is timed in steps of the counter.
                assert got == pytest.approx(lane, abs=0.006, rel=2e-3), (column.name, n)
                compared += 1
    assert compared > 10


def test_a_program_that_decides_is_in_the_states_of_a_replay(
    session: Session, tmp_path: Path
) -> None:
    """The whole program: what its sensors are told goes through its chains into its rules."""
    found = written(session, "Bramble", Wanted("rules"))
    assert found.summed is not None
    assert found.decided is not None
    deciding = found.decided.decidings[0]
    machine = deciding.machine
    assert machine is not None
    lines = 60
    told = made_up(found.plan, lines, seed=11)
    for line in range(lines):
        # Clear ahead and level for a while, then something near: something has to be decided.
        told["front_ranger"][line] = 9_000.0 if line % 30 < 20 else 1_500.0
        for axis, counts in zip("xyz", (0.0, 0.0, 16_384.0), strict=True):
            told[f"deck_level_a{axis}"][line] = counts
    heard = heard_by(found, told, lines, tmp_path)
    times = [round(heard.column("t")[n] or 0.0) for n in range(lines)]
    by_name = {}
    for one in found.summed.summings:
        names = [name for entry in one.routine.entries for name in entry.names]
        rows = [
            Row(times[n], {
                name: fed.scale * told[fed.column][n] if fed.column else math.nan
                for name, fed in zip(names, one.fed, strict=True)
            })
            for n in range(lines)
        ]  # fmt: skip
        stepped = stepped_here(one.routine, rows, is_single=True)
        kept = [name for each in one.routine.told for name in each.values]
        for place, name in enumerate(kept):
            by_name[one.routine.name, name] = [
                (values[place], statuses[place])
                for values, statuses in zip(stepped.values, stepped.statuses, strict=True)
            ]
    rows = []
    for n in range(lines):
        given = {}
        for entry, fed in zip(deciding.routine.entries, deciding.fed, strict=True):
            assert isinstance(fed, FromSum)
            value, status = by_name[fed.routine, fed.value][n]
            given[f"{entry.role}_in"], given[f"{entry.role}_in_status"] = value, status
        rows.append(Row(times[n], given))
    said = [int(one or 0.0) for one in heard.column(deciding.column.name)]
    assert said == replayed(machine, rows)
    assert {machine.states[one].name for one in said} > {"stopped", "drive"}


def test_what_was_written_is_kept_once_and_never_changed(session: Session) -> None:
    rig = session.scalars(select(Rig).where(Rig.name == "Bramble")).one()
    found = written(session, "Bramble", Wanted())
    first = keep_written(session, rig, found)
    assert keep_written(session, rig, found).id == first.id
    assert session.scalars(select(Program)).all() == [first]


@pytest.mark.parametrize("is_whole", [False, True])
@pytest.mark.parametrize(
    ("rig", "kind"),
    [*(("Bramble", kind) for kind in KINDS), ("Pipit", "listen"), ("Pipit", "convert")],
)
def test_a_program_is_proven_where_the_tools_are(
    session: Session, rig: str, kind: str, is_whole: bool
) -> None:
    if kind == "listen" and is_whole:
        return  # what listens works nothing out
    proof = prove(written(session, rig, Wanted(kind, is_whole=is_whole)))
    assert proof.missing == ()
    assert proof.differs == ()
    assert proof.told > 40


@pytest.mark.parametrize(
    ("wanted", "says"),
    [
        (Wanted(target="cobol"), "there is no “cobol”"),
        (Wanted(target="small-python"), "does not run Small Python"),
        (Wanted(kind="dance"), "there is no “dance”"),
        (Wanted(rate_hz=0.0), "outside"),
    ],
)
def test_what_cannot_be_written_says_why(session: Session, wanted: Wanted, says: str) -> None:
    with pytest.raises(ValueError, match=says):
        written(session, "Bramble", wanted)


@pytest.mark.parametrize("kind", ["convert", "rules"])
@pytest.mark.parametrize("is_whole", [False, True])
def test_what_is_written_passes_its_own_second_look(
    session: Session, kind: str, is_whole: bool
) -> None:
    rig = session.scalars(select(Rig).where(Rig.name == "Bramble")).one()
    facts = rig_facts(session, rig, catalogue_of(session))
    found = written(session, "Bramble", Wanted(kind, is_whole=is_whole))
    for one in (found.program, *found.beside):
        seen = look_over(read_program(one.text, one.path), facts)
        assert [(each.line, each.code, each.message) for each in seen.findings] == []
