"""A family of one's own, made on screen: what is pressed and typed is what its file then says."""

from __future__ import annotations

import json
from typing import Any

from playwright.sync_api import Locator, Page, expect

from tests.browser.conftest import OpenPage
from tests.browser.test_screens import serious
from tickstone.formats.family_file import shipped_boards


def kept(page: Page, kind: str, name: str) -> dict[str, Any]:
    """Keeps what is on screen and reads the family's file."""
    page.get_by_role("button", name="Keep it").click()
    expect(page.get_by_role("button", name="Change it")).to_be_visible()
    origin = page.url.split("/families")[0]
    answer = page.request.get(f"{origin}/api/families/{kind}/{name}/file")
    document: dict[str, Any] = answer.json()
    return document


def card(page: Page, name: str) -> Locator:
    return page.get_by_role("group", name=name, exact=True)


def test_a_device_is_described_lead_by_lead(open_page: OpenPage) -> None:
    page = open_page("/families/device/ultrasonic_ranger")
    page.get_by_role("button", name="Clone it").click()
    page.get_by_label("Name in files").fill("shed_ranger")
    page.get_by_label("What people call it").fill("shed ranger")
    page.get_by_label("Cautions, a line each").fill("Mind the cat.\nAnd the dog.")
    echo = card(page, "Lead ECHO")
    echo.get_by_label("Drives").select_option("only down to ground")
    echo.get_by_label("Another figure").select_option(label="output sinks at most, A")
    echo.get_by_label("output sinks at most", exact=True).fill("12")
    echo.get_by_label("Printed beside it").fill("ECHO, E, Out")
    page.get_by_role("button", name="Another lead").click()
    new = card(page, "Lead OUT1")
    new.get_by_label("Is", exact=True).select_option("analogue output")
    new.get_by_label("follows its supply").check()
    new.get_by_label("analogue high", exact=True).fill("4.5")
    new.get_by_label("source of analogue high").fill("measured")
    page.get_by_label("supply takes in work", exact=True).fill("2,5")
    page.get_by_role("button", name="Leave out: hears others of its kind within").click()
    assert serious(page) == []

    document = kept(page, "device", "shed_ranger")
    expect(page.get_by_role("heading", name="shed ranger")).to_be_visible()
    leads = {lead["name"]: lead for lead in document["leads"]}
    assert document["cautions"] == ["Mind the cat.", "And the dog."]
    assert leads["ECHO"]["output"]["drive"] == "open_drain"
    assert leads["ECHO"]["output"]["sink_a"] == {"value": 0.012, "source": "my datasheet"}
    assert leads["ECHO"]["labels"] == ["ECHO", "E", "Out"]
    assert leads["OUT1"]["role"] == "analogue"
    assert leads["OUT1"]["analogue"]["ratiometric"] is True
    assert leads["OUT1"]["analogue"]["high_v"] == {"value": 4.5, "source": "measured"}
    assert "output" not in leads["OUT1"]
    assert document["supply"]["typical_a"] == {"value": 0.0025, "source": "my datasheet"}
    assert "beam_rad" not in document

    page.get_by_role("button", name="Change it").click()
    page.get_by_role("button", name="Remove lead: OUT1").click()
    document = kept(page, "device", "shed_ranger")
    assert [lead["name"] for lead in document["leads"]] == ["VCC", "TRIG", "ECHO", "GND"]
    page.keyboard.press("u")
    expect(page.get_by_role("rowheader", name="OUT1", exact=True)).to_be_visible()


def test_a_bus_comes_and_goes_with_its_leads(open_page: OpenPage) -> None:
    page = open_page("/families/device/ultrasonic_ranger")
    page.get_by_role("button", name="Clone it").click()
    page.get_by_label("Name in files").fill("bus_ranger")
    expect(page.get_by_label("I²C addresses")).to_have_count(0)
    card(page, "Lead TRIG").get_by_label("Is", exact=True).select_option("I²C clock")
    card(page, "Lead ECHO").get_by_label("Is", exact=True).select_option("I²C data")
    page.get_by_label("I²C addresses").fill("0x29, 200")
    page.get_by_role("button", name="Keep it").click()
    expect(page.get_by_role("alert")).to_contain_text("address 0xc8 is outside 0x08 to 0x77")
    expect(page.get_by_role("alert")).to_contain_text("Nothing was changed.")
    page.get_by_label("I²C addresses").fill("0x29, 48")
    document = kept(page, "device", "bus_ranger")
    assert document["i2c"]["addresses"] == [0x29, 48]
    assert {lead["role"] for lead in document["leads"]} == {"supply", "ground", "sda", "scl"}
    assert all("input" not in lead and "output" not in lead for lead in document["leads"])


