"""Bramble's nose strip in the browser: waved, decided on, tabled, studied."""

from __future__ import annotations

import re
from typing import Any

from playwright.sync_api import Page, Request, expect

from tests.browser.conftest import OpenPage
from tests.browser.test_screens import look_at_it_every_way


def strip(page: Page) -> None:
    expect(page.get_by_role("heading", name="Nose strip")).to_be_visible()


def test_a_wave_is_found_marked_and_kept_with_its_heaps(open_page: OpenPage) -> None:
    page = open_page("/sensors/3/heard")
    strip(page)
    expect(
        page.get_by_role("img", name=re.compile("Dark or light over time, 5 lanes"))
    ).to_be_visible()
    expect(page.get_by_text("other light").first).to_be_visible()
    expect(
        page.get_by_role("img", name=re.compile(r"The line lies \d.* mm to the (left|right)"))
    ).to_be_visible()
    page.keyboard.press("3")
    expect(page.get_by_role("list", name="What to do")).to_contain_text("Slide the whole row")
    page.keyboard.press("m")
    expect(page.get_by_text("This stretch was found.")).to_be_visible()
    page.get_by_label("Name", exact=True).fill("in low sun")
    page.get_by_role("button", name="Keep the mark").click()
    heaps = page.get_by_role("region", name="Heaps")
    expect(heaps.get_by_text("sensor 5")).to_be_visible()
    look_at_it_every_way(page, "heaps", ".heaps")
    page.keyboard.press("k")
    expect(page.get_by_text("The calibration is kept and in use.")).to_be_visible()
    expect(page.get_by_text("The tuning may no longer hold: other calibration.")).to_be_visible()


def test_a_threshold_is_moved_on_its_heaps_and_a_sight_is_answered(open_page: OpenPage) -> None:
    page = open_page("/sensors/3/tuned")
    strip(page)
    second = page.get_by_role("slider", name="Threshold of sensor 2")
    before = int(second.get_attribute("aria-valuenow") or "0")
    second.focus()
    page.keyboard.press("Shift+ArrowUp")
    expect(second).to_have_attribute("aria-valuenow", re.compile(rf"^(?!{before}$)\d+$"))
    expect(page.get_by_role("heading", name="Sensor 2")).to_be_visible()
    page.get_by_role("button", name="Midpoint").click()
    expect(
        page.get_by_role("row", name=re.compile("in hand")).get_by_text("none, at most")
    ).to_be_visible()
    look_at_it_every_way(page, "thresholds", ".heaps")
    page.get_by_role("button", name="Keep the thresholds").click()
    expect(page.get_by_text("The decision is kept.")).to_be_visible()
    page.get_by_label("Kind of decision").select_option("line-table")
    none = page.get_by_label("What to do at off off off off off")
    none.select_option("R")
    expect(page.get_by_text("far left").first).to_be_visible()
    look_at_it_every_way(page, "sights", ".sight-table")
    page.get_by_role("button", name="Keep the table").click()
    expect(page.get_by_role("img", name=re.compile("Decision over time"))).to_have_count(2)
    page.reload()
    page.get_by_label("Kind of decision").select_option("line-table")
    expect(none).to_have_value("R")


def test_a_dragged_threshold_asks_one_thing_at_a_time(open_page: OpenPage) -> None:
    """So that answers come while the hand still moves, and the last one is of where it stopped."""
    page = open_page("/sensors/3/tuned")
    slider = page.get_by_role("slider", name="Threshold of sensor 1")
    expect(slider).to_be_visible()
    page.wait_for_load_state("networkidle")
    under_way: list[int] = [0, 0]
    asked: list[dict[str, Any]] = []

    def began(request: Request) -> None:
        if request.url.endswith("/look"):
            under_way[0] += 1
            under_way[1] = max(under_way)
            asked.append(request.post_data_json)

    def ended(request: Request) -> None:
        under_way[0] -= request.url.endswith("/look")

    page.on("request", began)
    page.on("requestfinished", ended)
    page.on("requestfailed", ended)
    slider.scroll_into_view_if_needed()
    grip = slider.locator(".heap-grip").bounding_box()
    assert grip is not None
    x, y = grip["x"] + 20, grip["y"] + grip["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    for step in range(40):
        page.mouse.move(x, y - step)
    page.mouse.up()
    answered = -1
    while answered < len(asked) or under_way[0]:
        answered = len(asked)
        page.wait_for_timeout(300)
    assert under_way == [0, 1]
    at = [one["draft"]["rule"]["parameters"]["at"][0] for one in asked]
    assert at == sorted(at, reverse=at[0] > at[-1])
    told = page.request.post(
        page.url.split("/sensors")[0] + "/api/sensors/3/suggestion",
        data={"kind": "line-thresholds", "tried": asked[-1]["draft"]["rule"]["parameters"]},
    ).json()
    assert slider.get_attribute("aria-valuenow") == str(round(told["lanes"][0]["at"]))


def test_a_study_is_told_planned_refused_and_led(open_page: OpenPage) -> None:
    page = open_page("/sensors/3/calibrated")
    page.get_by_role("link", name="plan one, or see those that were taken").click()
    expect(page.get_by_text(re.compile(r"Best at \d+ mm"))).to_be_visible()
    look_at_it_every_way(page, "study", ".studies")
    page.get_by_role("button", name="Plan another").click()
    page.get_by_label("What to vary").select_option("height")
    page.get_by_label("Heights").fill("4")
    page.get_by_role("button", name="Plan it").click()
    expect(page.get_by_role("alert")).to_contain_text("two at least")
    page.get_by_label("Heights").fill("2 6")
    page.get_by_role("button", name="Plan it").click()
    expect(page.get_by_text("Set the height to 2 mm, lamps on")).to_be_visible()
    page.reload()
    trail = page.get_by_role("navigation", name="Rig and sensors")
    expect(trail.get_by_role("link", name="Nose strip")).to_have_attribute("aria-current", "page")
    page.get_by_label("Recording", exact=True).select_option(label="five heights")
    page.get_by_label("From", exact=True).fill("0")
    page.get_by_label("To", exact=True).fill("0.2")
    page.get_by_role("button", name="Take this stretch").click()
    expect(page.get_by_role("alert")).to_contain_text("too few")
    page.get_by_label("To", exact=True).fill("5.5")
    page.get_by_role("button", name="Take this stretch").click()
    expect(page.get_by_text("Leave it at 2 mm, lamps off")).to_be_visible()
    expect(page.get_by_role("row", name=re.compile("^2 mm, lamps on"))).to_contain_text("d′")
