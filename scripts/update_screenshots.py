"""Takes the pictures in docs/screenshots anew, from the demo data.

Run it from the repository's root: ``.venv/bin/python -m scripts.update_screenshots``.
"""

from __future__ import annotations

import re
import shutil
import tempfile
from pathlib import Path

from playwright.sync_api import Page, expect, sync_playwright
from tests.browser.bench import bring_in_ruler, calibrate, tune
from tests.browser.conftest import ARGUMENTS
from tests.conftest import chromium_path
from tests.server import Server

from tickstone.demo.logs import DECK_FACES, log_path

OWN_PROGRAM = """// My cart: stops before the wall
const int TRIG = 7;
const int ECHO = 8;
int clicks = 0;

void click() { clicks++; }

void setup() {
  Serial.begin(9600);
  pinMode(TRIG, OUTPUT);
  attachInterrupt(digitalPinToInterrupt(2), click, CHANGE);
}

void loop() {
  ping();
  long t = pulseIn(ECHO, HIGH);
  float cm = t * 0.034;
  float volts = analogRead(A0) * (5 / 1023);
  if (cm < 30) halt();
  Serial.println(clicks);
  delay(500);
}
"""
FOLDER = Path(__file__).parents[1] / "docs" / "screenshots"


def take(page: Page, name: str) -> None:
    page.mouse.move(640, 795)
    dismiss = page.get_by_label("Dismiss")
    while dismiss.count():
        dismiss.first.click()
    page.wait_for_timeout(400)
    page.screenshot(path=FOLDER / f"{name}.png")
    print(f"docs/screenshots/{name}.png")


def wiring(page: Page, address: str) -> None:
    for path, words, name in (
        ("/rigs/2/wire/plan", "every lead has a place", "wiring-plan"),
        ("/rigs/1/wire/loom", "Point at a thread", "loom"),
        ("/rigs/2/program/listen", "What a line holds", "program"),
        ("/parts/led-resistor", "red red brown gold", "parts"),
    ):
        page.goto(address + path)
        expect(page.get_by_text(words).first).to_be_visible()
        if "program" in path:
            page.get_by_role("button", name="Run it here").click()
            expect(page.get_by_text("printed as they were told")).to_be_visible(timeout=30_000)
        if "loom" in path:
            expect(page.locator(".loom-drawing")).to_be_visible()
        take(page, name)


def own_program(page: Page, address: str) -> None:
    page.goto(f"{address}/rigs/1/program/own")
    page.get_by_label("Your program, in C++ or Python").fill(OWN_PROGRAM)
    page.get_by_role("button", name="Look it over").click()
    expect(page.get_by_text("things stand out")).to_be_visible()
    page.get_by_role("button", name="line 17").click()
    take(page, "own-program")


def decisions(page: Page, address: str) -> None:
    page.goto(f"{address}/rigs/1/rules")
    page.get_by_role("button", name=re.compile("^▸ drive follow")).click()
    expect(page.get_by_role("region", name="State drive")).to_be_visible()
    take(page, "rules")
    page.get_by_role("button", name="Replay", exact=True).click()
    page.get_by_role("combobox", name="beside").select_option(index=2)
    expect(page.get_by_role("heading", name=re.compile("^B: right for"))).to_be_visible()
    box = page.get_by_role("application").bounding_box()
    assert box is not None
    page.mouse.click(box["x"] + 250, box["y"] + 30)
    expect(page.get_by_role("region", name="What it saw")).to_be_visible()
    take(page, "replay")
    page.goto(f"{address}/rigs/1/control")
    page.get_by_role("button", name="Another beside A").click()
    page.get_by_label("P of B", exact=True).fill("0.9")
    expect(page.get_by_label("I of B", exact=True)).to_be_visible()
    page.get_by_role("heading", name="Bramble: controllers").click()
    take(page, "control")


def line(page: Page, address: str) -> None:
    page.goto(f"{address}/rigs/1/line")
    page.get_by_label("Listen to Bramble, the seed-tray cart").click()
    expect(page.get_by_text("18 values separated by commas")).to_be_visible()
    page.keyboard.press("c")
    page.get_by_role("tab", name="Stand-in").click()
    for control, value in (("Wheel", "2"), ("Target in front", "0.45"), ("Nose up", "12")):
        page.get_by_role("slider", name=control).fill(value)
        page.wait_for_timeout(2_500)
    page.keyboard.press("m")
    page.get_by_label("True value").fill("0.45")
    page.wait_for_timeout(1_500)
    page.keyboard.press("Enter")
    page.wait_for_timeout(1_200)
    take(page, "line")
    page.keyboard.press("c")
    page.get_by_role("link", name="Open it").click()
    expect(page.locator(".take-plot")).to_have_count(4)
    box = page.locator(".take-plot .u-over").first.bounding_box()
    assert box is not None
    page.keyboard.down("Shift")
    page.mouse.move(box["x"] + 330, box["y"] + 30)
    page.mouse.down()
    page.mouse.move(box["x"] + 540, box["y"] + 30, steps=5)
    page.mouse.up()
    page.keyboard.up("Shift")
    expect(page.locator(".selection-says")).to_contain_text("on average")
    page.get_by_role("button", name="Figures of A to B").click()
    expect(page.locator(".selection-panel")).to_contain_text("standard deviation")
    take(page, "recording")


