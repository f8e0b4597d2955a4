"""``tickstone tune``: what to decide and to steer by."""

from __future__ import annotations

import typer

from tickstone.cli.tune_pid import tune_pid
from tickstone.cli.tune_stop import tune_stop
from tickstone.cli.tune_threshold import tune_threshold

app = typer.Typer(no_args_is_help=True, help="Choose what to decide and to steer by.")


@app.callback()
def tune() -> None:
    """Choose what to decide and to steer by."""


app.command("threshold")(tune_threshold)
app.command("stop")(tune_stop)
app.command("pid")(tune_pid)
