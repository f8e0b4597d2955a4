"""The store for a single command: a server's own while it runs, else started for the moment."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import typer
from sqlalchemy import Engine

from tickstone.cli.data_folder import private_cluster, usual_data_folder
from tickstone.store.cluster import ClusterError
from tickstone.store.database import connect, migrate


@contextmanager
def open_store(data: Path | None, database_url: str | None) -> Iterator[Engine]:
    """A migrated store. Exits with a sentence when there is none and none can be made."""
    folder = (data or usual_data_folder()).absolute()
    cluster = None if database_url else private_cluster(folder)
    was_running = cluster is not None and cluster.is_running
    try:
        folder.mkdir(parents=True, exist_ok=True)
        url = database_url or (cluster.start() if cluster else "")
    except (ClusterError, OSError) as error:
        typer.echo(f"The store in {folder} cannot be opened: {error}", err=True)
        raise typer.Exit(1) from error
    engine = connect(url)
    try:
        migrate(engine)
        yield engine
    finally:
        engine.dispose()
        if cluster is not None and not was_running:
            cluster.stop()