def wheel(page: Page) -> None:
    page.locator(".trail-sensors").get_by_role("link", name="Rear wheel").click()
    expect(page.get_by_text("1 050 lines")).to_be_visible()
    page.get_by_text("Trip", exact=True).click()
    expect(page.get_by_text("0.0 to 42.0 s")).to_be_visible()
    take(page, "wheel")


def strip(page: Page, address: str) -> None:
    page.goto(f"{address}/sensors/3/tuned")
    heaps = page.get_by_role("region", name="Thresholds on their heaps")
    expect(heaps).to_be_visible()
    heaps.scroll_into_view_if_needed()
    take(page, "strip")
    page.goto(f"{address}/sensors/3/studies")
    expect(page.get_by_text("Best at")).to_be_visible()
    page.keyboard.press("d")
    take(page, "study-dark")
    page.keyboard.press("d")


def deck(page: Page, address: str) -> None:
    page.goto(f"{address}/sensors/5/heard")
    expect(page.get_by_role("img", name=re.compile("From behind"))).to_be_visible()
    take(page, "deck")
    page.goto(f"{address}/sensors/5/filters?output=force")
    expect(page.get_by_text("What is left at every frequency")).to_be_visible()
    take(page, "filters")


def hands_free(page: Page, address: str) -> None:
    """The faces in a log, played as if the board said them now."""
    page.request.delete(f"{address}/api/rigs/1/line", headers={"Origin": address})
    page.goto(f"{address}/sensors/5/heard")
    expect(page.get_by_role("button", name="Bring in a log")).to_be_visible()
    page.keyboard.press("i")
    page.get_by_label("Log file").set_input_files(log_path(DECK_FACES))
    page.get_by_label("Name of the recording").fill("seven stands")
    page.get_by_role("button", name="Bring it in").click()
    expect(page).to_have_url(re.compile("recording="))
    takes = page.request.get(f"{address}/api/rigs/1/takes").json()
    played = {"take_id": next(one["id"] for one in takes if one["name"] == "seven stands")}
    page.goto(f"{address}/sensors/5/calibrated")
    expect(page.get_by_role("button", name=re.compile("Hold it now"))).to_be_visible()
    page.keyboard.press("g")
    page.request.post(
        f"{address}/api/rigs/1/line/replay", data={**played, "pace": 2}, headers={"Origin": address}
    )
    expect(page.get_by_role("list", name="What is held")).to_contain_text("✓")
    page.wait_for_timeout(4_000)
    page.screenshot(path=FOLDER / "hands-free.png")
    print("docs/screenshots/hands-free.png")
    page.get_by_role("button", name="Stop without marks").click()


def walk(page: Page, address: str) -> None:
    wiring(page, address)
    own_program(page, address)
    page.goto(f"{address}/rigs/1")
    expect(page.get_by_text("Bramble, stone by stone")).to_be_visible()
    take(page, "rig-home")
    page.locator(".trail-sensors").get_by_role("link", name="Front ranger").click()
    expect(page.get_by_text("420 echoes")).to_be_visible()
    page.keyboard.press("i")
    page.get_by_role("button", name="Take the example").click()
    expect(page.get_by_role("button", name="Bring it in")).to_be_visible()
    page.get_by_role("button", name="Another file").click()
    bring_in_ruler(page)
    page.get_by_title("Enter the air this was recorded in").click()
    page.get_by_label("Air temperature").fill("14")
    page.get_by_role("button", name="Keep", exact=True).click()
    page.keyboard.press("Escape")
    page.keyboard.press("3")
    calibrate(page)
    take(page, "calibrate")
    page.keyboard.press("4")
    expect(page.get_by_text("stopping takes")).to_be_visible()
    tune(page)
    wheel(page)
    strip(page, address)
    deck(page, address)
    decisions(page, address)
    line(page, address)
    hands_free(page, address)
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(f"{address}/sensors/1/tuned")
    expect(page.get_by_text("stopping takes")).to_be_visible()
    take(page, "phone-tune")


def main() -> None:
    data = Path(tempfile.mkdtemp(prefix="tickstone-pictures-"))
    data.chmod(0o755)
    server = Server(data)
    server.start()
    FOLDER.mkdir(parents=True, exist_ok=True)
    try:
        with sync_playwright() as playwright:
            browser = playwright.chromium.launch(executable_path=chromium_path(), args=ARGUMENTS)
            page = browser.new_page(
                viewport={"width": 1280, "height": 800}, reduced_motion="reduce"
            )
            walk(page, server.address)
            browser.close()
    finally:
        server.stop()
        shutil.rmtree(data, ignore_errors=True)


if __name__ == "__main__":
    main()
