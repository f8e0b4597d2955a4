"""Which ports there are, and who has one open."""

from __future__ import annotations

import contextlib
import os
import tempfile
from dataclasses import dataclass
from pathlib import Path

from serial.tools import list_ports

from tickstone.link.board import BOARDS

NAMELESS = "Built-in port"
"""What a port is called that says nothing of what it is; those of USB say."""


@dataclass(frozen=True, slots=True)
class Port:
    """A port and what is known of it.

    path: what to open. is_stand_in: a stand-in board. held_by: the program that has it open, "".
    """

    path: str
    label: str
    detail: str
    is_stand_in: bool
    speed: int | None
    held_by: str


def stand_in_folder() -> Path:
    """Where stand-in boards of this user put their links."""
    return Path(tempfile.gettempdir()) / f"tickstone-boards-{os.getuid()}"


def board_name(link: str) -> str:
    """The stand-in board behind a link's name: what stands before the first hyphen."""
    return link.split("-")[0]


def list_all_ports() -> list[Port]:
    """Real ports first, those that most likely are boards ahead of the rest; then stand-ins."""
    real = [
        Port(
            path=info.device,
            label=next((w for w in (info.product, info.description) if w and w != "n/a"), NAMELESS),
            detail=", ".join(
                part
                for part in (
                    info.device,
                    info.manufacturer or "",
                    f"serial number {info.serial_number}" if info.serial_number else "",
                )
                if part and part != "n/a"
            ),
            is_stand_in=False,
            speed=None,
            held_by=held_by(info.device),
        )
        for info in list_ports.comports()
        if info.vid is not None or _is_there(info.device)
    ]
    return sorted(real, key=lambda port: port.label == NAMELESS) + _stand_ins()


def _is_there(device: str) -> bool:
    """Whether a built-in port has hardware behind it: most machines list dozens that have none."""
    kind = Path("/sys/class/tty") / Path(device).name / "type"
    try:
        return kind.read_text().strip() != "0"
    except OSError:
        return True


def _stand_ins() -> list[Port]:
    ports = []
    with contextlib.suppress(OSError):
        if stand_in_folder().stat().st_uid != os.getuid():
            return []  # somebody else made a folder of that name: nothing in it is ours
        for link in sorted(stand_in_folder().iterdir()):
            if link.name.startswith(".") or not link.is_symlink() or not link.exists():
                continue
            board = BOARDS.get(board_name(link.name))
            ports.append(
                Port(
                    path=str(link),
                    label=f"Stand-in board: {board.label if board else link.name}",
                    detail=str(link),
                    is_stand_in=True,
                    speed=board.speed if board else None,
                    held_by=held_by(str(link)),
                )
            )
    return ports


def held_by(path: str) -> str:
    """The other program that has a port open, as far as this user may see, or ""."""
    try:
        target = os.path.realpath(path)
        for process in Path("/proc").iterdir():
            if not process.name.isdigit() or int(process.name) == os.getpid():
                continue
            with contextlib.suppress(OSError):
                for handle in (process / "fd").iterdir():
                    if str(handle.readlink()) == target:
                        name = (process / "comm").read_text().strip()
                        return f"{name} (process {process.name})"
    except OSError:
        return ""
    return ""
