"""A whole server as `./demo` starts it, and a real browser in front of it."""

from __future__ import annotations

import shutil
import subprocess
import tempfile
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect, sync_playwright

from tests.conftest import chromium_path
from tests.server import Server

ARGUMENTS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]
# How long a busy machine may take. What a test waits for comes at once or never; speed is
# measured elsewhere, so these only say when to give up.
PATIENCE_MS = 60_000
expect.set_options(timeout=PATIENCE_MS)


def fresh_folder() -> Path:
    folder = Path(tempfile.mkdtemp(prefix="tickstone-browser-"))
    folder.chmod(0o755)
    return folder


@pytest.fixture(scope="session")
def planted() -> Iterator[Path]:
    """A data folder as the first start leaves it, made once for all tests."""
    folder = fresh_folder()
    first = Server(folder)
    first.start()
    first.stop()
    yield folder
    shutil.rmtree(folder, ignore_errors=True)


@pytest.fixture
def server(planted: Path) -> Iterator[Server]:
    folder = fresh_folder()
    # PostgreSQL's files belong to another user when we are root, and have to go on doing so.
    subprocess.run(["cp", "-a", f"{planted}/.", folder], check=True)
    running = Server(folder)
    running.start()
    try:
        yield running
    finally:
        running.stop()
        shutil.rmtree(folder, ignore_errors=True)


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        chromium = playwright.chromium.launch(executable_path=chromium_path(), args=ARGUMENTS)
        yield chromium
        chromium.close()


OpenPage = Callable[..., Page]


@pytest.fixture
def open_page(browser: Browser, server: Server) -> Iterator[OpenPage]:
    """Opens pages that fail the test on any script error or any request that leaves the machine."""
    complaints: list[str] = []
    contexts = []

    def run(path: str = "/", width: int = 1280, height: int = 800, dark: bool = False) -> Page:
        context = browser.new_context(
            viewport={"width": width, "height": height},
            color_scheme="dark" if dark else "light",
            reduced_motion="reduce",
        )
        contexts.append(context)
        page = context.new_page()
        page.set_default_timeout(PATIENCE_MS)
        page.on("pageerror", lambda error: complaints.append(f"script error: {error}"))
        page.on(
            "console",
            lambda message: (
                complaints.append(f"console: {message.text}")
                if "Content Security Policy" in message.text
                else None
            ),
        )
        page.on(
            "request",
            lambda request: (
                None
                if request.url.startswith((server.address, "blob:", "data:"))
                else complaints.append(f"request left the machine: {request.url}")
            ),
        )
        page.goto(server.address + path)
        return page

    yield run
    for context in contexts:
        context.close()
    assert complaints == []
