"""Every command can be reached, and none is loaded for another's sake."""

from __future__ import annotations

import subprocess
import sys

import pytest
from typer.testing import CliRunner

from tickstone.cli.main import COMMANDS, app

RUNNER = CliRunner()


@pytest.mark.parametrize("word", COMMANDS)
def test_every_command_says_what_it_is_for(word: str) -> None:
    told = RUNNER.invoke(app, [word, "--help"], env={"COLUMNS": "200"})
    assert told.exit_code == 0, told.output
    assert f"tickstone {word}" in told.output
    # The list says the same, though it reads it from the source and loads nothing.
    listed = RUNNER.invoke(app, ["--help"], env={"COLUMNS": "200"})
    (line,) = [one for one in listed.output.splitlines() if one.startswith(f"│ {word} ")]
    said = line.strip("│ ").removeprefix(word).strip()
    assert said
    assert said in told.output


def test_the_list_of_commands_loads_none() -> None:
    program = (
        "import sys; from tickstone.cli.main import app; app(['--help'], standalone_mode=False); "
        "sys.exit('numpy' in sys.modules or 'pydantic' in sys.modules)"
    )
    done = subprocess.run([sys.executable, "-c", program], capture_output=True, text=True)
    assert done.returncode == 0, done.stderr
    assert "data-folder" in done.stdout


def test_a_word_that_is_no_command_is_refused() -> None:
    told = RUNNER.invoke(app, ["lisen"])
    assert told.exit_code == 2
    assert "lisen" in told.output


@pytest.mark.parametrize(
    "unneeded", ["fastapi", "sqlalchemy", "scipy.signal", "scipy.stats", "serial"]
)
def test_a_sum_is_worked_out_without_loading_the_server(unneeded: str) -> None:
    program = (
        "import sys; from tickstone.cli.main import app; "
        "app(['convert', 'echo', '--us', '5831'], standalone_mode=False); "
        f"sys.exit({unneeded!r} in sys.modules)"
    )
    done = subprocess.run([sys.executable, "-c", program], capture_output=True, text=True)
    assert done.returncode == 0, done.stderr
    assert "1.003 m" in done.stdout
