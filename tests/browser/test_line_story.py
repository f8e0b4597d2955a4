"""Listening as a person does it: a port, every channel live, a recording, a pulled cable, files."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import PATIENCE_MS, OpenPage
from tests.browser.test_screens import serious

# What is said for three seconds only may be gone before a busy machine looks: the page notes it.
NOTE_ALERT = """([words, patience_ms]) => {
  window.told = new Promise((done) => {
    const look = () => {
      for (const one of document.querySelectorAll("[role=alert]"))
        if (one.innerText.includes(words)) done(true);
    };
    const what = { childList: true, subtree: true, characterData: true };
    new MutationObserver(look).observe(document.body, what);
    setTimeout(() => done(false), patience_ms);
  });
}"""


def lane(page: Page, name: str):
    return page.get_by_role("listitem").filter(
        has=page.locator(".lane-name b", has_text=re.compile(f"^{name}$"))
    )


def listen_to_bramble(page: Page) -> None:
    """From the rig's home to its channels, live."""
    page.keyboard.press("l")
    page.get_by_role("button", name="Listen to Bramble, the seed-tray cart").click()
    expect(page.get_by_text("18 values separated by commas")).to_be_visible()
    expect(lane(page, "front").locator(".lane-value")).to_contain_text("m")


def move(page: Page, control: str, value: str) -> None:
    page.get_by_role("tab", name="Stand-in").click()
    page.get_by_label(control).fill(value)


def test_listen_record_mark_and_look(open_page: OpenPage) -> None:
    page = open_page("/rigs/1")
    expect(page.get_by_text("Bramble, stone by stone")).to_be_visible()
    listen_to_bramble(page)
    assert serious(page) == []

    # What was learnt, and whose it is.
    page.get_by_role("tab", name="Columns").click()
    expect(page.get_by_label("Sensor of front")).to_have_value("1")
    expect(page.get_by_label("Sensor of ir3")).to_have_value("3")
    page.get_by_role("button", name="ir3", exact=True).click()
    page.get_by_label("Name", exact=True).fill("middle")
    page.get_by_label("Name", exact=True).blur()
    expect(lane(page, "middle")).to_be_visible()
    assert serious(page) == []

    # The working of the reading in hand, live.
    move(page, "Target in front", "0.5")
    expect(page.get_by_test_id("result").locator("b")).to_have_text(re.compile(r"^0\.49"))
    page.get_by_role("button", name="sound, this air").click()
    expect(page.locator(".cell-panel")).to_contain_text("Uncertainty")
    page.keyboard.press("Escape")
    page.keyboard.press("r")
    expect(page.get_by_role("dialog")).to_contain_text("0.49")
    page.keyboard.press("r")

    # One key to record, one to mark.
    page.keyboard.press("c")
    expect(page.get_by_role("button", name="Stop")).to_be_visible()
    page.wait_for_timeout(700)
    page.keyboard.press("m")
    page.get_by_label("True value").fill("0.5")
    page.wait_for_timeout(700)
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Mark a true value")).to_be_visible()

    # The cable is pulled and comes back; nothing has to be done.
    page.get_by_role("tab", name="Stand-in").click()
    page.evaluate(NOTE_ALERT, ["Plug the cable back in", PATIENCE_MS])
    page.get_by_role("button", name="Cable pulled").click()
    assert page.evaluate("() => window.told")
    expect(page.locator(".line-state")).to_have_text("live")
    page.wait_for_timeout(700)
    page.keyboard.press("c")
    expect(page.get_by_role("status").filter(has_text="Kept as “heard ")).to_be_visible()
    page.get_by_role("link", name="Open it").click()

    # The recording: plots, a selection, statistics, the mark on the ranger's bench.
    expect(page.get_by_text("1 gap: the line was gone")).to_be_visible()
    expect(page.locator(".take-plot")).to_have_count(4)
    box = page.locator(".take-plot .u-over").first.bounding_box()
    assert box
    page.keyboard.down("Shift")
    page.mouse.move(box["x"] + 20, box["y"] + 30)
    page.mouse.down()
    page.mouse.move(box["x"] + 120, box["y"] + 30, steps=6)
    page.mouse.up()
    page.keyboard.up("Shift")
    expect(page.locator(".selection-says")).to_contain_text("on average")
    panel = page.locator(".selection-panel")
    expect(panel).not_to_contain_text("standard deviation")
    panel.get_by_role("button", name="Figures of A to B on front").click()
    expect(panel).to_contain_text("standard deviation")
    expect(panel).to_contain_text("rate of rises")
    expect(panel.get_by_role("img", name=re.compile("^Histogram"))).to_be_visible()
    assert serious(page) == []
    page.get_by_role("button", name="Overlay").click()
    expect(page.locator(".take-plot")).to_have_count(1)
    page.get_by_role("button", name="Stack").click()
    page.get_by_role("link", name="Front ranger").last.click()
    expect(page.get_by_role("row", name=re.compile(r"0\.5"))).to_be_visible()


