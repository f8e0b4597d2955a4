"""``tickstone board``: the stand-in board."""

from __future__ import annotations

import os
import signal
import sys
from pathlib import Path
from typing import Annotated

import typer

from tickstone.link.board import BOARDS
from tickstone.link.board.line import BoardLine
from tickstone.link.ports import stand_in_folder


def board(
    rig: Annotated[str, typer.Argument(help=f"Which board: {', '.join(BOARDS)}.")] = "bramble",
    seed: Annotated[
        int, typer.Option(help="Decides all noise; the same seed, the same lines.")
    ] = 1,
    link: Annotated[
        Path | None,
        typer.Option(help="Path to open; the board’s name in a folder Tick Stone lists."),
    ] = None,
    to_screen: Annotated[
        int, typer.Option(help="Print this many lines at once instead of opening a terminal.")
    ] = 0,
    until_parent_ends: Annotated[
        bool, typer.Option(help="End when the process that started it does.", hidden=True)
    ] = False,
) -> None:
    """Talk like a real board over a pseudo-terminal, until Ctrl-C.

    Commands sent to it: `target 0.6`, `pitch 6`, `spin 2`, `light 80`, `fault stuck on`, `reset`.
    """
    if rig not in BOARDS:
        typer.echo(f"There is no board “{rig}”; there are {', '.join(BOARDS)}.", err=True)
        raise typer.Exit(2)
    firmware = BOARDS[rig](seed)
    if to_screen:
        lines = firmware.banner()
        while len(lines) < to_screen:
            lines += firmware.tick()
        sys.stdout.write("\n".join(lines[:to_screen]) + "\n")
        return
    path = link or stand_in_folder() / rig
    path.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
    if path.is_symlink() and path.exists():
        typer.echo(f"{path} is open already: another stand-in board? Give --link.", err=True)
        raise typer.Exit(1)
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    typer.echo(f"{firmware.label}: {path} at {firmware.speed} baud (process {os.getpid()})")
    sys.stdout.flush()
    try:
        parent = os.getppid()
        line = BoardLine(firmware, path)
        line.run(lambda: not until_parent_ends or os.getppid() == parent)
    except KeyboardInterrupt:
        typer.echo("")


if __name__ == "__main__":
    typer.run(board)