def test_a_board_is_described_pin_by_pin(open_page: OpenPage) -> None:
    page = open_page("/families/board/five_volt_8bit")
    page.get_by_role("button", name="Clone it").click()
    page.get_by_label("Name in files").fill("shed_board")
    page.get_by_label("D2: I²C data (SDA)").check()
    page.get_by_label("D3: external interrupt").uncheck()
    page.get_by_role("button", name="Another pin").click()
    page.get_by_label("A6: the board’s own use").select_option("start-up")
    page.get_by_role("button", name="Keep it").click()
    expect(page.get_by_role("alert")).to_contain_text("pin A6 has a use of the board’s own")
    page.get_by_label("A6: what to mind").fill("Held low at start it waits for a new program.")
    page.get_by_role("button", name="Another rail").click()
    new = card(page, "Rail RAIL5")
    new.get_by_label("Name").fill("AUX")
    aux = card(page, "Rail AUX")
    aux.get_by_label("Within").fill("2.5")
    aux.get_by_label("volts", exact=True).fill("6")
    page.get_by_label("clock", exact=True).fill("20")
    page.get_by_role("button", name="Remove pin: D13").click()
    page.get_by_role("button", name="Another reference").click()
    card(page, "Reference reference 4").get_by_label("Comes from").select_option("AUX")
    card(page, "Reference reference 4").get_by_label("Reference", exact=True).fill("AUX by a wire")
    page.get_by_role("button", name="Remove reference: internal 1.1 V").click()
    assert serious(page) == []

    document = kept(page, "board", "shed_board")
    references = {one["name"]: one for one in document["converter"]["references"]}
    assert set(references) == {"supply 5 V", "3V3 on the reference pin", "AUX by a wire"}
    assert references["AUX by a wire"]["rail"] == "AUX"
    assert references["supply 5 V"]["follows_supply"] is True
    before = shipped_boards()["five_volt_8bit"]
    pins = {pin["name"]: pin for pin in document["pins"]}
    assert set(pins) == {pin.name for pin in before.pins} - {"D13"} | {"A6"}
    assert pins["D2"]["abilities"] == ["digital_in", "digital_out", "interrupt", "sda"]
    assert "interrupt" not in pins["D3"]["abilities"]
    assert (pins["A6"]["use"], pins["A6"]["caution"][:8]) == ("boot", "Held low")
    (rail,) = [one for one in document["rails"] if one["name"] == "AUX"]
    assert rail["tolerance"] == 0.025
    assert rail["volts"] == {"value": 6.0, "source": "my datasheet"}
    assert document["clock_hz"] == {"value": 20e6, "source": "my datasheet"}


def test_a_board_without_a_converter_gets_one(open_page: OpenPage) -> None:
    page = open_page("/families/board/three_volt_single_board_computer")
    page.get_by_role("button", name="Clone it").click()
    page.get_by_label("Name in files").fill("shed_computer")
    page.get_by_role("button", name="It has a converter").click()
    page.get_by_label("Resolves").fill("12")
    document = kept(page, "board", "shed_computer")
    assert document["converter"]["bits"] == 12
    (reference,) = document["converter"]["references"]
    assert (reference["volts"]["value"], reference["follows_supply"]) == (3.3, True)


def test_who_likes_text_better_can_have_it(open_page: OpenPage) -> None:
    page = open_page("/families/device/ultrasonic_ranger")
    page.get_by_role("button", name="Clone it").click()
    page.get_by_label("What people call it").fill("shed ranger")
    page.get_by_text("The whole description as text").click()
    text = page.get_by_role("textbox", name="The whole description as text")
    document = json.loads(text.input_value())
    assert document["label"] == "shed ranger"
    text.fill(json.dumps({**document, "leads": [document["leads"][0], {"name": "X"}]}))
    page.get_by_role("button", name="Keep it").click()
    expect(page.get_by_role("alert")).to_contain_text("leads[1].role: field required")
    text.fill("{ not yet")
    expect(page.get_by_text("The text is no JSON")).to_be_visible()
    expect(page.get_by_role("button", name="Keep it")).to_be_disabled()
    text.fill(json.dumps(document))
    page.get_by_role("button", name="Keep it").click()
    expect(page.get_by_role("heading", name="shed ranger")).to_be_visible()
    expect(page.get_by_role("link", name="shed ranger your own")).to_be_visible()
