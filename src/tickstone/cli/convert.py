"""``tickstone convert …``: raw readings, one or a whole log of them, into quantities."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import typer
from typer.core import TyperGroup

from tickstone.cli.convert_accel import convert_accel
from tickstone.cli.convert_file import convert_file
from tickstone.cli.convert_reading import reading_command
from tickstone.core.chains import CHAINS
from tickstone.core.readings import BESIDE_KINDS

_WHOLE_LOG = "file"
_ACCEL = "accel"


def _first_words() -> tuple[str, ...]:
    """What stands for a command; all else is a file."""
    return (*CHAINS, _ACCEL, *BESIDE_KINDS, _WHOLE_LOG)


class _ReadingOrFile(TyperGroup):
    """The first word is a kind of sensor, or else a file."""

    def list_commands(self, ctx: Any) -> list[str]:
        return list(_first_words())

    def get_command(self, ctx: Any, cmd_name: str) -> Any:
        if cmd_name == _WHOLE_LOG:
            return _alone(cmd_name, convert_file)
        if cmd_name == _ACCEL:
            return _alone(cmd_name, convert_accel)
        if cmd_name in BESIDE_KINDS:
            asked = BESIDE_KINDS[cmd_name]
            return _alone(cmd_name, reading_command(CHAINS[asked.kind], asked))
        kind = CHAINS.get(cmd_name)
        return None if kind is None else _alone(cmd_name, reading_command(kind))

    def parse_args(self, ctx: Any, args: list[str]) -> list[str]:
        if args and args[0] not in (*_first_words(), "--help"):
            args = [_WHOLE_LOG, *args]
        return super().parse_args(ctx, args)


def _alone(word: str, command: Callable[..., None]) -> Any:
    made = typer.Typer(add_completion=False)
    made.command(word)(command)
    return typer.main.get_command(made)


app: Any = typer.Typer(
    cls=_ReadingOrFile,
    help="Turn one raw reading, or with a file a whole log of them, into quantities.",
    no_args_is_help=True,
)
app.callback()(lambda: None)
