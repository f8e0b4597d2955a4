"""A database of its own for a benchmark, gone afterwards."""

from __future__ import annotations

import shutil
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from sqlalchemy import Engine

from tickstone.store.cluster import Cluster
from tickstone.store.database import connect, migrate


@contextmanager
def own_database() -> Iterator[tuple[Engine, Path]]:
    """An empty database with its tables, and the folder it lives in."""
    folder = Path(tempfile.mkdtemp(prefix="tickstone-bench-"))
    folder.chmod(0o755)
    cluster = Cluster(folder / "postgresql")
    try:
        engine = connect(cluster.start())
        migrate(engine)
        yield engine, folder
        engine.dispose()
    finally:
        cluster.stop(immediate=True)
        shutil.rmtree(folder, ignore_errors=True)
