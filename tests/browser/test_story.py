"""From echo to stop, as a person does it, with reload, kill and restart."""

from __future__ import annotations

import re
import signal

import pytest
from playwright.sync_api import Page, expect

from tests.browser.bench import MARKS, bring_in_ruler, calibrate, enter_air, result_m, tune
from tests.browser.conftest import OpenPage
from tests.server import Server


def stone(page: Page, sensor: str, stage: str):
    return page.get_by_role("link", name=f"{sensor}, {stage}:")


def test_from_echo_to_stop(open_page_of_process: OpenPage, server_process: Server) -> None:
    server, page = server_process, open_page_of_process("/")
    page.get_by_role("link", name="Bramble").click()
    expect(page.get_by_role("heading", name="Bramble, stone by stone")).to_be_visible()
    expect(page.get_by_text("Next: look over the wiring of Rear wheel.")).to_be_visible()

    page.keyboard.press("n")
    expect(page.get_by_role("heading", name="Rear wheel", level=1)).to_be_visible()
    expect(page.get_by_role("status").filter(has_text="nothing lifts it")).to_be_visible()
    page.locator(".trail-sensors").get_by_role("link", name="Front ranger").click()
    expect(page.get_by_role("heading", name="Front ranger", level=1)).to_be_visible()
    bring_in_ruler(page)
    expect(page.get_by_text("31 × no echo")).to_be_visible()
    expect(page.get_by_text("31 readings have no echo.")).to_be_visible()
    page.get_by_role("button", name="1 line was put aside").click()
    expect(page.get_by_role("cell", name="290")).to_be_visible()

    before = result_m(page)
    page.get_by_title("Enter the air this was recorded in").click()
    page.get_by_label("Air temperature").fill("28")
    expect(page.get_by_test_id("result").locator("b")).not_to_have_text(f"{before:.3f}")
    assert result_m(page) / before == pytest.approx(1 + 12 * 0.00176, abs=0.002)
    page.get_by_role("button", name="Cancel").click()
    expect(page.get_by_test_id("result").locator("b")).to_have_text(f"{before:.3f}")
    page.keyboard.press("Escape")
    enter_air(page, "14")

    page.keyboard.press("3")
    calibrate(page)
    for *_, name in MARKS:
        expect(page.get_by_role("row", name=name)).to_contain_text("yes,")
    page.get_by_role("button", name="calibration").first.click()
    expect(page.get_by_text("Comparing with the ruler has taken in")).to_be_visible()
    page.keyboard.press("Escape")

    page.keyboard.press("4")
    expect(page.get_by_text("How far it runs on")).to_be_visible()
    tune(page)
    expect(page.get_by_role("img", name="Decision over time")).to_be_visible()
    stopping = page.get_by_test_id("needed").inner_text()

    page.reload()
    expect(page.get_by_test_id("needed")).to_have_text(stopping)

    server.stop(signal.SIGKILL)
    server.kill_database()
    server.start()
    page.reload()
    expect(page.get_by_test_id("needed")).to_have_text(stopping)
    expect(page.locator(".trail-rig")).to_be_visible()
    page.keyboard.press("h")
    for stage in ("wired", "heard", "calibrated", "tuned"):
        expect(stone(page, "Front ranger", stage)).to_have_accessible_name(
            re.compile("done, and it holds")
        )

    page.get_by_role("button", name="Change the air").click()
    page.get_by_label("Air temperature").fill("26")
    page.get_by_role("button", name="Keep the air").click()
    expect(stone(page, "Front ranger", "calibrated")).to_contain_text("air +12 °C")
    expect(stone(page, "Front ranger", "calibrated")).to_have_accessible_name(
        re.compile("It was made at 14.0 °C; the air is now 26.0 °C")
    )
    expect(stone(page, "Front ranger", "tuned")).to_contain_text("follows")
    page.keyboard.press("u")
    expect(stone(page, "Front ranger", "calibrated")).not_to_contain_text("air")


def test_undo_brings_back_what_was_put_away(open_page: OpenPage) -> None:
    page = open_page("/sensors/2/heard")
    expect(page.get_by_text("900 echoes")).to_be_visible()
    page.get_by_role("button", name="Remove", exact=True).click()
    expect(page.get_by_text("Bring in a log of Left ranger.")).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_text("900 echoes")).to_be_visible()

    page.goto(page.url.replace("heard", "calibrated"))
    page.get_by_role("button", name="Remove bench leg").click()
    expect(page.get_by_role("row", name="bench leg")).to_have_count(0)
    page.keyboard.press("u")
    expect(page.get_by_role("row", name="bench leg")).to_be_visible()