def test_zoom_trim_undo_split_export_replay(open_page: OpenPage) -> None:
    page = open_page("/rigs/1/recordings")
    page.get_by_role("link", name="ruler, frosty morning").click()
    plot = page.get_by_role("application").first
    expect(plot).to_be_visible()
    plot.focus()
    axis = page.locator(".take-figures")
    expect(axis).to_contain_text("53.9 s")
    page.keyboard.press("+")
    expect(page.get_by_role("button", name="All")).to_be_enabled()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("0")
    expect(page.get_by_role("button", name="All")).to_be_disabled()
    page.get_by_label("Stage of echo").select_option("")
    expect(page.locator(".take-plot-name")).to_have_text("echo")

    page.get_by_role("button", name="Select").click()
    box = page.locator(".take-plot .u-over").bounding_box()
    assert box
    page.mouse.move(box["x"] + 100, box["y"] + 50)
    page.mouse.down()
    page.mouse.move(box["x"] + 400, box["y"] + 50, steps=5)
    page.mouse.up()
    page.get_by_role("button", name="Trim to it").click()
    expect(page.get_by_role("heading", name="ruler, frosty morning, trimmed")).to_be_visible()
    page.keyboard.press("u")
    expect(page.get_by_role("heading", name="ruler, frosty morning", exact=True)).to_be_visible()

    page.get_by_role("button", name="Take it away").click()
    with page.expect_download() as parquet:
        page.get_by_role("button", name="Parquet").click()
    assert parquet.value.suggested_filename == "ruler-frosty-morning.parquet"
    assert parquet.value.path().read_bytes().startswith(b"PAR1")
    page.get_by_role("button", name="Conditions").click()
    page.get_by_label("Tags, with commas between").fill("frost, ruler")
    page.get_by_role("button", name="Keep it").click()

    page.get_by_role("link", name="Recordings").click()
    page.get_by_role("button", name="frost", exact=True).click()
    expect(page.locator(".take-card")).to_have_count(1)
    page.get_by_role("button", name="Replay").click()
    expect(page.get_by_text("replay of “ruler, frosty morning”")).to_be_visible()
    expect(lane(page, "echo")).to_be_visible()
    page.get_by_role("button", name="Close the line").click()
    expect(page.get_by_role("heading", name="Plug your board in")).to_be_visible()


