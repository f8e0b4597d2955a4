"""Deck level in the browser: held hands free, kept, decided on; filters side by side."""

from __future__ import annotations

import re
from typing import Any

from playwright.sync_api import Page, expect

from tests.browser.conftest import OpenPage
from tests.browser.test_screens import look_at_it_every_way
from tickstone.demo.logs import DECK_FACES, log_path


def deck(page: Page) -> None:
    expect(page.get_by_role("heading", name="Deck level")).to_be_visible()


def held_long_at_first(times: int) -> bytes:
    """The log of the faces, with the first second and a half of it so many times over."""
    header, *rows = log_path(DECK_FACES).read_text().splitlines()
    split = [row.split(",", 1) for row in rows]
    first, later = split[:75], split[75:]
    again_us = int(split[75][0]) - int(split[0][0])
    spread = [[str(int(t) + n * again_us), rest] for n in range(times) for t, rest in first]
    spread += [[str(int(t) + (times - 1) * again_us), rest] for t, rest in later]
    return "\n".join([header, *(",".join(row) for row in spread)]).encode()


def play(page: Page, name: str, pace: float) -> None:
    """A recording of the rig as if a board printed it now."""
    origin = page.url.split("/sensors")[0]
    take = next(one["id"] for one in takes_of(page) if one["name"] == name)
    played = page.request.post(
        f"{origin}/api/rigs/1/line/replay",
        data={"take_id": take, "pace": pace},
        headers={"Origin": origin},
    )
    assert played.status == 201, played.text()


def takes_of(page: Page) -> list[dict[str, Any]]:
    origin = page.url.split("/sensors")[0]
    takes: list[dict[str, Any]] = page.request.get(f"{origin}/api/rigs/1/takes").json()
    return takes


def close_the_line(page: Page) -> None:
    origin = page.url.split("/sensors")[0]
    page.request.delete(f"{origin}/api/rigs/1/line", headers={"Origin": origin})


def bring_in_faces(page: Page, times: int = 1) -> None:
    page.keyboard.press("i")
    log = {"name": "faces.csv", "mimeType": "text/csv", "buffer": held_long_at_first(times)}
    page.get_by_label("Log file").set_input_files(log)
    page.get_by_label("Name of the recording").fill("seven stands")
    page.get_by_role("button", name="Bring it in").click()
    expect(page).to_have_url(re.compile("recording="))
    # At once the one that came, not for a moment another.
    expect(page.get_by_label("Recording").locator("option:checked")).to_contain_text("seven stands")
    expect(page.get_by_text(re.compile(r"\d.\d{3} readings"))).to_be_visible()


def test_faces_in_a_log_are_found_marked_and_kept(open_page: OpenPage) -> None:
    page = open_page("/sensors/5/heard")
    deck(page)
    expect(
        page.get_by_role("img", name=re.compile("From behind: .* From the side: "))
    ).to_be_visible()
    bring_in_faces(page)
    page.keyboard.press("3")
    schedule = page.get_by_role("radiogroup", name="Kind of calibration")
    expect(schedule.get_by_role("radio", name="Six faces")).to_have_attribute(
        "aria-checked", "true"
    )
    look_at_it_every_way(page, "schedule", ".schedule")
    for count in range(6):
        page.keyboard.press("m")
        expect(page.get_by_text("This stretch was found.")).to_be_visible()
        page.get_by_role("button", name="Keep the mark").click()
        expect(page.get_by_role("form", name="Mark")).to_have_count(0)
        expect(page.locator(".mark-table tbody tr")).to_have_count(count + 1)
    fit = page.get_by_role("region", name="Fit")
    expect(fit.get_by_text("6 faces, 12 numbers")).to_be_visible()
    expect(page.get_by_role("columnheader", name="left over, mg")).to_be_visible()
    page.keyboard.press("k")
    expect(page.get_by_text("The calibration is kept and in use.")).to_be_visible()
    expect(page.get_by_role("link", name="Take the constants away")).to_be_visible()
    schedule.get_by_role("radio", name="Bias at rest").click()
    slab = page.get_by_label("Recording").locator("option", has_text="slab").inner_text()
    page.get_by_label("Recording").select_option(label=slab)
    schedule.get_by_role("radio", name="Bias at rest").click()
    expect(page.get_by_role("img", name="Noise left after averaging")).to_be_visible()
    look_at_it_every_way(page, "rest", ".allan")


