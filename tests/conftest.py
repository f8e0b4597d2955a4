"""What the tests share: a private PostgreSQL cluster, a fresh database each, a client, a server."""

from __future__ import annotations

import faulthandler
import os
import shutil
import socket
import subprocess
import tempfile
import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

import pytest
from _pytest.faulthandler import fault_handler_stderr_fd_key
from hypothesis import settings
from sqlalchemy import Engine, create_engine, make_url, text
from sqlalchemy.orm import Session

from tickstone.cli.listener import listen
from tickstone.demo.rigs import plant_demo
from tickstone.store.cluster import Cluster
from tickstone.store.database import connect, migrate

if TYPE_CHECKING:
    from tests.inner_server import InnerServer

# In CI the examples are the same at every run; anywhere else each run tries others. A failure
# prints the line that brings its example back.
IS_CI = bool(os.environ.get("CI"))
settings.register_profile("tickstone", deadline=None, print_blob=True, derandomize=IS_CI)
settings.load_profile("tickstone")


# Nothing takes a third of this.
PATIENCE_S = 600.0


@pytest.hookimpl(wrapper=True)
def pytest_runtest_setup(item: pytest.Item) -> Iterator[None]:
    yield from _watched(item)


@pytest.hookimpl(wrapper=True)
def pytest_runtest_call(item: pytest.Item) -> Iterator[None]:
    yield from _watched(item)


@pytest.hookimpl(wrapper=True)
def pytest_runtest_teardown(item: pytest.Item) -> Iterator[None]:
    yield from _watched(item)


def _watched(item: pytest.Item) -> Iterator[None]:
    """What hangs ends the run, and the traces of all threads say where.

    pytest's own watch is over as soon as something failed, and what is put away then may hang.
    """
    to = item.config.stash[fault_handler_stderr_fd_key]
    faulthandler.dump_traceback_later(PATIENCE_S, exit=True, file=to)
    try:
        yield
    finally:
        faulthandler.cancel_dump_traceback_later()


@contextmanager
def open_folder() -> Iterator[Path]:
    """A folder that PostgreSQL's user can reach when we are root; gone afterwards."""
    folder = Path(tempfile.mkdtemp(prefix="tickstone-test-"))
    folder.chmod(0o755)
    try:
        yield folder
    finally:
        shutil.rmtree(folder, ignore_errors=True)


@pytest.fixture
def folder() -> Iterator[Path]:
    """A folder for a server of one's own."""
    with open_folder() as path:
        yield path


@pytest.fixture(scope="session")
def template_folder() -> Iterator[Path]:
    """A server's data folder as its first start leaves it: the demo planted, nothing running."""
    from tests.server import Server

    with open_folder() as path:
        first = Server(path / "data")
        first.start()
        first.stop()
        yield path / "data"


@pytest.fixture
def planted_folder(template_folder: Path) -> Iterator[Path]:
    """A copy of that for a server of one's own, in a third of the time."""
    with open_folder() as path:
        subprocess.run(["cp", "-a", template_folder, path / "data"], check=True)
        yield path / "data"


@pytest.fixture(scope="session")
def cluster_url() -> Iterator[str]:
    """A cluster of its own on loopback, gone after the run."""
    with open_folder() as folder:
        yield from _cluster_in(folder)


@pytest.fixture(scope="session")
def listener() -> Iterator[socket.socket]:
    """Where the servers of this process listen, one after the other."""
    with listen(0) as listener:
        listener.listen()
        yield listener


@pytest.fixture
def server(
    planted_engine: Engine, tmp_path: Path, listener: socket.socket
) -> Iterator[InnerServer]:
    """The whole server in this process, on a fresh database with the demo's rigs."""
    from tests.inner_server import InnerServer  # most tests need none of what it loads

    running = InnerServer(planted_engine, tmp_path, listener)
    running.start()
    yield running
    running.stop()


def _cluster_in(folder: Path) -> Iterator[str]:
    cluster = Cluster(folder / "postgresql")
    try:
        url = cluster.start()
        # Power cuts are not what is tried on this one; those tests bring a cluster of their own.
        _execute(url, "ALTER SYSTEM SET fsync = off", "SELECT pg_reload_conf()")
        yield url
    finally:
        cluster.stop(immediate=True)


@pytest.fixture(scope="session")
def template(cluster_url: str) -> str:
    """A migrated database that others are copied from."""
    name = "migrated"
    _execute(cluster_url, f"CREATE DATABASE {name}")
    engine = connect(_address(cluster_url, name))
    migrate(engine)
    engine.dispose()
    return name


@pytest.fixture(scope="session")
def planted_template(cluster_url: str, template: str) -> str:
    """The same with the demo's rigs, as the first start leaves it."""
    name = "planted"
    _execute(cluster_url, f"CREATE DATABASE {name} TEMPLATE {template}")
    engine = connect(_address(cluster_url, name))
    with Session(engine) as session:
        plant_demo(session)
    engine.dispose()
    return name


@pytest.fixture
def database_url(cluster_url: str, template: str) -> Iterator[str]:
    """A fresh, migrated, empty database."""
    with _copy_of(cluster_url, template) as url:
        yield url


@pytest.fixture
def engine(database_url: str) -> Iterator[Engine]:
    engine = connect(database_url)
    yield engine
    engine.dispose()


@pytest.fixture
def planted_engine(cluster_url: str, planted_template: str) -> Iterator[Engine]:
    """On a fresh database with the demo's rigs."""
    with copied_engine(cluster_url, planted_template) as engine:
        yield engine


@contextmanager
def copied_engine(cluster_url: str, template: str) -> Iterator[Engine]:
    """On a copy of a database."""
    with _copy_of(cluster_url, template) as url:
        engine = connect(url)
        yield engine
        engine.dispose()


@contextmanager
def _copy_of(cluster_url: str, template: str) -> Iterator[str]:
    name = f"test_{uuid.uuid4().hex[:12]}"
    _execute(cluster_url, f"CREATE DATABASE {name} TEMPLATE {template}")
    yield _address(cluster_url, name)
    _execute(cluster_url, f"DROP DATABASE {name} WITH (FORCE)")


def _address(cluster_url: str, database: str) -> str:
    return make_url(cluster_url).set(database=database).render_as_string(hide_password=False)


def _execute(url: str, *statements: str) -> None:
    admin = create_engine(url, isolation_level="AUTOCOMMIT")
    with admin.connect() as connection:
        for statement in statements:
            connection.execute(text(statement))
    admin.dispose()


def chromium_path() -> str:
    """Debian's own Chromium, the one that has no windows and no time to lose on them."""
    return os.environ.get("TICKSTONE_CHROMIUM", "/usr/bin/chromium-headless-shell")
