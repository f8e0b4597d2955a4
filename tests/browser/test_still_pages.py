"""Nothing moves under the pointer, the trail keeps its rig, and one switch changes all units."""

from __future__ import annotations

import re
import time

from playwright.sync_api import Locator, Page, Route, expect

from tests.browser.bench import bring_in_ruler
from tests.browser.conftest import OpenPage


def place(of: Locator) -> tuple[float, float]:
    box = of.bounding_box()
    assert box is not None
    return box["x"], box["y"]


def slowly(route: Route) -> None:
    time.sleep(0.6)
    route.continue_()


def test_what_opens_on_a_bench_moves_nothing(open_page: OpenPage) -> None:
    page = open_page("/sensors/2/calibrated")
    plot = page.locator(".u-over")
    expect(page.get_by_role("button", name="Keep this calibration")).to_be_visible()
    before = place(plot)
    for cell in page.locator(".cell").all():
        cell.click()
        expect(page.locator(".cell-panel")).to_be_visible()
        assert place(plot) == before, cell.inner_text()
    page.get_by_role("button", name="sound, this air").click()
    page.get_by_label("Air temperature").fill("14")
    expect(page.get_by_text("Trying out other air")).to_be_visible()
    assert place(plot) == before
    page.get_by_role("region", name="Trying out").get_by_role("button", name="Cancel").click()
    page.keyboard.press("Escape")
    page.keyboard.press("m")
    expect(page.get_by_role("form", name="Mark")).to_be_visible()
    assert place(plot) == before
    page.keyboard.press("Escape")


def test_what_is_selected_in_a_recording_moves_nothing(open_page: OpenPage) -> None:
    page = open_page("/rigs/1/recordings/2")
    plot = page.locator(".take-plot .u-over")
    expect(plot).to_be_visible()
    before = place(plot)
    tools = page.get_by_role("group", name="With what is selected")
    at = place(tools)
    page.mouse.move(before[0] + 50, before[1] + 50)
    expect(page.locator(".crosshair")).to_contain_text("echo")
    assert place(plot) == before
    page.get_by_role("button", name="first slab").click()
    expect(page.locator(".selection-says")).to_contain_text("on average in 10.000 s")
    for name in ("Conditions", "Take it away"):
        page.get_by_role("button", name=name).click()
        assert (place(plot), place(tools)) == (before, at), name
        page.get_by_role("button", name=name).click()
    page.get_by_role("button", name="Hide echo").click()
    page.get_by_role("button", name="Draw echo").click()
    expect(plot).to_be_visible()
    assert (place(plot), place(tools)) == (before, at)


def test_tools_keep_their_place_where_nothing_is_recorded(open_page: OpenPage) -> None:
    page = open_page("/rigs/1/recordings")
    expect(page.locator(".take-card").first).to_be_visible()
    names = ("Bring in a file", "Join the chosen")
    full = [place(page.get_by_role("button", name=name)) for name in names]
    origin = page.url.split("/rigs")[0]
    page.request.post(f"{origin}/api/rigs", data={"name": "Bare"})
    page.goto(f"{origin}/rigs/3/recordings")
    expect(page.get_by_text("Nothing recorded yet.")).to_be_visible()
    assert [place(page.get_by_role("button", name=name)) for name in names] == full


def test_the_trail_keeps_its_rig_while_a_page_loads(open_page: OpenPage) -> None:
    page = open_page("/rigs/1")
    rig = page.locator(".trail-rig")
    expect(rig).to_contain_text("Bramble")
    page.route(re.compile("/api/(sensors|rigs)"), slowly)
    for name in ("Left ranger", "Nose strip"):
        page.locator(".trail-sensors").get_by_role("link", name=name).click()
        assert rig.inner_text().startswith("Bramble")
    page.get_by_role("link", name="Parts sums").click()
    expect(page.get_by_role("heading", name="Parts sums")).to_be_visible()
    assert rig.inner_text().startswith("Bramble")
    page.reload()
    expect(rig).to_contain_text("Bramble")


