"""The other hands on a wiring: settings, boards, time budget, all repairs at once, a phone."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import OpenPage
from tests.browser.test_screens import serious


def findings(page: Page) -> int:
    counts = page.locator(".findings-toggle .count").all_inner_texts()
    return sum(int(text.split()[-1]) for text in counts)


def test_mend_all_and_take_it_all_back(open_page: OpenPage) -> None:
    page = open_page("/rigs/2/wire/plan")
    page.get_by_role("button", name="Mend all 2").click()
    expect(page.get_by_text("Nothing stands against this wiring.")).to_be_visible()
    expect(page.get_by_text("1.8 kΩ in the wire")).to_be_visible()
    expect(page.get_by_text("100 nF to ground")).to_have_count(2)
    page.keyboard.press("u")
    expect(page.get_by_role("button", name="Mend all 2")).to_be_visible()
    assert findings(page) == 2
    page.locator(".findings-toggle").click()
    expect(page.get_by_role("article")).to_have_count(0)
    expect(page.get_by_role("button", name="Findings error 1 note 1")).to_be_visible()


def test_a_reference_on_its_pin_becomes_a_step_of_the_list(open_page: OpenPage) -> None:
    page = open_page("/rigs/1/wire/plan")
    page.get_by_role("button", name="Settings").click()
    page.get_by_label("Converter’s reference").select_option("3V3 on the reference pin")
    page.get_by_label("Wires, each").fill("0.5")
    page.get_by_role("button", name="Keep them").click()
    expect(page.get_by_text("The settings are kept.")).to_be_visible()
    expect(page.get_by_text("beyond the reference of 3.3 V").first).to_be_visible()
    page.get_by_role("link", name="Wiring list").click()
    step = page.get_by_label("Done: 3V3 to the board’s reference pin, red.")
    expect(step).not_to_be_checked()
    expect(page.get_by_text("choose", exact=False).first).to_be_visible()
    expect(page.get_by_text("0.5 m each").first).to_be_visible()
    page.keyboard.press("u")
    expect(step).to_have_count(0)


def test_another_board_and_back(open_page: OpenPage) -> None:
    page = open_page("/rigs/2/wire/plan")
    choose_board(page, "3.3 V single-board computer")
    expect(page.get_by_text(re.compile("3 devices, [0-9]+ leads without a place"))).to_be_visible()
    choose_board(page, "3.3 V dual-core board")
    expect(page.get_by_text("3 devices, every lead has a place")).to_be_visible()


def test_a_proposal_places_what_it_can_and_names_the_rest(open_page: OpenPage) -> None:
    page = open_page("/rigs/2/wire/plan")
    choose_board(page, "3.3 V single-board computer")
    page.get_by_role("button", name="Propose pins").click()
    alert = page.get_by_role("alert")
    expect(alert).to_contain_text("3.3 V single-board computer has none free")
    expect(page.get_by_label("Side ranger TRIG goes to")).to_have_value(re.compile("GPIO"))
    assert serious(page) == []
    alert.get_by_role("button", name="Close").click()
    expect(alert).to_have_count(0)


def choose_board(page: Page, name: str) -> None:
    page.get_by_role("button", name="Other board").click()
    page.get_by_role("button", name=re.compile(f"^{name}")).click()
    expect(page.get_by_text("The board is chosen.").first).to_be_visible()


def test_optional_leads_come_out_when_asked_for(open_page: OpenPage) -> None:
    page = open_page("/rigs/1/wire/plan")
    deck = page.get_by_role("region", name="Deck level")
    expect(deck.get_by_label("Deck level AD0 goes to")).to_have_count(0)
    deck.get_by_role("button", name="2 more that may stay open").click()
    deck.get_by_label("Deck level AD0 goes to").select_option("D6")
    too_high = page.get_by_role("article").filter(has_text="D6 gives Deck level AD0 up to 5.25 V")
    expect(too_high).to_contain_text("it bears 3.6 V")
    too_high.get_by_role("button", name="Do it").click()
    expect(too_high).to_have_count(0)
    deck.get_by_label("Bus address").select_option("0x69")
    expect(page.get_by_text("Deck level is noted.")).to_be_visible()
    page.reload()
    expect(deck.get_by_label("Bus address")).to_have_value("105")


def test_the_time_budget_follows_what_is_typed_and_feeds_the_stop(open_page: OpenPage) -> None:
    page = open_page("/rigs/1/wire/time")
    turn = page.get_by_label("Sum").get_by_text(re.compile("ms$")).first
    woven = turn.inner_text()
    page.get_by_label("waits for each reading").check()
    expect(turn).not_to_have_text(woven)
    expect(page.get_by_text("that is worth the work")).to_be_visible()
    page.get_by_label("Delays per turn").fill("150")
    page.get_by_label("Delays per turn").blur()
    expect(page.get_by_role("row", name="delays")).to_contain_text("150 ms")
    waiting = float(turn.inner_text().split(" ")[0])
    assert waiting > float(woven.split(" ")[0]) + 150.0
    page.goto(page.url.replace("/rigs/1/wire/time", "/sensors/2/tuned"))
    expect(page.get_by_label("Program loop")).to_have_value(f"{waiting:.0f}")
    page.go_back()
    page.get_by_label("Serial line").fill("5")
    page.get_by_label("Serial line").blur()
    expect(page.get_by_text("baud: 5 is outside 300 to 4e+06")).to_be_visible()
    expect(page.get_by_label("Serial line")).to_have_value("9600")


def test_the_list_and_its_measurements_on_a_phone(open_page: OpenPage) -> None:
    page = open_page("/rigs/2/wire/list", width=390, height=844)
    page.get_by_label("Done: Front axle GND to GND, black.").check()
    seen = page.get_by_label("Seen by a second person: Front axle GND to GND, black.")
    seen.check()
    expect(page.locator(".wiring-list .figures")).to_contain_text("1 of ")
    page.get_by_label("Done: Front axle GND to GND, black.").uncheck()
    expect(seen).not_to_be_checked()
    volts = page.get_by_label(re.compile("^Measured: Front axle OUT at GP6, at rest"))
    volts.fill("3,29")
    volts.press("Enter")
    expect(page.get_by_text("✓ right")).to_be_visible()
    volts.fill("three")
    expect(volts).to_have_class(re.compile("is-invalid"))
    page.reload()
    expect(volts).to_have_value("3.29")
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
