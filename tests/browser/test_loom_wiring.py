"""Wiring on the loom itself: an end is taken, led and dropped, by mouse and by keys."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import OpenPage


@pytest.fixture
def loom(open_page: OpenPage) -> Page:
    """A loom with a lamp whose leads are loose, a wheel on D2, a pack and a transistor."""
    page = open_page("/rigs")
    origin = "/".join(page.url.split("/")[:3])
    request = page.request
    rig = request.post(
        f"{origin}/api/rigs", data={"name": "Thorn", "board": "five_volt_8bit_small"}
    ).json()["id"]
    ids = {}
    for name, family in (("Lamp", "indicator_led"), ("Wheel", "hall_switch_unipolar")):
        made = request.post(
            f"{origin}/api/rigs/{rig}/sensors", data={"name": name, "family": family}
        )
        ids[name] = made.json()["id"]
    wiring = f"{origin}/api/rigs/{rig}/wiring"
    wires = {("Wheel", "VCC"): "5V", ("Wheel", "GND"): "GND", ("Wheel", "OUT"): "D2"}
    answer = request.put(
        wiring,
        data={
            "connections": [
                {"device": ids[device], "lead": lead, "to": to}
                for (device, lead), to in wires.items()
            ],
            "supplies": [{"key": "BAT", "name": "drive pack", "cells": 4, "chemistry": "nickel"}],
            "joints": ["J1"],
            "parts": [
                {
                    "key": "T1",
                    "kind": "transistor",
                    "ends": {"base": "J1", "collector": f"{ids['Lamp']}.K", "emitter": "GND"},
                },
                {"key": "R1", "kind": "resistor", "ends": {"a": "D9", "b": "J1"}, "ohm": 1000},
            ],
            "revision": request.get(wiring).json()["revision"],
        },
    )
    assert answer.ok, answer.text()
    page.goto(f"{origin}/rigs/{rig}/wire/loom")
    expect(page.locator(".loom-drawing")).to_be_visible()
    return page


def middle(page: Page, what: str) -> tuple[float, float]:
    box = page.locator(what).first.bounding_box()
    assert box
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def drag(page: Page, start: tuple[float, float], end: tuple[float, float]) -> None:
    page.mouse.move(*start)
    page.mouse.down()
    page.mouse.move((start[0] + end[0]) / 2, (start[1] + end[1]) / 2, steps=3)
    page.mouse.move(*end, steps=3)


def dot_of(page: Page, name: str) -> str:
    """The end of a lead on its card, by the lead's name."""
    lead = page.locator(f".loom-card [data-lead$='.{name}']").first.get_attribute("data-lead")
    return f".loom-card [data-lead='{lead}'] circle"


def tooth(pin: str) -> str:
    return f".loom-tooth[data-place='{pin}'] rect"


def test_a_thread_is_dragged_to_another_pin_and_its_verdict_told_before_and_after(
    loom: Page,
) -> None:
    drag(loom, middle(loom, dot_of(loom, "OUT")), middle(loom, tooth("D3")))
    panel = loom.locator(".loom-panel")
    expect(panel).to_contain_text("Wheel OUT in hand: pin D3, free")
    expect(panel).to_contain_text("Wheel OUT low: 0.00 V")
    loom.mouse.up()
    expect(loom.get_by_label(re.compile("^Wheel OUT to D3"))).to_have_count(1)
    expect(loom.get_by_role("group", name="Wheel OUT", exact=True)).to_contain_text(
        "will not work: Wheel OUT only pulls down"
    )
    loom.get_by_role("button", name=re.compile("^Undo")).click()
    expect(loom.get_by_label(re.compile("^Wheel OUT to D2"))).to_have_count(1)


