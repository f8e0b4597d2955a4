"""``tickstone serve``: store, migrations, server."""

from __future__ import annotations

import fcntl
import gc
import signal
import socket
import sys
from pathlib import Path
from typing import IO, Annotated

import typer
import uvicorn
from sqlalchemy import make_url
from sqlalchemy.orm import Session

from tickstone.api.app import LOOPBACK_NAMES, make_app
from tickstone.api.routers.watching import MOST_MESSAGE_BYTES
from tickstone.cli.data_folder import private_cluster, usual_data_folder
from tickstone.demo.rigs import plant_demo
from tickstone.store.cluster import ClusterError
from tickstone.store.database import connect, migrate
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
    folder = (data or usual_data_folder()).absolute()
    cluster = None if database_url else private_cluster(folder)
    try:
        folder.mkdir(parents=True, exist_ok=True)
        lock = _only_server_of(folder)
        listener = _listen(port)
        url = database_url or (cluster.start() if cluster else "")
    except (ClusterError, OSError) as error:
        typer.echo(f"Tick Stone could not start: {error}", err=True)
        raise typer.Exit(1) from error
    # The web server hands a SIGTERM on when it is done; as an exit it lets the database be stopped.
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    keeper = None
    if cluster is not None:
        keeper = Keeper(cluster, make_url(url).port or 0)
        keeper.start()
    try:
        engine = connect(url)
        migrate(engine)
        if demo:
            with Session(engine) as session:
                plant_demo(session)
        app = make_app(engine, folder, LOOPBACK_NAMES | frozenset(also_known_as or ()))
        typer.echo(f"Tick Stone is at http://127.0.0.1:{port}  (data in {folder}; Ctrl-C stops)")
        config = uvicorn.Config(
            app,
            log_level="warning",
            access_log=False,
            ws_max_size=MOST_MESSAGE_BYTES,
            ws_per_message_deflate=False,  # pictures are small and many; the page is next door
            timeout_graceful_shutdown=5,
        )
        # What was loaded stays: to walk through it again and again would hold up open lines.
        gc.collect()
        gc.freeze()
        uvicorn.Server(config).run(sockets=[listener])
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


def _listen(port: int) -> socket.socket:
    """The listening socket, taken before all else. Raises OSError that says what to do."""
    listener = socket.socket()
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listener.bind(("127.0.0.1", port))
    except OSError as error:
        listener.close()
        raise OSError(f"port {port} is taken. Choose another with --port.") from error
    return listener
