"""What the pages do when the browser itself is in trouble."""

from __future__ import annotations

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import OpenPage


def test_losing_the_network_does_not_stop_the_page(open_page: OpenPage) -> None:
    """At a bench the wireless comes and goes; the server is on this machine all the same."""
    page = open_page("/rigs/2")
    expect(page.get_by_text("Pipit, stone by stone")).to_be_visible()
    page.evaluate("window.dispatchEvent(new Event('offline'))")
    page.locator("#work").get_by_role("link", name="Wiring W").click()
    expect(page.get_by_text("every lead has a place")).to_be_visible()
    page.get_by_role("link", name="Loom").click()
    expect(page.locator(".loom-drawing")).to_be_visible()
    page.get_by_role("link", name="Time budget").click()
    expect(page.get_by_text("Where the time goes")).to_be_visible()


def test_a_layout_that_cannot_load_says_so_and_can_be_tried_again(open_page: OpenPage) -> None:
    page = open_page("/rigs")
    page.route("**/elk-worker*", lambda route: route.abort())
    page.goto(page.url.replace("/rigs", "/rigs/1/wire/loom"))
    expect(page.get_by_role("alert")).to_contain_text("The loom could not be laid out")
    expect(page.get_by_role("heading", name="Bramble, wiring")).to_be_visible()
    page.unroute("**/elk-worker*")
    page.get_by_role("button", name="Try again").click()
    expect(page.locator(".loom-drawing")).to_be_visible()


@pytest.mark.parametrize(
    ("number", "words"),
    [
        ("oak", "There is nothing at this address."),
        ("0", "There is nothing at this address."),
        ("9" * 12, "There is nothing at this address."),
        ("999", "it may have been deleted"),
    ],
)
def test_an_address_of_nothing_says_so_instead_of_waiting(
    open_page: OpenPage, number: str, words: str
) -> None:
    page = open_page("/rigs/1")
    for path in (
        "/rigs/{}",
        "/rigs/{}/wire/plan",
        "/rigs/{}/sheet",
        "/rigs/{}/line",
        "/rigs/{}/recordings",
        "/rigs/1/recordings/{}",
        "/sensors/{}/heard",
    ):
        page.goto(page.url.split("/rigs")[0].split("/sensors")[0] + path.format(number))
        expect(page.get_by_role("main"), path).to_contain_text(words)
