"""What a person does at the bench, as steps the browser tests share."""

from __future__ import annotations

from playwright.sync_api import Page, expect

from tickstone.demo.logs import FRONT_RULER, log_path

RULER_S = 41.976
MARKS = [
    (1.0, 10.0, "0.3", "first nail"),
    (15.0, 22.0, "0.6", "second nail"),
    (33.0, 41.0, "1.0", "door frame"),
]


def bring_in_ruler(page: Page) -> None:
    """From the Listen bench: bring in the ruler log as it is guessed."""
    page.keyboard.press("i")
    page.get_by_label("Log file").set_input_files(log_path(FRONT_RULER))
    expect(page.get_by_label("What echo is")).to_have_value("1:echo:time")
    page.get_by_label("Name of the recording").fill("ruler by the bench")
    page.get_by_role("button", name="Bring it in").click()
    expect(page.get_by_text("832 echoes")).to_be_visible()


def enter_air(page: Page, celsius: str) -> None:
    """From a bench with a recording: enter the air it was recorded in, and save it."""
    page.get_by_title("Enter the air this was recorded in").click()
    page.get_by_label("Air temperature").fill(celsius)
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_text("The air is noted.")).to_be_visible()
    page.keyboard.press("Escape")


def mark(page: Page, from_s: float, to_s: float, true_m: str, name: str) -> None:
    """On the Calibrate bench: drag over a stretch and say what the ruler said."""
    page.keyboard.press("m")
    page.get_by_role("form", name="Mark").wait_for()
    area = page.locator(".u-over").bounding_box()
    assert area is not None
    x = [area["x"] + area["width"] * t / RULER_S for t in (from_s, (from_s + to_s) / 2, to_s)]
    y = area["y"] + 60
    page.mouse.move(x[0], y)
    page.mouse.down()
    page.mouse.move(x[1], y, steps=3)
    page.mouse.move(x[2], y, steps=3)
    page.mouse.up()
    page.get_by_label("True distance", exact=True).fill(true_m)
    page.get_by_label("Name", exact=True).fill(name)
    page.get_by_role("button", name="Keep the mark").click()
    expect(page.get_by_role("form", name="Mark")).to_have_count(0)
    expect(page.get_by_role("row", name=name)).to_be_visible()


def calibrate(page: Page) -> None:
    """On the Calibrate bench: three marks, and keep the fit."""
    expect(page.get_by_text("or drag over another")).to_be_visible()
    for from_s, to_s, true_m, name in MARKS:
        mark(page, from_s, to_s, true_m, name)
    page.get_by_role("button", name="Keep this calibration").click()
    expect(page.get_by_text("The calibration is kept and in use.")).to_be_visible()


def tune(page: Page) -> None:
    """On the Tune bench: work out the stopping distance and take what follows from it."""
    page.get_by_label("Speed", exact=True).fill("0.6")
    page.get_by_label("Braking").fill("1.2")
    page.get_by_role("button", name="Take ").click()
    page.get_by_role("button", name="Keep the thresholds").click()
    expect(page.get_by_text("The decision is kept.")).to_be_visible()


def result_m(page: Page) -> float:
    """The distance in the working line, m."""
    text = page.get_by_test_id("result").locator("b").inner_text()
    return float(text.replace("−", "-"))