def test_dropped_on_nothing_it_goes_back(loom: Page) -> None:
    x, y = middle(loom, dot_of(loom, "OUT"))
    drag(loom, (x, y), (x + 60, y + 70))
    expect(loom.locator(".loom-held")).to_have_count(1)
    loom.mouse.up()
    expect(loom.locator(".loom-held")).to_have_count(0)
    expect(loom.get_by_label(re.compile("^Wheel OUT to D2"))).to_have_count(1)


def test_a_loose_end_is_led_by_keys_alone(loom: Page) -> None:
    loom.get_by_label("Lamp A goes nowhere yet: take it").focus()
    loom.keyboard.press("Enter")
    panel = loom.locator(".loom-panel")
    expect(panel).to_contain_text("Lamp A in hand.")
    loom.keyboard.type("d5")
    expect(panel).to_contain_text("pin D5, free")
    loom.keyboard.press("ArrowDown")
    expect(panel).to_contain_text("pin D6, free")
    loom.keyboard.press("Enter")
    expect(loom.get_by_label(re.compile("^Lamp A to D6"))).to_have_count(1)
    loom.get_by_label(re.compile("^Lamp A to D6")).focus()
    loom.keyboard.press("t")
    expect(panel).to_contain_text("Lamp A in hand")
    loom.keyboard.press("Escape")
    loom.get_by_label(re.compile("^Lamp A to D6")).focus()
    loom.keyboard.press("Delete")
    expect(loom.get_by_label("Lamp A goes nowhere yet: take it")).to_be_visible()


def test_an_end_is_taken_by_one_click_and_dropped_on_a_band_by_another(loom: Page) -> None:
    loom.mouse.click(*middle(loom, dot_of(loom, "A")))
    band = loom.locator(".loom-band[data-place='BAT+'] text").bounding_box()
    assert band
    loom.mouse.click(band["x"] + 5, band["y"] + band["height"] / 2)
    expect(loom.get_by_label(re.compile(r"^Lamp A to drive pack \+"))).to_have_count(1)


def test_a_lead_is_joined_to_a_thread_and_both_meet_at_a_joint(loom: Page) -> None:
    before = loom.locator(".loom-dot").count()
    loom.mouse.click(*middle(loom, dot_of(loom, "A")))
    loom.mouse.click(*middle(loom, dot_of(loom, "OUT")))
    expect(loom.get_by_label(re.compile("^Lamp A to Wheel OUT"))).to_have_count(1)
    expect(loom.locator(".loom-dot")).to_have_count(before + 1)


def test_a_leg_of_a_part_goes_elsewhere_and_the_joint_it_left_alone_goes(loom: Page) -> None:
    loom.locator(".loom-tag[aria-label^='T1']").focus()
    loom.keyboard.press("Enter")
    loom.get_by_role("button", name="Take T1, base").click()
    loom.keyboard.type("d10")
    loom.keyboard.press("Enter")
    expect(loom.locator(".loom-panel")).to_contain_text("T1, base to D10")
    loom.locator(".loom-tag[aria-label^='R1']").focus()
    loom.keyboard.press("Enter")
    loom.get_by_role("button", name="Take R1, to").click()
    loom.keyboard.type("d11")
    loom.keyboard.press("Enter")
    expect(loom.locator(".loom-panel")).to_contain_text("R1, to to D11")
    expect(loom.locator(".loom-dot[aria-label='joint J1']")).to_have_count(0)


def test_a_part_is_dragged_onto_a_thread_and_given_its_value(loom: Page) -> None:
    button = loom.get_by_role("button", name="resistor up to a supply")
    box = button.bounding_box()
    assert box
    start = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    drag(loom, start, middle(loom, dot_of(loom, "OUT")))
    loom.mouse.up()
    panel = loom.get_by_role("group", name="Wheel OUT", exact=True)
    panel.get_by_label("Value").fill("10k")
    panel.get_by_role("button", name="Keep it").click()
    expect(panel).to_contain_text("Nothing stands against it.")
    expect(
        panel.get_by_role("button", name="Change 10 kΩ up to the logic supply of")
    ).to_be_visible()
