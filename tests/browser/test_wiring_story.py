"""A rig from nothing to a signed wiring, as a person does it; and what its other views show."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import OpenPage
from tickstone.demo.wirings import wiring_text


def add_by_labels(page: Page, labels: str, family: str, name: str) -> None:
    page.get_by_label("Labels printed beside the pins").fill(labels)
    page.get_by_role("button", name=family).click()
    page.get_by_label("Its name").fill(name)
    page.get_by_role("button", name="Add it", exact=True).click()
    expect(page.get_by_role("region", name=name)).to_be_visible()


def test_labels_that_fit_many_kinds_ask_what_one_sees_and_choose_for_nobody(
    open_page: OpenPage,
) -> None:
    page = open_page("/rigs/1/wire/plan")
    page.get_by_role("button", name="Add a device").click()
    page.get_by_label("Labels printed beside the pins").fill("VCC GND OUT")
    asked = page.get_by_role("group", name="Families with these labels")
    expect(asked).to_contain_text("Which of them is it?")
    expect(asked.get_by_role("button", pressed=True)).to_have_count(0)
    expect(page.get_by_role("button", name="Add it", exact=True)).to_be_disabled()
    asked.get_by_role("button", name="A fork with a gap in it").click()
    expect(page.get_by_label("Kind")).to_have_value("slotted_encoder")
    expect(page.get_by_role("button", name="Add it", exact=True)).to_be_enabled()


def test_from_nothing_to_a_signed_wiring(open_page: OpenPage) -> None:
    page = open_page("/rigs")
    page.get_by_label("New rig").fill("Newt")
    page.get_by_label("Board").select_option(label="3.3 V dual-core board")
    page.get_by_role("button", name="Add the rig").click()
    expect(page.get_by_role("heading", name="Newt, wiring")).to_be_visible()

    add_by_labels(page, "VCC TRIG ECHO GND", "ultrasonic ranger, 4 leads", "Nose")
    page.get_by_label("Labels printed beside the pins").fill("")
    page.get_by_label("Kind").select_option(label="Hall switch, unipolar")
    page.get_by_label("Its name").fill("Wheel")
    page.get_by_role("button", name="Add it", exact=True).click()
    expect(page.get_by_text("7 leads without a place")).to_be_visible()

    # By hand first, as the builder of a fault would.
    page.get_by_label("Nose VCC goes to").select_option("5V")
    page.get_by_label("Nose ECHO goes to").select_option("GP20")
    error = page.get_by_role("article").filter(has_text="Nose ECHO puts 5 V on GP20")
    expect(error).to_contain_text("Put 1.8 kΩ over 3.3 kΩ on Nose ECHO")
    expect(error).to_contain_text("3.12 to 3.35 V")
    error.get_by_role("button", name="Do it").click()
    expect(page.get_by_text("1.8 kΩ in the wire")).to_be_visible()
    expect(error).to_have_count(0)
    page.keyboard.press("u")
    expect(error).to_be_visible()
    error.get_by_role("button", name="Do it").click()
    page.get_by_label("Keep Nose ECHO on GP20 when pins are proposed anew").check()

    page.get_by_role("button", name="Propose pins").click()
    expect(page.get_by_text("every lead has a place")).to_be_visible()
    expect(page.get_by_text("Nothing stands against this wiring.")).to_be_visible()
    expect(page.get_by_label("Nose ECHO goes to")).to_have_value("GP20")
    expect(page.get_by_text("10 kΩ up to the logic supply")).to_be_visible()

    page.get_by_role("link", name="Loom").click()
    thread = page.get_by_label(re.compile("^Nose ECHO to GP20"))
    thread.focus()
    expect(page.get_by_text("Nose ECHO to GP20, green, through 1.8 kΩ")).to_be_visible()
    with page.expect_download() as taken:
        page.get_by_role("button", name="SVG").click()
    drawing = Path(taken.value.path()).read_text(encoding="utf-8")
    assert drawing.startswith("<svg")
    assert "Nose" in drawing
    with page.expect_download() as taken:
        page.get_by_role("button", name="PNG").click()
    assert Path(taken.value.path()).read_bytes().startswith(b"\x89PNG")

    page.get_by_role("link", name="Wiring list").click()
    first = page.get_by_label("Done: Nose GND to GND, black.")
    first.check()
    second = page.get_by_label("Seen by a second person: Nose GND to GND, black.")
    expect(second).to_be_enabled()
    second.check()
    expect(page.locator(".wiring-list .figures")).to_contain_text("1 of ")
    page.reload()
    expect(page.get_by_label("Seen by a second person: Nose GND to GND, black.")).to_be_checked()
    volts = page.get_by_label(re.compile("^Measured: Between 3V3 and ground"))
    volts.fill("2.1")
    volts.press("Enter")
    expect(page.get_by_text("✕ wrong")).to_be_visible()
    volts.fill("3.31")
    volts.press("Enter")
    expect(page.get_by_text("✓ right")).to_be_visible()
    expect(page.get_by_text("resistor 1.8 kΩ")).to_be_visible()
    page.get_by_label("Wired by").fill("Ada")
    page.get_by_label("Looked over by").fill("Ben")
    page.get_by_label(re.compile("The .* wires left are done and seen")).check()
    agree = page.get_by_role("button", name="Both have looked; it is right")
    by_hand = "(Unplug|Lay out|.*follow the wire|With the meter|Pull gently|Plug in)"
    for done in page.get_by_label(re.compile(f"^Done: {by_hand}")).all():
        expect(agree).to_be_disabled()
        done.check()
    for seen in page.get_by_label(re.compile(f"^Seen by a second person: {by_hand}")).all():
        expect(agree).to_be_disabled()
        seen.check()
    while (skip := page.get_by_label(re.compile("^Skip with a reason: "))).count():
        expect(agree).to_be_disabled()
        skip.first.click()
        page.get_by_placeholder("why it is not measured").fill("one meter, and it is away")
        page.keyboard.press("Enter")
        expect(page.get_by_placeholder("why it is not measured")).to_have_count(0)
    agree.click()
    expect(page.get_by_text("Every device’s wiring is noted as right")).to_be_visible()
    expect(page.get_by_text("wired by Ada, looked over by Ben")).to_be_visible()

    page.keyboard.press("h")
    wired = page.get_by_role("link", name="Nose, wired:")
    expect(wired).to_have_accessible_name(re.compile("done, and it holds"))
    page.keyboard.press("w")
    page.get_by_label("Nose TRIG goes to").select_option("GP21")
    expect(page.get_by_text("The wire of Nose TRIG is changed.")).to_be_visible()
    page.keyboard.press("h")
    expect(wired).to_contain_text("TRIG changed")
    page.keyboard.press("u")
    expect(wired).to_have_accessible_name(re.compile("done, and it holds"))


def test_a_part_is_changed_moved_and_taken_off(open_page: OpenPage) -> None:
    page = open_page("/rigs/1/wire/plan")
    battery = page.get_by_role("region", name="Battery")
    battery.get_by_role("button", name="Change 22 kΩ down to ground").click()
    editor = battery.get_by_role("group", name="Change the part")
    expect(editor.get_by_label("Value")).to_have_value("22k")
    editor.get_by_label("Value").fill("4k7")
    editor.get_by_label("Tolerance").select_option("0.01")
    editor.get_by_label("Body").select_option("0.125")
    editor.get_by_role("button", name="Keep it").click()
    changed = battery.get_by_role("button", name="Change 4.7 kΩ down to ground")
    expect(changed).to_have_attribute("title", "± 1 %, 0.125 W")
    changed.click()
    battery.get_by_role("button", name="Nearer the device").click()
    parts = battery.locator(".bead-words")
    expect(parts).to_have_text(["4.7 kΩ down to ground", "10 kΩ in the wire"])
    expect(battery.get_by_role("button", name="Nearer the device")).to_have_count(0)
    page.keyboard.press("u")
    expect(parts).to_have_text(["10 kΩ in the wire", "4.7 kΩ down to ground"])
    battery.get_by_role("button", name="Take 10 kΩ in the wire off").click()
    expect(parts).to_have_text(["4.7 kΩ down to ground"])


def test_a_proposal_that_cannot_be_says_why(open_page: OpenPage) -> None:
    page = open_page("/rigs/2/wire/plan")
    page.get_by_role("button", name="Add a device").click()
    page.get_by_label("Kind").select_option(label="reflective array of 3")
    page.get_by_role("button", name="Add it", exact=True).click()
    page.get_by_role("button", name="Propose pins").click()
    alert = page.get_by_role("alert")
    expect(alert).to_contain_text("3 leads need pins of their own (3 × analogue input)")
    expect(alert).to_contain_text("has none free")


def test_files_go_out_and_come_in(open_page: OpenPage, tmp_path: Path) -> None:
    page = open_page("/rigs/1/wire/plan")
    page.get_by_role("button", name="Files").click()
    with page.expect_download() as taken:
        page.get_by_role("link", name="netlist, CSV").click()
    rows = Path(taken.value.path()).read_text(encoding="utf-8")
    bad = tmp_path / "bad.csv"
    bad.write_text(rows.replace("ECHO", "ECO", 1), encoding="utf-8")
    page.get_by_label("A wiring as JSON, or a netlist as CSV").set_input_files(bad)
    page.get_by_role("button", name="Bring it in").click()
    expect(page.get_by_text("Front ranger has no lead “ECO”")).to_be_visible()
    expect(page.get_by_label("Front ranger ECHO goes to")).to_have_value("D8")

    good = tmp_path / "good.csv"
    good.write_text(rows.replace("ECHO,D8", "ECHO,D9"), encoding="utf-8")
    page.get_by_label("A wiring as JSON, or a netlist as CSV").set_input_files(good)
    page.get_by_role("button", name="Bring it in").click()
    expect(page.get_by_label("Front ranger ECHO goes to")).to_have_value("D9")
    page.keyboard.press("u")
    expect(page.get_by_label("Front ranger ECHO goes to")).to_have_value("D8")


def test_a_rig_without_a_board_takes_a_whole_file(open_page: OpenPage, tmp_path: Path) -> None:
    page = open_page("/rigs")
    page.get_by_label("New rig").fill("Twin")
    page.get_by_role("button", name="Add the rig").click()
    expect(page.get_by_role("heading", name="Twin: which board?")).to_be_visible()
    file = tmp_path / "pipit.json"
    file.write_text(wiring_text("pipit"), encoding="utf-8")
    page.get_by_role("button", name="Bring in a file").click()
    page.get_by_label("A wiring as JSON, or a netlist as CSV").set_input_files(file)
    page.get_by_role("button", name="Bring it in").click()
    expect(page.get_by_role("region", name="Side ranger")).to_be_visible()


def test_the_loom_zooms_pans_and_traces_by_keyboard(open_page: OpenPage) -> None:
    page = open_page("/rigs/1/wire/loom")
    drawing = page.locator(".loom-drawing")
    whole = drawing.get_attribute("viewBox")
    page.get_by_label("Loom; plus, minus and arrows zoom and move it").focus()
    page.keyboard.press("+")
    closer = drawing.get_attribute("viewBox")
    assert closer != whole
    page.keyboard.press("ArrowRight")
    assert drawing.get_attribute("viewBox") != closer
    page.keyboard.press("0")
    expect(drawing).to_have_attribute("viewBox", whole or "")
    drawing.hover()
    page.mouse.wheel(0, -300)
    expect(drawing).not_to_have_attribute("viewBox", whole or "")
    page.get_by_role("button", name="Whole").click()
    page.get_by_label(re.compile("^Nose strip, reflective array")).focus()
    faded = page.locator(".loom-thread[opacity='0.16']")
    expect(faded).to_have_count(9)


def test_parts_sums_show_their_working(open_page: OpenPage) -> None:
    page = open_page("/parts/divider")
    page.get_by_label("Do", exact=True).select_option("design for a level")
    results = page.get_by_label("Results")
    expect(results).to_contain_text("1.8 kΩ")
    expect(results).to_contain_text("3.119 V")
    page.get_by_role("button", name="at the tap").click()
    expect(page.get_by_text("Uncertainty ±")).to_be_visible()
    page.get_by_role("link", name="Resistor colours").click()
    page.get_by_label("Bands, from the end nearest them").fill("red gold")
    expect(page.get_by_text("a resistor has 3 to 6 bands")).to_be_visible()
    page.get_by_label("Bands, from the end nearest them").fill("brown grey red gold")
    expect(page.get_by_label("Results")).to_contain_text("1.8 kΩ")


def test_the_time_budget_reaches_the_tune_bench(open_page: OpenPage) -> None:
    page = open_page("/rigs/1/wire/time")
    expect(page.get_by_text("The other way one turn takes 849 ms.")).to_be_visible()
    page.get_by_label("waits for each reading").check()
    expect(page.get_by_label("Sum")).to_contain_text("849 ms")
    expect(page.get_by_label("Sum")).to_contain_text("Shed air")
    page.goto(page.url.replace("/rigs/1/wire/time", "/sensors/2/tuned"))
    expect(page.get_by_label("Program loop")).to_have_value("849")


@pytest.mark.parametrize("media", ["screen", "print"])
def test_the_sheet_holds_all_one_wires_from(open_page: OpenPage, media: str) -> None:
    page = open_page("/rigs/2/sheet")
    page.emulate_media(media=media)  # type: ignore[arg-type]
    expect(page.get_by_role("heading", name="Pipit, wiring sheet")).to_be_visible()
    expect(page.locator(".loom-drawing")).to_be_visible()
    for words in ("Before you start", "Grounds", "Bill of materials", "resistor 10 kΩ"):
        expect(page.get_by_text(words).first).to_be_visible()
    if media == "print":
        expect(page.get_by_role("button", name="Print")).to_be_hidden()
        pdf = page.pdf(format="A4", prefer_css_page_size=True)
        assert pdf.startswith(b"%PDF")
