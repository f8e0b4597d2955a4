"""What every kind shares knows none of them by name."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]
SRC = ROOT / "src/tickstone"
WEB = ROOT / "web/src"
KIND = re.compile(r"\b((?<!typer\.)echo(es)?|rangers?|distances?|rpm|tilt|magnets?)\b", re.I)

SHARED = [
    *(SRC / f"core/{name}.py" for name in ("chain", "signal", "step", "thin", "doubt", "inputs")),
    SRC / "core/calibration/kind.py",
    SRC / "core/rules/kind.py",
    SRC / "core/readings/reading.py",
    *(SRC / "store").glob("*.py"),
    *(SRC / f"work/{name}.py" for name in ("look", "results", "sources", "sensing", "fitting")),
    *(
        SRC / f"api/schemas/{name}.py"
        for name in ("bench", "look", "mark", "calibration", "rule", "sensor", "recording", "take")
    ),
    *(SRC / f"cli/{name}.py" for name in ("convert", "convert_reading", "log_inputs", "options")),
    *sorted((WEB / "plot").rglob("*.ts*")),
    *sorted((WEB / "files").rglob("*.ts*")),
    *(
        one
        for one in sorted((WEB / "bench").rglob("*.ts*"))
        if one.parent.name not in ("wired", "pictures")
    ),
    WEB / "bench/pictures/Picture.tsx",
]


def spoken(path: Path) -> list[str]:
    """Lines that are the program: no examples, which have to be of something."""
    lines = path.read_text(encoding="utf-8").splitlines()
    return [line for line in lines if ">>>" not in line and "example" not in line.lower()]


@pytest.mark.parametrize("path", SHARED, ids=lambda path: str(path.relative_to(ROOT)))
def test_no_kind_is_named(path: Path) -> None:
    found = [line.strip() for line in spoken(path) if KIND.search(line)]
    assert found == []
