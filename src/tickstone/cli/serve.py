"""``tickstone serve``: store, migrations, server."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer
import uvicorn
from sqlalchemy.orm import Session

from tickstone.api.app import LOOPBACK_NAMES, make_app
from tickstone.cli.data_folder import private_cluster, usual_data_folder
from tickstone.demo.bramble import plant_bramble
from tickstone.store.cluster import ClusterError
from tickstone.store.database import connect, migrate


def serve(
    port: Annotated[int, typer.Option(min=1, max=65535, help="Port on 127.0.0.1.")] = 8040,
    data: Annotated[Path | None, typer.Option(help="Folder for everything that is kept.")] = None,
    demo: Annotated[bool, typer.Option(help="Plant the demo rig in an empty store.")] = False,
    database_url: Annotated[
        str | None,
        typer.Option(
            envvar="TICKSTONE_DATABASE_URL",
            help="A PostgreSQL of your own instead of the private one in the data folder.",
        ),
    ] = None,
    also_known_as: Annotated[
        list[str] | None,
        typer.Option(help="Another host name to answer to, for a page behind a proxy."),
    ] = None,
) -> None:
    """Serve Tick Stone on this machine, with a private PostgreSQL in the data folder."""
    folder = (data or usual_data_folder()).absolute()
    cluster = None if database_url else private_cluster(folder)
    try:
        folder.mkdir(parents=True, exist_ok=True)
        url = database_url or (cluster.start() if cluster else "")
    except (ClusterError, OSError) as error:
        typer.echo(f"Tick Stone could not start its store: {error}", err=True)
        raise typer.Exit(1) from error
    try:
        engine = connect(url)
        migrate(engine)
        if demo:
            with Session(engine) as session:
                plant_bramble(session)
        app = make_app(engine, folder, LOOPBACK_NAMES | frozenset(also_known_as or ()))
        typer.echo(f"Tick Stone is at http://127.0.0.1:{port}  (data in {folder}; Ctrl-C stops)")
        uvicorn.run(app, host="127.0.0.1", port=port, log_level="warning", access_log=False)
    finally:
        if cluster is not None:
            cluster.stop()
