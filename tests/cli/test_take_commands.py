"""``tickstone inspect``, ``import``, ``export``, ``formats`` and ``listen``."""

from __future__ import annotations

import json
import subprocess
import sys
import uuid
from pathlib import Path

import pytest
from pyarrow import parquet
from sqlalchemy import Engine
from tests.board import BoardProcess
from typer.testing import CliRunner, Result

from tickstone.cli.main import app

RUNNER = CliRunner()
LOG = "t_ms,front_us,temp [C]\n" + "".join(f"{40 * n},{5831 + n},20.5\n" for n in range(100))


def tickstone(*words: object, url: str = "") -> Result:
    more = ["--database-url", url] if url else []
    return RUNNER.invoke(app, [*map(str, words), *more])


def test_inspect_says_what_a_file_holds(tmp_path: Path) -> None:
    path = tmp_path / "walk.csv"
    path.write_text(LOG + "oops,1\n")
    done = tickstone("inspect", path, "--json")
    assert done.exit_code == 0, done.stderr
    assert json.loads(done.stdout) == {
        "format": "csv",
        "columns": [
            {"name": "front", "unit": "µs", "guess": "echo time"},
            {"name": "temp", "unit": "°C", "guess": "temperature"},
        ],
        "rows": 100,
        "bad_rows": 1,
        "time": {"column": "t", "unit": "ms", "rate_hz": 25.0},
    }
    assert "100 rows, 1 bad" in tickstone("inspect", path).stdout


@pytest.mark.parametrize("data", [b"", b"\0\0", b"no numbers\n"])
def test_inspect_refuses_with_a_sentence(tmp_path: Path, data: bytes) -> None:
    path = tmp_path / "x"
    path.write_bytes(data)
    done = tickstone("inspect", path, "--json")
    assert done.exit_code == 2
    assert done.stdout == ""
    assert len(done.stderr) > 20
    assert "Traceback" not in done.stderr


def test_import_and_export(planted_engine: Engine, tmp_path: Path) -> None:
    database_url = str(planted_engine.url.render_as_string(hide_password=False))
    path = tmp_path / "walk.csv"
    path.write_text(LOG)
    done = tickstone("import", path, "--rig", "bramble", url=database_url)
    assert done.exit_code == 0, done.stderr
    assert "100 samples" in done.stdout
    out = tmp_path / "out.parquet"
    done = tickstone("export", "walk", "--format", "parquet", "--out", out, url=database_url)
    assert done.exit_code == 0, done.stderr
    assert parquet.read_table(out).num_rows == 100
    done = tickstone("export", "walk", "--out", tmp_path / "back.csv", url=database_url)
    assert (tmp_path / "back.csv").read_text().splitlines()[1] == "0,5831,20.5"
    assert (
        json.loads((tmp_path / "back.meta.json").read_text())["channels"][0]["sensor"]
        == "Front ranger"
    )
    rig = tmp_path / "rig.zip"
    assert (
        tickstone("export", "Bramble", "--format", "zip", "--out", rig, url=database_url).exit_code
        == 0
    )
    assert "Bramble (2)" in tickstone("import", rig, url=database_url).stdout
    for words in (
        ("import", path, "--rig", "nobody"),
        ("export", "nothing", "--out", tmp_path / "x.csv"),
        ("export", "walk", "--format", "xls"),
        ("export", "walk", "--format", "vcd", "--out", tmp_path / "x.vcd"),
    ):
        done = tickstone(*words, url=database_url)
        assert done.exit_code == 2, words
        assert "Traceback" not in done.stderr
    assert not (tmp_path / "x.vcd").exists()


def test_formats_are_listed() -> None:
    assert {one["name"] for one in json.loads(tickstone("formats", "--json").stdout)} == {
        "csv", "jsonl", "parquet", "vcd", "mcap", "wav",
    }  # fmt: skip


def test_listen_writes_what_a_board_says(tmp_path: Path) -> None:
    board = BoardProcess("pipit", tmp_path / f"pipit-{uuid.uuid4().hex[:6]}")
    try:
        out = tmp_path / "heard.csv"
        words = ["listen", board.link, "--out", out, "--speed", 115200, "--seconds", 4]
        program = [sys.executable, "-m", "tickstone.cli.main", *map(str, words)]
        done = subprocess.run(program, capture_output=True, text=True, check=False, timeout=60)
        assert done.returncode == 0, done.stderr
        found = json.loads(tickstone("inspect", out, "--json").stdout)
        assert [c["name"] for c in found["columns"]] == ["side", "hall", "gap", "ax", "ay", "az"]
        assert found["rows"] > 100
        assert found["time"]["rate_hz"] == pytest.approx(50, rel=0.02)
        assert tickstone("listen", tmp_path / "none", "--out", out, "--speed", 9600).exit_code == 2
        assert tickstone("listen", board.link, "--out", tmp_path / "x.doc").exit_code == 2
    finally:
        board.stop()
