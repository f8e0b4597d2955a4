"""``tickstone program`` and ``tickstone constants``: files whole, or none."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from sqlalchemy import Engine
from sqlalchemy.orm import Session
from typer.testing import CliRunner

from tickstone.cli.main import app
from tickstone.demo.rigs import plant_demo
from tickstone.demo.wirings import wiring_text


def run(*words: str) -> tuple[int, str]:
    done = CliRunner().invoke(app, list(words))
    return done.exit_code, done.output


def test_a_wiring_alone_becomes_a_program(tmp_path: Path) -> None:
    wiring = tmp_path / "cart.json"
    wiring.write_text(wiring_text("bramble"), encoding="utf-8")
    code, said = run("program", str(wiring), "--out", str(tmp_path / "fw"))
    assert code == 0, said
    assert "19 columns" in said
    (file,) = (tmp_path / "fw").rglob("*.*")
    assert file.name == "cart_listen.ino"


@pytest.mark.parametrize(
    ("words", "says"),
    [
        (("--target", "python"), "does not run"),
        (("--kind", "dance"), "There is no kind"),
        (("--kind", "convert"), "has no calibrations"),
        (("--rate-hz", "0"), "outside"),
    ],
)
def test_nothing_is_written_when_anything_cannot_be(
    tmp_path: Path, words: tuple[str, str], says: str
) -> None:
    wiring = tmp_path / "cart.json"
    wiring.write_text(wiring_text("bramble"), encoding="utf-8")
    code, said = run("program", str(wiring), "--out", str(tmp_path / "fw"), *words)
    assert code == 2
    assert says in said
    assert not (tmp_path / "fw").exists()


def test_a_rig_of_the_record_becomes_a_program_and_constants(
    engine: Engine, tmp_path: Path
) -> None:
    with Session(engine) as session:
        plant_demo(session)
        session.commit()
    here = ("--database-url", engine.url.render_as_string(hide_password=False))
    code, said = run("program", "Bramble", "--kind", "convert", "--out", str(tmp_path), *here)
    assert code == 0, said
    assert sorted(one.name for one in tmp_path.rglob("*.*")) == ["bramble_convert.ino", "sums.h"]
    code, said = run("program", "Bramble", "--kind", "rules", "--out", str(tmp_path / "r"), *here)
    assert code == 0, said
    (rules,) = (tmp_path / "r").rglob("*.ino")
    assert "enter_rules" in rules.read_text(encoding="utf-8")
    code, said = run("program", "Pipit", "--kind", "rules", "--out", str(tmp_path / "p"), *here)
    assert code == 2
    assert "nothing is decided" in said
    assert not (tmp_path / "p").exists()
    code, said = run("constants", "Bramble", *here)
    document = json.loads(said)
    assert code == 0
    assert document["format"] == "tickstone-constants"
    assert len(document["identity"]) == 8
    code, said = run("constants", "Bramble", "--format", "cpp", *here)
    assert "LEFT_RANGER_CALIBRATION_SCALE" in said
    assert run("constants", "Nobody", *here)[0] == 2
    assert run("constants", "Bramble", "--format", "xml", *here)[0] == 2


def test_a_program_is_looked_over(engine: Engine, tmp_path: Path) -> None:
    with Session(engine) as session:
        plant_demo(session)
        session.commit()
    here = ("--database-url", engine.url.render_as_string(hide_password=False))
    file = tmp_path / "mine.ino"
    file.write_text("void loop() { pinMode(51, OUTPUT); }\n", encoding="utf-8")
    code, said = run("check", "program", str(file))
    assert code == 0
    assert "Nothing was found." in said
    assert "the rig’s pins is not known" in said
    code, said = run("check", "program", str(file), "--rig", "Bramble", "--json", *here)
    document = json.loads(said)
    assert code == 1
    assert [one["id"] for one in document["findings"]] == ["other-pin"]
    assert run("check", "program", str(file), "--rig", "Nobody", *here)[0] == 2


@pytest.mark.parametrize(
    ("content", "says"),
    [(None, "No such file"), (b"", "empty"), (b"\0\1", "compiled"), (b"x" * 10**7, "long")],
)
def test_what_is_no_program_is_said(tmp_path: Path, content: bytes | None, says: str) -> None:
    file = tmp_path / "mine.ino"
    if content is not None:
        file.write_bytes(content)
    code, said = run("check", "program", str(file))
    assert code == 2
    assert says in said
