"""What the long trials share: a rack of twelve channels recorded, and counted against its board."""

from __future__ import annotations

import re
import shutil
import tempfile
import urllib.request
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt
from tests.server import Server, ask

from tickstone.formats.takes import read_take_file

RIG = 1
LINE = f"/api/rigs/{RIG}/line"
_NEVER_CAME = re.compile(r"(\d+) lines? never came")


@dataclass(frozen=True, slots=True)
class Recorded:
    """What a recording holds of what the board sent.

    lost: samples that are missing and of which it says nothing. said: those it says never came.
    """

    seconds: float
    samples: int
    lost: int
    said: int
    bad_lines: int
    rate_hz: float

    def __str__(self) -> str:
        return (
            f"12 channels at 1 kHz for {self.seconds:.0f} s: {self.samples} samples "
            f"({self.rate_hz:.1f} a second), {self.lost} lost, {self.said} said to be missing, "
            f"{self.bad_lines} bad lines"
        )


@contextmanager
def rack(server: Server) -> Iterator[None]:
    """The rack of twelve channels at 1 kHz, listened to."""
    board = ask(server, "/api/boards/twelve", {"seed": 3})
    ask(server, LINE, {"path": board["path"], "speed": board["speed"]})
    try:
        yield
    finally:
        ask(server, LINE, method="DELETE")
        ask(server, "/api/boards/twelve", method="DELETE")


def record(server: Server, meanwhile: Callable[[], object]) -> Recorded:
    """Record while something is done, and count."""
    ask(server, f"{LINE}/record", {"name": "trial"})
    meanwhile()
    take = ask(server, f"{LINE}/stop", {})
    steps = np.diff(counts_of(server, take["id"]))
    said = said_missing(take)
    lost = int((steps - 1).sum()) - said
    return Recorded(
        take["duration_s"], take["samples"], lost, said, take["bad_lines"], take["rate_hz"]
    )


def counts_of(server: Server, take_id: int) -> npt.NDArray[np.float64]:
    """The board's own count of its lines, as the recording holds it."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder, "take.parquet")
        address = f"{server.address}/api/takes/{take_id}/file?format=parquet"
        with urllib.request.urlopen(address, timeout=600) as answer, path.open("wb") as file:
            shutil.copyfileobj(answer, file)
        blocks = list(read_take_file(path).blocks)
    return np.concatenate([np.asarray(block.values[0], np.float64) for block in blocks])


def said_missing(take: dict[str, Any]) -> int:
    """How many lines the recording itself says never came."""
    found = (_NEVER_CAME.match(gap["why"]) for gap in take["gaps"])
    return sum(int(one[1]) for one in found if one)
