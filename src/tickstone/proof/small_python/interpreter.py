"""Runs a program of small Python by its own interpreter, built for the web and run by Node."""

from __future__ import annotations

import json
import shutil
import subprocess
from collections.abc import Mapping
from dataclasses import dataclass
from importlib import resources
from pathlib import Path
from typing import Any

import tickstone

_MODULE = "@micropython/micropython-webassembly-pyscript/micropython.mjs"
RUNS_WITHIN_S = 120.0


@dataclass(frozen=True, slots=True)
class Ran:
    """What a program did. written: registers of units, as (address, register, value)."""

    lines: tuple[str, ...]
    written: tuple[tuple[int, int, int], ...]


def _module() -> Path:
    return Path(tickstone.__file__).parents[2] / "web" / "node_modules" / _MODULE


def missing() -> tuple[str, ...]:
    """What this machine lacks for the proof; nothing when it can be run."""
    lacking = []
    if shutil.which("node") is None:
        lacking.append("Node")
    if not _module().exists():
        lacking.append("the small interpreter’s build for the web (npm, with the page’s packages)")
    return tuple(lacking)


def run(program: str, told: Mapping[str, Any]) -> Ran:
    """Run a program in a world; see board.py. Raises RuntimeError with what went wrong."""
    here = resources.files(__package__)
    given = {
        "module": str(_module()),
        "board": here.joinpath("board.py").read_text(encoding="utf-8"),
        "program": program,
        "told": told,
    }
    with resources.as_file(here / "run.mjs") as runner:
        done = subprocess.run(
            ["node", str(runner)],
            input=json.dumps(given),
            capture_output=True,
            text=True,
            check=False,
            timeout=RUNS_WITHIN_S,
        )
    if done.returncode != 0:
        raise RuntimeError(f"the small interpreter ended with: {done.stderr[-1_500:]}")
    *lines, last = done.stdout.splitlines()
    written = json.loads(last.removeprefix("written "))
    return Ran(tuple(lines), tuple((int(a), int(r), int(v)) for a, r, v in written))
