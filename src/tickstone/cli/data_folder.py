"""``tickstone data-folder``: where things are kept."""

from __future__ import annotations

import os
from pathlib import Path

import typer

from tickstone.store.cluster import Cluster


def usual_data_folder() -> Path:
    """Where data is kept when nothing else is said."""
    if os.geteuid() == 0:
        return Path("/var/lib/tickstone")
    home = os.environ.get("XDG_DATA_HOME") or str(Path.home() / ".local" / "share")
    return Path(home) / "tickstone"


def private_cluster(folder: Path) -> Cluster:
    """The PostgreSQL cluster inside a data folder."""
    return Cluster(folder / "postgresql")


def print_data_folder() -> None:
    """Print where data is kept when nothing else is said."""
    typer.echo(usual_data_folder())
