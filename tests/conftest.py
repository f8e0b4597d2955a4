"""What the tests share: a private PostgreSQL cluster, a fresh database each, a client, a server."""

from __future__ import annotations

import os
import shutil
import tempfile
import uuid
from collections.abc import Iterator
from pathlib import Path

import pytest
from hypothesis import settings
from sqlalchemy import Engine, create_engine, make_url, text

from tickstone.store.cluster import Cluster
from tickstone.store.database import connect, migrate

settings.register_profile("tickstone", deadline=None, print_blob=True, derandomize=True)
settings.load_profile("tickstone")


@pytest.fixture(scope="session")
def cluster_url() -> Iterator[str]:
    """A cluster of its own on loopback, gone after the run."""
    folder = Path(tempfile.mkdtemp(prefix="tickstone-test-"))
    folder.chmod(0o755)
    cluster = Cluster(folder / "postgresql")
    try:
        yield cluster.start()
    finally:
        cluster.stop(immediate=True)
        shutil.rmtree(folder, ignore_errors=True)


@pytest.fixture(scope="session")
def template(cluster_url: str) -> str:
    """A migrated database that others are copied from."""
    name = "migrated"
    _execute(cluster_url, f"CREATE DATABASE {name}")
    engine = connect(_address(cluster_url, name))
    migrate(engine)
    engine.dispose()
    return name


@pytest.fixture
def database_url(cluster_url: str, template: str) -> Iterator[str]:
    """A fresh, migrated, empty database."""
    name = f"test_{uuid.uuid4().hex[:12]}"
    _execute(cluster_url, f"CREATE DATABASE {name} TEMPLATE {template}")
    yield _address(cluster_url, name)
    _execute(cluster_url, f"DROP DATABASE {name} WITH (FORCE)")


@pytest.fixture
def engine(database_url: str) -> Iterator[Engine]:
    engine = connect(database_url)
    yield engine
    engine.dispose()


def _address(cluster_url: str, database: str) -> str:
    return make_url(cluster_url).set(database=database).render_as_string(hide_password=False)


def _execute(url: str, statement: str) -> None:
    admin = create_engine(url, isolation_level="AUTOCOMMIT")
    with admin.connect() as connection:
        connection.execute(text(statement))
    admin.dispose()


def chromium_path() -> str:
    """Debian's own Chromium."""
    return os.environ.get("TICKSTONE_CHROMIUM", "/usr/bin/chromium")