def test_a_log_from_elsewhere_and_a_whole_rig(open_page: OpenPage) -> None:
    page = open_page("/rigs/1/recordings")
    page.get_by_role("button", name="Bring in a file").click()
    log = "# Sample rate: 50 Hz\nn\tleft [us]\tbatt [V]\n" + "".join(
        f"{n}\t{2040 + n % 9}\t5.1\n" for n in range(400)
    )
    page.get_by_label("Log file").set_input_files(
        {"name": "elsewhere.log", "mimeType": "text/plain", "buffer": (log + "oops\t1\n").encode()}
    )
    expect(page.get_by_text("400 rows")).to_be_visible()
    expect(page.get_by_label("What left is")).to_have_value("2:echo:time")
    assert serious(page) == []
    page.get_by_role("button", name="Bring it in").click()
    expect(page.get_by_role("heading", name="elsewhere")).to_be_visible()
    expect(page.get_by_text("50.0 a second", exact=True)).to_be_visible()
    page.get_by_role("button", name="1 line kept aside").click()
    expect(page.get_by_role("cell", name="oops")).to_be_visible()

    page.get_by_role("link", name="Recordings").click()
    with page.expect_download() as archive:
        page.get_by_role("link", name="Whole rig as zip").click()
    page.get_by_role("link", name="Tick Stone").click()
    page.get_by_label("Zip of a rig").set_input_files(archive.value.path())
    expect(page.get_by_text("Bramble (2), stone by stone")).to_be_visible()
    page.get_by_label("Sensors").or_(page.locator(".trail-sensors")).first.wait_for()


@pytest.mark.parametrize("width", [390, 1280])
def test_the_line_fits_any_screen(open_page: OpenPage, width: int) -> None:
    page = open_page("/rigs/1/line", width=width, height=844, dark=width == 390)
    page.get_by_role("button", name="Listen to Bramble, the seed-tray cart").click()
    expect(page.get_by_text("18 values separated by commas")).to_be_visible()
    expect(lane(page, "front").locator(".lane-value")).to_contain_text("m")
    assert page.evaluate("document.documentElement.scrollWidth") <= width
    assert serious(page) == []
    for tab in ("Columns", "Stand-in"):
        page.get_by_role("tab", name=tab).click()
        assert page.evaluate("document.documentElement.scrollWidth") <= width


BROWSERS_PORT = """
    const text = (n) => new TextEncoder().encode(`t:${20 * n} side:${2040 + n % 5}\\r\\n`);
    const sent = (window.sentToBoard = []);
    navigator.serial.requestPort = async () => {
      let timer;
      return {
        open: async () => {},
        close: async () => {},
        readable: new ReadableStream({
          start(controller) {
            let n = 0;
            timer = setInterval(() => controller.enqueue(text(n++)), 20);
          },
          cancel() { clearInterval(timer); },
        }),
        writable: new WritableStream({
          write: (data) => { sent.push(new TextDecoder().decode(data)); },
        }),
      };
    };
"""
"""A board on the browser's own serial port: no browser opens a real one without a hand on it."""


def test_a_port_of_the_browser(open_page: OpenPage) -> None:
    page = open_page("/rigs/2/line")
    page.evaluate(BROWSERS_PORT)
    page.get_by_role("button", name="It does not appear").click()
    page.get_by_role("button", name="Take a port of this browser").click()
    expect(page.get_by_text("2 values with labels")).to_be_visible()
    expect(lane(page, "side").locator(".lane-value")).to_contain_text("m")
    page.keyboard.press("c")
    expect(page.get_by_role("button", name="Stop")).to_be_visible()
    page.get_by_role("button", name="Close the line").click()
    expect(page.get_by_role("heading", name="Plug your board in")).to_be_visible()


def test_two_pages_watch_one_line(open_page: OpenPage) -> None:
    first = open_page("/rigs/1")
    expect(first.get_by_text("Bramble, stone by stone")).to_be_visible()
    listen_to_bramble(first)
    second = open_page("/rigs/1/line")
    expect(lane(second, "front").locator(".lane-value")).to_contain_text("m")
    move(first, "Target in front", "0.3")
    for page in (first, second):
        expect(lane(page, "front").locator(".lane-value b")).to_have_text(
            re.compile(r"^0\.(29|30)")
        )
    second.keyboard.press("c")
    expect(first.get_by_role("button", name="Stop")).to_be_visible()