def test_a_sensor_is_added_renamed_and_put_away(open_page: OpenPage) -> None:
    page = open_page("/rigs/1/wire/plan")
    page.get_by_role("button", name="Add a device").click()
    page.get_by_label("Its name").fill("Tail ranger")
    page.get_by_role("button", name="Add it").click()
    page.get_by_role("region", name="Tail ranger").get_by_role("link").click()
    expect(page.get_by_role("heading", name="Tail ranger", level=1)).to_be_visible()
    page.get_by_label("Its name").fill("Rear ranger")
    page.get_by_role("button", name="Keep it").click()
    expect(page.get_by_role("heading", name="Rear ranger", level=1)).to_be_visible()
    page.get_by_label("Rear ranger ECHO goes to").select_option("D9")
    page.get_by_label("Rear ranger VCC goes to").select_option("5V")
    page.get_by_role("checkbox", name="Done: Rear ranger VCC to 5V, red").check()
    page.get_by_role("article").filter(has_text="GND goes nowhere").get_by_role("button").click()
    expect(page.get_by_label("Rear ranger GND goes to")).to_have_value("GND")
    page.get_by_label("Note", exact=True).fill("TRIG is loose in its housing")
    page.get_by_role("button", name="Note it as wrong").click()
    expect(page.get_by_role("cell", name="TRIG is loose in its housing")).to_be_visible()
    page.keyboard.press("2")
    expect(page.get_by_text("Bring in a log of Rear ranger.")).to_be_visible()
    page.keyboard.press("1")
    page.get_by_role("button", name="Remove the sensor").click()
    expect(page.get_by_role("rowheader", name="Front ranger")).to_be_visible()
    expect(page.get_by_role("rowheader", name="Rear ranger")).to_have_count(0)
    page.keyboard.press("u")
    expect(page.get_by_role("rowheader", name="Rear ranger")).to_be_visible()


def test_what_a_person_saw_is_noted_and_taken_back(open_page: OpenPage) -> None:
    page = open_page("/sensors/2/driven")
    note = page.get_by_label("Note", exact=True)
    note.fill("ran into the bench leg")
    page.get_by_role("button", name="It did not").click()
    expect(page.get_by_role("row", name="ran into the bench leg")).to_contain_text("no")
    expect(note).to_have_value("")
    page.keyboard.press("u")
    expect(page.get_by_role("row", name="ran into the bench leg")).to_have_count(0)

    page.request.post(page.url.split("/sensors")[0] + "/api/rigs", data={"name": "Bare"})
    page.request.post(page.url.split("/sensors")[0] + "/api/rigs/3/sensors", data={"name": "Eye"})
    page.goto(page.url.split("/sensors")[0] + "/rigs/3")
    page.get_by_role("link", name="Eye, wired:").click()
    expect(page.get_by_role("link", name="Choose the board")).to_be_visible()
    note.fill("followed each lead with Ben")
    page.get_by_role("button", name="It is right").click()
    expect(page.get_by_role("row", name="followed each lead with Ben")).to_contain_text("yes")
    expect(
        page.get_by_role("link", name=re.compile("^Wired ?: done, and it holds"))
    ).to_be_visible()


def test_a_rig_is_renamed_and_put_away(open_page: OpenPage) -> None:
    page = open_page("/rigs/2")
    page.get_by_role("button", name="The rig").click()
    page.get_by_label("Its name").fill("Pipit the second")
    page.get_by_label("What it is").fill("")
    page.get_by_role("button", name="Keep it").click()
    expect(page.get_by_role("heading", name="Pipit the second, stone by stone")).to_be_visible()
    page.keyboard.press("u")
    expect(page.get_by_role("heading", name="Pipit, stone by stone")).to_be_visible()
    expect(page.get_by_text("Downhill soapbox kart", exact=True)).to_be_visible()
    page.get_by_role("button", name="Remove the rig").click()
    expect(page.get_by_role("heading", name="Rigs on this machine")).to_be_visible()
    expect(page.get_by_role("link", name="Pipit")).to_have_count(0)
    page.keyboard.press("u")
    expect(page.get_by_role("link", name="Pipit")).to_be_visible()


def test_a_chain_that_cannot_be_is_told_and_put_back(open_page: OpenPage) -> None:
    page = open_page("/sensors/2/heard")
    page.get_by_role("button", name="within range").click()
    before = result_m(page)
    page.get_by_label("Nearest").fill("9")
    expect(page.get_by_role("alert")).to_contain_text("The range has to run from")
    assert result_m(page) == before
    page.get_by_role("button", name="Cancel").click()
    expect(page.get_by_role("alert")).to_have_count(0)


