"""What serves: the app on its store, behind the web server."""

from __future__ import annotations

from pathlib import Path

import uvicorn
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from tickstone.api.app import make_app
from tickstone.api.guards import LOOPBACK_NAMES
from tickstone.api.routers.watching import MOST_MESSAGE_BYTES
from tickstone.demo.rigs import plant_demo
from tickstone.store.database import connect, migrate


def make_server(url: str, folder: Path, demo: bool, other_names: frozenset[str]) -> uvicorn.Server:
    """A web server for the store at `url`, brought up to date first, and planted when asked to."""
    engine = connect(url)
    migrate(engine)
    if demo:
        with Session(engine) as session:
            plant_demo(session)
    return server_of(engine, folder, other_names)


def server_of(
    engine: Engine, folder: Path, other_names: frozenset[str] = frozenset()
) -> uvicorn.Server:
    """A web server for a store that is up to date. folder: where files on their way in wait."""
    config = uvicorn.Config(
        make_app(engine, folder, LOOPBACK_NAMES | other_names),
        log_level="warning",
        access_log=False,
        ws_max_size=MOST_MESSAGE_BYTES,
        ws_per_message_deflate=False,  # pictures are small and many; the page is next door
        timeout_graceful_shutdown=5,
    )
    return uvicorn.Server(config)
