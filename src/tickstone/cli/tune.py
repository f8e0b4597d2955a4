"""``tickstone tune``: what to decide by, from a log."""

from __future__ import annotations

import typer

from tickstone.cli.tune_threshold import tune_threshold

app = typer.Typer(no_args_is_help=True, help="Choose what to decide by, from a log.")


@app.callback()
def tune() -> None:
    """Choose what to decide by, from a log."""


app.command("threshold")(tune_threshold)
