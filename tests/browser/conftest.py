"""A server with the demo's rigs, and a real browser in front of it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest
from playwright.sync_api import (
    Browser,
    BrowserContext,
    CDPSession,
    Page,
    expect,
    sync_playwright,
)

from tests.conftest import chromium_path
from tests.inner_server import InnerServer
from tests.server import Server

ARGUMENTS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--process-per-site",
]
# How long a busy machine may take. What a test waits for comes at once or never; speed is
# measured elsewhere, so these only say when to give up.
PATIENCE_MS = 60_000
expect.set_options(timeout=PATIENCE_MS)


@pytest.fixture
def server_process(planted_folder: Path) -> Iterator[Server]:
    """As `./demo` starts it, for all that is about ending, losing and starting again."""
    running = Server(planted_folder)
    running.start()
    yield running
    running.stop()


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        chromium = playwright.chromium.launch(executable_path=chromium_path(), args=ARGUMENTS)
        yield chromium
        chromium.close()


@pytest.fixture(scope="session")
def context(browser: Browser) -> Iterator[BrowserContext]:
    """One for all tests, so that scripts and fonts are loaded and compiled once.

    Its first page is empty and stays open, so that the process of this site does.
    """
    shared = browser.new_context(reduced_motion="reduce")
    stays = shared.new_page()
    stays.route("**", lambda route: route.fulfill(body=""))
    stays.goto("http://127.0.0.1/")
    yield shared
    shared.close()


@pytest.fixture(scope="session")
def storage(context: BrowserContext) -> CDPSession:
    """Where the browser itself is told to forget what pages kept."""
    return context.new_cdp_session(context.pages[0])


OpenPage = Callable[..., Page]


@pytest.fixture
def open_page(
    context: BrowserContext, storage: CDPSession, server: InnerServer
) -> Iterator[OpenPage]:
    """Opens pages of the server in this process."""
    with pages_at(context, storage, server.address) as run:
        yield run


@pytest.fixture
def open_page_of_process(
    context: BrowserContext, storage: CDPSession, server_process: Server
) -> Iterator[OpenPage]:
    """Opens pages of the server that is a process of its own."""
    with pages_at(context, storage, server_process.address) as run:
        yield run


@contextmanager
def pages_at(context: BrowserContext, storage: CDPSession, address: str) -> Iterator[OpenPage]:
    """Opens pages that fail the test on any script error or any request that leaves the machine."""
    complaints: list[str] = []

    def run(path: str = "/", width: int = 1280, height: int = 800, dark: bool = False) -> Page:
        page = context.new_page()
        page.set_viewport_size({"width": width, "height": height})
        page.emulate_media(color_scheme="dark" if dark else "light")
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
                if request.url.startswith((address, "blob:", "data:"))
                else complaints.append(f"request left the machine: {request.url}")
            ),
        )
        page.goto(address + path)
        return page

    yield run
    # The next test is another person. Pages are not asked: one that is gone, hangs, or is between
    # two addresses would be waited for without an end.
    for page in context.pages[1:]:
        page.close()
    storage.send("Storage.clearDataForOrigin", {"origin": address, "storageTypes": "local_storage"})
    assert complaints == []