def test_it_is_held_hands_free_on_a_line_that_is_played(open_page: OpenPage) -> None:
    page = open_page("/sensors/5/heard")
    deck(page)
    # Long enough on the first face for a slow machine to have begun before it is turned.
    bring_in_faces(page, 30)
    page.keyboard.press("3")
    expect(page.get_by_role("button", name=re.compile("Hold it now"))).to_be_visible()
    page.keyboard.press("g")
    expect(page.get_by_text("No line is open.")).to_be_visible()
    page.keyboard.press("Escape")
    # While it fades it still takes the keys.
    expect(page.get_by_role("dialog")).to_have_count(0)
    play(page, "seven stands", 0.1)
    page.keyboard.press("g")
    # A line that is not made out yet is waited for, not called none.
    expect(page.get_by_text("Making out the line")).to_be_visible()
    says = page.get_by_role("status").filter(has_text=re.compile("Now|keep still|Turn to"))
    expect(says).to_be_visible()
    page.get_by_role("button", name="Stop without marks").click()
    expect(page.get_by_role("dialog")).to_have_count(0)
    close_the_line(page)
    # Of a line that it is not on nothing is recorded.
    play(page, "a cold morning", 4)
    before = len(takes_of(page))
    page.keyboard.press("g")
    expect(page.get_by_role("alert")).to_contain_text("none of its columns is heard")
    page.get_by_role("button", name="Leave it").click()
    expect(page.get_by_role("dialog")).to_have_count(0)
    assert page.get_by_text("not being recorded").count() == 0
    close_the_line(page)
    assert len(takes_of(page)) == before
    play(page, "seven stands", 8)
    page.keyboard.press("g")
    expect(says).to_be_visible()
    expect(page.get_by_role("list", name="What is held")).to_contain_text("✓")
    look_at_it_every_way(page, "hands free", ".modal-content")
    expect(page.get_by_role("region", name="Fit")).to_be_visible()
    expect(page).to_have_url(re.compile("recording="))


def test_what_it_turned_by_is_read_from_a_zero(open_page: OpenPage) -> None:
    page = open_page("/sensors/5/heard")
    deck(page)
    turned = page.get_by_role("button", name="Turned by …")
    turned.click()
    expect(page.get_by_text("No line is open.")).to_be_visible()
    # It is waited for: nothing has to be pressed once it is open.
    play(page, "ramp, stop, turn, down", 0.5)
    reading = page.get_by_role("status").filter(has_text=re.compile(r"−?\d+ °"))
    expect(reading).to_be_visible()
    expect(page.get_by_text(re.compile(r"Since zero: [1-9]\d* s"))).to_be_visible()
    page.keyboard.press("Space")
    expect(page.get_by_text(re.compile("Since zero: 0 s"))).to_be_visible()
    look_at_it_every_way(page, "from zero", ".modal-content")
    # A line it is not on says so in a few words, and why below them.
    close_the_line(page)
    expect(page.get_by_text("It cannot be read.")).to_be_visible()
    expect(page.get_by_role("alert")).to_contain_text("No line is open")
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
    play(page, "a cold morning", 4)
    turned.click()
    expect(page.get_by_role("alert")).to_contain_text("none of its columns is heard")


def test_filters_side_by_side_are_set_drawn_and_one_is_used(open_page: OpenPage) -> None:
    page = open_page("/sensors/5/heard")
    deck(page)
    page.get_by_role("link", name="Filters").click()
    expect(page.get_by_role("heading", name="Deck level: filters side by side")).to_be_visible()
    page.get_by_label("Output").select_option("force")
    table = page.get_by_role("table")
    expect(table.get_by_role("row")).to_have_count(7)
    expect(table).to_contain_text("as it came")
    look_at_it_every_way(page, "filters", ".filters")
    page.get_by_label("n", exact=True).first.fill("9")
    expect(table.get_by_label("Draw median:n=9")).to_be_visible()
    page.get_by_role("button", name="Add a filter").click()
    expect(table.get_by_role("row")).to_have_count(8)
    expect(page.get_by_role("button", name="Add a filter")).to_be_disabled()
    page.get_by_role("button", name="Use it").first.click()
    expect(page.get_by_text("median:n=9 stands in the chain of Deck level now.")).to_be_visible()
    expect(page.get_by_role("button", name="in use")).to_be_disabled()
    page.get_by_role("link", name="Back").click()
    expect(page.locator(".cell").filter(has_text="middle of")).to_be_visible()


def test_a_gain_that_its_noise_suggests_is_tried_and_kept(open_page: OpenPage) -> None:
    page = open_page("/sensors/5/heard")
    deck(page)
    page.get_by_role("tab", name="Fused").click()
    page.locator("summary", has_text="Ways to fuse").click()
    gain = page.get_by_role("button", name="Try it: suggested kp")
    gain.click()
    expect(gain).to_have_text("in use")
    expect(gain).to_be_disabled()
    expect(page.locator(".cell").filter(has_text="Mahony")).to_be_visible()
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_role("region", name="Trying out")).to_have_count(0)
    page.reload()
    page.get_by_role("tab", name="Fused").click()
    expect(page.locator(".cell").filter(has_text="Mahony")).to_be_visible()


def test_a_limit_to_leaning_is_taken_kept_and_shown(open_page: OpenPage) -> None:
    page = open_page("/sensors/5/tuned")
    deck(page)
    expect(page.get_by_text("tips over at")).to_be_visible()
    page.get_by_role("button", name=re.compile("^Take ")).click()
    page.get_by_role("button", name="Keep the limit").click()
    expect(page.get_by_text("The decision is kept.")).to_be_visible()
    page.get_by_label("Kind of decision").select_option("bump")
    expect(page.get_by_text("a normal run shakes by")).to_be_visible()
