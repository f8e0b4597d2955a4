"""``tickstone check wiring`` and ``tickstone parts`` as a script runs them."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from typer.testing import CliRunner

from tickstone.cli.main import app
from tickstone.core.part_benches import PART_BENCHES
from tickstone.core.wiring.proposal import mended
from tickstone.demo.wirings import wiring_text
from tickstone.formats.family_file import shipped_boards, shipped_devices
from tickstone.formats.wiring_file import read_wiring, wiring_document

RUNNER = CliRunner()
BOARDS, DEVICES = shipped_boards(), shipped_devices()


@pytest.fixture
def pipit(tmp_path: Path) -> Path:
    file = tmp_path / "pipit.json"
    file.write_text(wiring_text("pipit"), encoding="utf-8")
    return file


def test_an_error_ends_with_1_and_says_all_about_it(pipit: Path) -> None:
    outcome = RUNNER.invoke(app, ["check", "wiring", str(pipit), "--json"])
    assert outcome.exit_code == 1
    (error, note) = json.loads(outcome.stdout)["findings"]
    said = {"id", "severity", "happens", "where", "message", "why", "numbers", "source"}
    assert set(error) == said | {"repair", "remedies", "buy"}
    assert error["remedies"][0] == error["repair"]
    assert error["happens"] == "destroys"
    assert error["why"]
    assert error["id"] == "output-too-high"
    assert error["severity"] == "error"
    assert error["where"] == "Side ranger ECHO → GP3"
    assert error["repair"].startswith("Put 1.8 kΩ over 3.3 kΩ on Side ranger ECHO")
    assert {"name": "pin bears", "value": 3.6, "unit": "V"} in error["numbers"]
    assert note["severity"] == "note"


def test_a_sound_wiring_ends_with_0(pipit: Path) -> None:
    wiring = mended(read_wiring(pipit.read_text(encoding="utf-8"), BOARDS, DEVICES))
    document = wiring_document(wiring, "Pipit", frozenset([*BOARDS, *DEVICES]))
    pipit.write_text(json.dumps(document), encoding="utf-8")
    outcome = RUNNER.invoke(app, ["check", "wiring", str(pipit), "--json"])
    assert outcome.exit_code == 0
    assert json.loads(outcome.stdout) == {"findings": []}
    assert "nothing found" in RUNNER.invoke(app, ["check", "wiring", str(pipit)]).stdout


def test_text_says_the_same(pipit: Path) -> None:
    outcome = RUNNER.invoke(app, ["check", "wiring", str(pipit)])
    assert outcome.exit_code == 1
    assert "error: Side ranger ECHO puts 5 V on GP3" in outcome.stdout
    assert "do: Put 1.8 kΩ over 3.3 kΩ" in outcome.stdout


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (None, "No such file"),
        ("{", "invalid JSON"),
        ('{"board": "nope"}', "no board family “nope”"),
        ("\x00\xff", "control character U+0000 on line 1"),
    ],
)
def test_bad_input_ends_with_2_and_a_clear_line(
    tmp_path: Path, content: str | None, words: str
) -> None:
    file = tmp_path / "x.json"
    if content is not None:
        file.write_text(content, encoding="utf-8")
    outcome = RUNNER.invoke(app, ["check", "wiring", str(file), "--json"])
    assert outcome.exit_code == 2
    assert words in outcome.stderr
    assert outcome.stdout == ""


def test_parts_led_resistor() -> None:
    outcome = RUNNER.invoke(
        app, ["parts", "led-resistor", "--supply-v", "5", "--current-ma", "15", "--json"]
    )
    assert outcome.exit_code == 0
    answer = json.loads(outcome.stdout)
    assert answer["results"]["resistor"]["value"] == 220.0
    assert answer["bands"] == ["red", "red", "brown", "gold"]
    assert answer["working"][0]["formula"] == "R = (V_s − V_f)/I"


@pytest.mark.parametrize("name", sorted(PART_BENCHES))
def test_every_parts_command_runs_and_explains_itself(name: str) -> None:
    assert RUNNER.invoke(app, ["parts", name, "--help"]).exit_code == 0
    as_text = RUNNER.invoke(app, ["parts", name])
    assert as_text.exit_code == ("\nerror: " in as_text.stdout)
    assert "=" in as_text.stdout
    assert json.loads(RUNNER.invoke(app, ["parts", name, "--json"]).stdout)["kind"] == name


def test_a_bad_part_ends_with_2() -> None:
    outcome = RUNNER.invoke(app, ["parts", "colour-bands", "--bands", "red gold red"])
    assert outcome.exit_code == 2
    assert "band 2 is gold" in outcome.stderr