def test_a_press_on_the_trail_counts_though_the_page_changes_under_it(open_page: OpenPage) -> None:
    page = open_page("/rigs/1")
    expect(page.get_by_text("Bramble, stone by stone")).to_be_visible()
    page.locator(".trail-sensors").get_by_role("link", name="Front ranger").hover()
    page.mouse.down()
    page.keyboard.press("n")
    expect(page.get_by_role("heading", name="Rear wheel", exact=True)).to_be_visible()
    page.mouse.up()
    expect(page.get_by_text("420 echoes")).to_be_visible()


def test_the_narrow_trail_shuts_itself_wherever_one_goes(open_page: OpenPage) -> None:
    page = open_page("/sensors/2/heard", width=390, height=844)
    ways = {"Bramble": "stone by stone", "Wiring W": "every lead", "Left ranger": "900 echoes"}
    for name, words in {
        **ways,
        "Families": "A board of your own",
        "Tick Stone": "Rigs on this machine",
    }.items():
        page.get_by_role("button", name="Sensors").click()
        page.get_by_role("navigation", name="Rig and sensors").get_by_role(
            "link", name=name
        ).first.click()
        expect(page.get_by_text(words).first).to_be_visible()
        expect(page.get_by_role("button", name="Sensors")).to_have_attribute(
            "aria-expanded", "false"
        )


def test_what_was_asked_for_in_other_units_is_asked_for_anew(open_page: OpenPage) -> None:
    page = open_page("/sensors/2/calibrated")
    expect(page.get_by_test_id("result")).to_contain_text("1.400 m")
    page.route(re.compile("/api/"), slowly)
    page.reload()
    page.get_by_title("Change the units").click()
    expect(page.get_by_test_id("result")).to_contain_text(re.compile(r"55\.\d+ in"))
    assert metric_words(page) == []


def test_who_has_moved_on_is_not_fetched_back(open_page: OpenPage) -> None:
    page = open_page("/sensors/1/heard")
    expect(page.get_by_text("420 echoes")).to_be_visible()
    held: list[Route] = []
    page.route("**/api/rigs/1", lambda route: held.append(route))
    bring_in_ruler(page)
    page.keyboard.press("3")
    expect(page).to_have_url(re.compile("/calibrated"))
    assert held, "nothing was read anew after the log was brought in"
    for one in held:
        one.continue_()
    page.unroute("**/api/rigs/1")
    page.wait_for_load_state("networkidle")
    expect(page.get_by_text("832 echoes")).to_be_visible()
    expect(page).to_have_url(re.compile("/calibrated"))


def test_one_switch_changes_every_unit_in_sight(open_page: OpenPage) -> None:
    page = open_page("/sensors/2/calibrated")
    expect(page.get_by_test_id("result")).to_contain_text("1.400 m")
    page.get_by_title("Change the units").click()
    expect(page.get_by_test_id("result")).to_contain_text(re.compile(r"55\.\d+ in"))
    expect(page.locator(".findings")).to_contain_text("24 °F warmer (limit 9 °F)")
    assert metric_words(page) == []
    page.locator(".trail-rig").click()
    expect(page.locator(".stone-table")).to_contain_text("air +24 °F")
    assert metric_words(page) == []
    page.get_by_role("link", name="Line").first.click()
    page.get_by_role("link", name="Recordings").click()
    page.get_by_role("link", name="ruler, frosty morning").click()
    page.get_by_role("button", name="first slab").click()
    expect(page.locator(".selection-says")).to_contain_text(re.compile(r"15\.7\d* in on average"))
    assert metric_words(page) == []


def metric_words(page: Page) -> list[str]:
    """Lengths and temperatures on the page that are not in inches."""
    said = page.locator("main").inner_text()
    return re.findall(r"\d[\d.\u202f]*\s?(?:mm|cm|m|m/s|°C)(?![\w/²])", said)
