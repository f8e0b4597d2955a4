"""``tickstone convert …``: raw readings, one or a whole log of them, into quantities."""

from __future__ import annotations

from typing import Any

import typer
from typer.core import TyperGroup

from tickstone.cli.convert_file import convert_file
from tickstone.cli.convert_reading import reading_command
from tickstone.core.chains import CHAINS

_WHOLE_LOG = "file"


class _ReadingOrFile(TyperGroup):
    """The first word is a kind of sensor, or else a file."""

    def parse_args(self, ctx: Any, args: list[str]) -> list[str]:
        if args and args[0] not in (*self.commands, "--help"):
            args = [_WHOLE_LOG, *args]
        return super().parse_args(ctx, args)


app: Any = typer.Typer(
    cls=_ReadingOrFile,
    help="Turn one raw reading, or with a file a whole log of them, into quantities.",
    no_args_is_help=True,
)
for _kind in CHAINS.values():
    app.command(_kind.name)(reading_command(_kind))
app.command(_WHOLE_LOG)(convert_file)
