"""``tickstone serve``: store, migrations, server."""

from __future__ import annotations

import fcntl
import gc
import signal
import sys
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import IO, Annotated
from urllib.parse import urlsplit

import typer

from tickstone.cli.data_folder import private_cluster, usual_data_folder
from tickstone.cli.listener import listen
from tickstone.store.cluster import ClusterError
from tickstone.store.keeper import Keeper


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
    gc.disable()  # much is loaded now, all of it to stay: nothing to collect
    folder = (data or usual_data_folder()).absolute()
    cluster = None if database_url else private_cluster(folder)
    try:
        folder.mkdir(parents=True, exist_ok=True)
        lock = _only_server_of(folder)
        listener = listen(port)
        # The database starts while what serves is loaded: either takes about a second.
        with ThreadPoolExecutor(1) as beside:
            starting = beside.submit(cluster.start) if cluster else None
            from tickstone.cli.serving import make_server

            url = database_url or (starting.result() if starting else "")
    except (ClusterError, OSError) as error:
        typer.echo(f"Tick Stone could not start: {error}", err=True)
        raise typer.Exit(1) from error
    # The web server hands a SIGTERM on when it is done; as an exit it lets the database be stopped.
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    keeper = None
    if cluster is not None:
        keeper = Keeper(cluster, urlsplit(url).port or 0)
        keeper.start()
    try:
        server = make_server(url, folder, demo, frozenset(also_known_as or ()))
        typer.echo(f"Tick Stone is at http://127.0.0.1:{port}  (data in {folder}; Ctrl-C stops)")
        # To walk through what was loaded again and again would hold up open lines.
        gc.freeze()
        gc.enable()
        server.run(sockets=[listener])
    finally:
        if keeper is not None:
            keeper.stop()
        if cluster is not None:
            cluster.stop()
        lock.close()


def _only_server_of(folder: Path) -> IO[str]:
    """A lock on the data folder, held until the server ends, however it ends.

    Raises OSError when another server holds it: its database must not be stopped under it.
    """
    lock = (folder / "server.lock").open("a+")
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError as error:
        lock.close()
        raise OSError(
            f"another Tick Stone already serves {folder}. Stop it first, or choose another folder "
            "with --data."
        ) from error
    return lock