def test_who_leaves_a_trial_says_whether_it_is_kept(open_page: OpenPage) -> None:
    page = open_page("/sensors/4/heard")
    expect(page.get_by_text("1 050 lines")).to_be_visible()
    page.get_by_role("button", name="pulses a turn").click()
    page.get_by_role("textbox", name="Pulses a turn").fill("2")
    expect(page.get_by_text("Trying out another chain")).to_be_visible()
    page.get_by_role("link", name="Calibrated").click()
    expect(page.get_by_text("Trying out another chain")).to_be_visible()
    trail = page.locator(".trail-sensors")
    trail.get_by_role("link", name="Left ranger").click()
    asked = page.get_by_role("dialog")
    expect(asked).to_contain_text("Keep what is tried out?")
    asked.get_by_role("button", name="Stay here").click()
    expect(page.get_by_role("heading", name="Rear wheel", level=1)).to_be_visible()
    trail.get_by_role("link", name="Left ranger").click()
    asked.get_by_role("button", name="Keep it").click()
    expect(page.get_by_role("heading", name="Left ranger", level=1)).to_be_visible()
    trail.get_by_role("link", name="Rear wheel").click()
    expect(page.get_by_role("button", name="pulses a turn")).to_contain_text("2")
    page.get_by_role("button", name="pulses a turn").click()
    page.get_by_role("textbox", name="Pulses a turn").fill("8")
    trail.get_by_role("link", name="Left ranger").click()
    asked.get_by_role("button", name="Drop it").click()
    expect(page.get_by_role("heading", name="Left ranger", level=1)).to_be_visible()
    trail.get_by_role("link", name="Rear wheel").click()
    expect(page.get_by_role("button", name="pulses a turn")).to_contain_text("2")


def test_a_wheel_is_held_against_a_watch(open_page: OpenPage) -> None:
    page = open_page("/sensors/4/heard")
    expect(page.get_by_text("1 050 lines")).to_be_visible()
    page.get_by_text("Hold the reading against something else").click()
    page.get_by_label("Held against").select_option("meter")
    shown = float(page.get_by_test_id("result").locator("b").inner_text())
    page.get_by_label("It says").fill(f"{shown / 2:.1f}")
    expect(page.get_by_text("times too high")).to_be_visible()
    expect(page.get_by_text("Both edges of every pulse are counted.")).to_be_visible()
    page.get_by_label("Hold against", exact=True).select_option("speed-display")
    expect(page.get_by_text("local rules and those who are licensed")).to_be_visible()


def test_the_same_file_twice_and_a_file_that_is_no_log(open_page: OpenPage, tmp_path) -> None:
    page = open_page("/sensors/1/heard")
    expect(page.get_by_text("420 echoes")).to_be_visible()
    bring_in_ruler(page)
    page.keyboard.press("i")
    page.get_by_role("button", name="Take the example").click()
    expect(
        page.get_by_text("This very file is already here as “ruler by the bench”")
    ).to_be_visible()
    expect(page.get_by_role("button", name="Bring it in")).to_be_disabled()
    page.get_by_label("Bring it in a second time").check()
    expect(page.get_by_role("button", name="Bring it in")).to_be_enabled()
    page.get_by_role("button", name="Another file").click()
    odd = tmp_path / "picture.csv"
    odd.write_bytes(b"\x89PNG\0\0\0\x01")
    page.get_by_label("Log file").set_input_files(odd)
    expect(page.get_by_role("alert")).to_contain_text("The file is not text")


def test_a_wrong_separator_is_seen_before_anything_is_kept(open_page: OpenPage) -> None:
    page = open_page("/sensors/1/heard")
    expect(page.get_by_text("420 echoes")).to_be_visible()
    page.keyboard.press("i")
    page.get_by_role("button", name="Take the example").click()
    expect(page.get_by_label("What echo is")).to_be_visible()
    page.get_by_text("Is it read wrongly?").click()
    page.get_by_label("Separator").select_option("semicolon")
    expect(page.get_by_role("alert")).to_contain_text("No line of the file holds numbers")
    expect(page.get_by_label("Separator")).to_have_value("comma")
    page.get_by_label("Time", exact=True).select_option("")
    expect(page.get_by_label("Rows a second")).to_be_visible()
    expect(page.get_by_role("button", name="Bring it in")).to_be_disabled()
    page.get_by_label("Time", exact=True).select_option("t")
    expect(page.get_by_label("Rows a second")).to_have_count(0)
    expect(page.get_by_label("What echo is")).to_be_visible()


def test_the_server_gone_is_told_and_the_page_comes_back(
    open_page_of_process: OpenPage, server_process: Server
) -> None:
    server, page = server_process, open_page_of_process("/sensors/2/tuned")
    expect(page.get_by_text("How far it runs on")).to_be_visible()
    server.stop()
    page.get_by_label("Stop below").fill("0.9")
    page.get_by_label("Go again above").fill("1.0")
    page.get_by_role("button", name="Keep the thresholds").click()
    expect(page.get_by_text("Tick Stone’s server is not reachable.").first).to_be_visible()
    server.start()
    page.get_by_role("button", name="Keep the thresholds").click()
    expect(page.get_by_text("The decision is kept.")).to_be_visible()
