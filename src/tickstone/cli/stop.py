"""``tickstone stop``: let go of a data folder whose server was killed."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from tickstone.cli.data_folder import private_cluster, usual_data_folder


def stop(
    data: Annotated[Path | None, typer.Option(help="The data folder.")] = None,
) -> None:
    """Stop the private PostgreSQL of a data folder, should it still run."""
    private_cluster((data or usual_data_folder()).absolute()).stop()
