"""Every view is usable: by keyboard, in the dark, on a phone, and by axe's judgement."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.browser.bench import bring_in_ruler
from tests.browser.conftest import OpenPage

AXE = Path(__file__).parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"
VIEWS = {
    "/rigs": "Rigs on this machine",
    "/rigs/1": "Bramble, stone by stone",
    "/rigs/2/wire/plan": "every lead has a place",
    "/rigs/2/wire/loom": "Point at a thread",
    "/rigs/2/wire/list": "Bill of materials",
    "/rigs/2/wire/time": "Where the time goes",
    "/rigs/2/sheet": "Before you start",
    "/rigs/2/line": "it appears here",
    "/rigs/1/recordings": "ruler, frosty morning",
    "/rigs/1/recordings/2": "wheel zooms, drag moves",
    "/rigs/1/rules": "the lower number wins",
    "/rigs/1/control": "P alone, up to where it just swings",
    "/parts/photo-load": "over white",
    "/families/board/three_volt_wireless": "Figures",
    "/sensors/2/wired": "String its wires",
    "/sensors/3/heard": "Room light gets under the row",
    "/sensors/2/heard": "900 echoes",
    "/sensors/5/heard": "What it shakes with",
    "/sensors/5/filters": "What is left at every frequency",
    "/rigs/1/recordings/2/filters/0": "What is left at every frequency",
    "/sensors/2/calibrated": "Keep this calibration",
    "/sensors/2/tuned": "stopping takes",
    "/sensors/2/driven": "Drive, and note how it went",
    "/nowhere": "There is nothing at this address.",
}


def serious(page: Page, rules: list[str] | None = None, part: str = "body") -> list[str]:
    """What axe finds on a part of the page; of these rules, or of all."""
    if not page.evaluate("'axe' in window"):
        page.evaluate(AXE.read_text(encoding="utf-8"))
    found = page.evaluate(
        """([rules, part]) =>
            axe.run(part, {resultTypes: ['violations'], ...(rules && {runOnly: rules})})""",
        [rules, part],
    )
    return [
        f"{one['id']}: {node['target']} {node.get('failureSummary', '')}"
        for one in found["violations"]
        if one["impact"] in ("serious", "critical")
        for node in one["nodes"]
    ]


def settled(page: Page) -> None:
    """Wait until nothing moves or fades any more."""
    page.wait_for_function("document.getAnimations().every((one) => one.playState !== 'running')")


SMALL_WORDS = """(least) => [...document.querySelectorAll("body *")]
    .filter((one) => !one.closest("svg, .visually-hidden"))
    .filter((one) => [...one.childNodes].some((node) => node.nodeType === 3 && node.data.trim()))
    .filter((one) => one.checkVisibility() && parseFloat(getComputedStyle(one).fontSize) < least)
    .map((one) => `${one.className || one.tagName}: ${one.textContent.slice(0, 40)}`)"""


def look_at_it_every_way(page: Page, where: str, part: str = "body") -> None:
    """Both themes by axe's judgement, and every width: one load of a view serves for all.

    part: what is new on a page that was judged before.
    """
    for scheme, rules in (("light", None), ("dark", ["color-contrast"])):
        page.evaluate("(theme) => document.documentElement.dataset.bsTheme = theme", scheme)
        settled(page)
        assert serious(page, rules, part) == [], (where, scheme)
    page.evaluate("document.documentElement.dataset.bsTheme = 'light'")
    for width in (390, 1920, 1280):
        page.set_viewport_size({"width": width, "height": 844})
        for _ in range(100):  # a plot is drawn anew once it notices
            wide = page.evaluate("document.documentElement.scrollWidth")
            if wide <= width:
                break
            page.wait_for_timeout(50)
        assert wide <= width, (where, width, wide)
        assert page.evaluate(SMALL_WORDS, 12) == [], (where, width)


@pytest.mark.parametrize("half", [0, 1])
def test_every_view_is_usable_in_both_themes_and_at_all_widths(
    open_page: OpenPage, half: int
) -> None:
    page = open_page("/")
    origin = page.url.split("/rigs")[0].rstrip("/")
    for path, words in list(VIEWS.items())[half::2]:
        page.goto(origin + path)
        expect(page.get_by_text(words).first).to_be_visible()
        look_at_it_every_way(page, path)


def test_what_opens_on_a_bench_is_usable_too(open_page: OpenPage) -> None:
    page = open_page("/sensors/2/heard")
    origin = page.url.split("/sensors")[0]
    expect(page.get_by_text("900 echoes")).to_be_visible()
    for cell in page.locator(".cell").all():
        cell.click()
        expect(page.locator(".cell-panel")).to_be_visible()
        look_at_it_every_way(page, cell.inner_text(), ".cell-panel")
    page.keyboard.press("Escape")
    page.keyboard.press("i")
    expect(page.get_by_text("Bring in a log of")).to_be_visible()
    look_at_it_every_way(page, "bring in")
    page.get_by_role("button", name="Take the example").click()
    expect(page.get_by_role("button", name="Bring it in")).to_be_visible()
    look_at_it_every_way(page, "how a log is read")
    page.keyboard.press("?")
    expect(page.get_by_role("dialog")).to_be_visible()
    look_at_it_every_way(page, "keys")
    page.goto(f"{origin}/sensors/2/calibrated")
    page.get_by_role("button", name="Mark a true distance").click()
    expect(page.get_by_role("form", name="Mark")).to_be_visible()
    look_at_it_every_way(page, "a mark")
    page.get_by_role("button", name="Read out").click()
    expect(page.get_by_role("dialog")).to_be_visible()
    look_at_it_every_way(page, "read out")


def test_what_opens_elsewhere_is_usable_too(open_page: OpenPage) -> None:
    page = open_page("/rigs/2/wire/plan")
    for name in ("Add a device", "Settings", "Files"):
        page.get_by_role("button", name=name).click()
        look_at_it_every_way(page, name)
    page.goto(page.url.replace("/rigs/2/wire/plan", "/rigs/1"))
    page.get_by_role("button", name="Change the air").click()
    page.get_by_label("Air temperature").wait_for()
    look_at_it_every_way(page, "the air")


def test_every_key_does_what_the_help_says(open_page: OpenPage) -> None:
    page = open_page("/rigs/1")
    expect(page.get_by_text("Bramble, stone by stone")).to_be_visible()
    page.keyboard.press("?")
    expect(page.get_by_role("dialog")).to_contain_text("open the next stone")
    page.keyboard.press("n")
    expect(page.get_by_role("dialog")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
    page.keyboard.press("d")
    expect(page.locator("html")).to_have_attribute("data-bs-theme", "dark")
    page.keyboard.press("n")
    expect(page).to_have_url(re.compile("/sensors/4/wired"))
    page.locator(".trail-sensors").get_by_role("link", name="Front ranger").click()
    expect(page.get_by_text("420 echoes")).to_be_visible()
    page.keyboard.press("1")
    expect(page).to_have_url(re.compile("/sensors/1/wired"))
    page.get_by_role("textbox", name="Note").fill("hn?")
    expect(page).to_have_url(re.compile("/sensors/1/wired"))
    page.get_by_role("textbox", name="Note").blur()
    page.keyboard.press("2")
    expect(page.get_by_text("420 echoes")).to_be_visible()
    # There is nothing to read out before the reading has come.
    expect(page.get_by_role("button", name="Read out")).to_be_enabled()
    page.keyboard.press("r")
    expect(page.get_by_role("dialog")).to_contain_text("reading")
    before = page.get_by_role("dialog").inner_text()
    page.keyboard.press("ArrowLeft")
    expect(page.get_by_role("dialog")).not_to_have_text(before)
    page.keyboard.press("r")
    expect(page.get_by_role("dialog")).to_have_count(0)
    page.keyboard.press("h")
    expect(page).to_have_url(re.compile("/rigs/1"))


def test_the_plot_zooms_moves_and_takes_a_reading_by_keyboard(open_page: OpenPage) -> None:
    page = open_page("/sensors/2/heard")
    plot = page.get_by_role("application")
    expect(plot).to_have_accessible_name(re.compile("900 readings"))
    plot.focus()
    page.keyboard.press("+")
    expect(plot).not_to_have_accessible_name(re.compile("900 readings"))
    page.keyboard.press("Shift+ArrowLeft")
    page.keyboard.press("0")
    expect(plot).to_have_accessible_name(re.compile("900 readings"))
    page.locator(".u-over").click(position={"x": 40, "y": 60})
    expect(page.get_by_test_id("result").locator("b")).to_have_text(re.compile(r"^0\.1[45]"))
    page.locator(".u-over").hover(position={"x": 200, "y": 60})
    page.mouse.wheel(0, -400)
    expect(plot).not_to_have_accessible_name(re.compile("900 readings"))


def test_plot_data_and_picture_can_be_taken_away(open_page: OpenPage) -> None:
    page = open_page("/sensors/2/heard")
    expect(page.get_by_text("900 echoes")).to_be_visible()
    with page.expect_download() as csv:
        page.get_by_role("link", name="CSV").click()
    assert csv.value.path().read_text().startswith("time_s,echo_us,distance_m")
    with page.expect_download() as picture:
        page.get_by_role("button", name="PNG").click()
    assert picture.value.path().read_bytes().startswith(b"\x89PNG")


def test_inches_and_fahrenheit_by_a_switch(open_page: OpenPage) -> None:
    page = open_page("/sensors/2/heard")
    expect(page.get_by_test_id("result")).to_contain_text(" m")
    metres = float(page.get_by_test_id("result").locator("b").inner_text())
    page.get_by_role("button", name="units:").click()
    expect(page.get_by_test_id("result")).to_contain_text(" in")
    inches = float(page.get_by_test_id("result").locator("b").inner_text())
    assert inches == pytest.approx(metres / 0.0254, abs=0.06)
    expect(page.get_by_title("Enter the air")).to_contain_text("36.5 °F")
    page.get_by_title("Enter the air").click()
    page.get_by_label("Air temperature").fill("50")
    expect(page.get_by_text("air 50.0 °F")).to_be_visible()
    expect(page.locator(".budget h3")).to_contain_text(" in ")
    expect(page.get_by_role("button", name="path triangle")).to_contain_text(" in")


def test_a_phone_can_mark_by_typing_and_read_out(open_page: OpenPage) -> None:
    page = open_page("/sensors/2/calibrated", width=390, height=844)
    page.get_by_role("button", name="Mark a true distance").click()
    page.get_by_label("From").fill("2")
    page.get_by_label("To", exact=True).fill("6")
    page.get_by_label("True distance", exact=True).fill("0.15")
    page.get_by_label("Name", exact=True).fill("again")
    page.get_by_role("button", name="Keep the mark").click()
    expect(page.get_by_role("row", name="again")).to_be_visible()
    page.get_by_role("button", name="Read out").click()
    expect(page.get_by_role("dialog")).to_contain_text("±")
    assert page.evaluate("document.documentElement.scrollWidth") <= 390


def test_a_calibration_is_kept_by_keyboard_in_few_presses(open_page: OpenPage) -> None:
    """Without a mouse: three stretches are proposed, and only the truth is typed."""
    page = open_page("/sensors/1/heard")
    expect(page.get_by_text("420 echoes")).to_be_visible()
    bring_in_ruler(page)
    expect(page.get_by_text("31 × no echo")).to_be_visible()
    presses = 0

    def press(key: str) -> None:
        nonlocal presses
        presses += 1
        page.keyboard.press(key)

    press("3")
    expect(page.get_by_text("a stretch where the target stood still is proposed")).to_be_visible()
    for number, truth in enumerate(("0.3", "0.6", "1.0"), start=1):
        press("m")
        expect(page.get_by_label("True distance", exact=True)).to_be_focused()
        for key in truth:
            press(key)
        press("Enter")
        expect(page.locator(".mark-table tbody tr")).to_have_count(number)
        expect(page.get_by_role("form", name="Mark")).to_have_count(0)
    press("k")
    expect(page.get_by_text("The calibration is kept and in use.")).to_be_visible()
    assert presses <= 25


def test_no_page_key_fires_while_a_panel_is_open(open_page: OpenPage) -> None:
    page = open_page("/rigs/1")
    page.get_by_role("button", name="Change the air").focus()
    page.keyboard.press("Enter")
    expect(page.get_by_label("Air temperature")).to_be_focused()
    page.get_by_role("form", name="The air now").get_by_role("button", name="Cancel").focus()
    for key in ("n", "w", "l"):
        page.keyboard.press(key)
    expect(page).to_have_url(re.compile("/rigs/1$"))
    expect(page.get_by_role("form", name="The air now")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("form", name="The air now")).to_have_count(0)
    expect(page.get_by_role("button", name="Change the air")).to_be_focused()
    page.keyboard.press("w")
    expect(page).to_have_url(re.compile("/wire/plan"))
