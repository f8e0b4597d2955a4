"""How a command ends that cannot do what it was told."""

from __future__ import annotations

from typing import NoReturn

import typer


def fail(text: str) -> NoReturn:
    """Say what is wrong, and end with code 2."""
    typer.echo(text, err=True)
    raise typer.Exit(2)
