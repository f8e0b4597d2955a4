"""Rules drawn, replayed and kept; a loop tuned in the right order; a run that bears a drive out."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import OpenPage


def view(page: Page, name: str) -> None:
    page.get_by_role("navigation", name="Views").get_by_role(
        "button", name=name, exact=True
    ).click()


def test_rules_are_changed_replayed_and_kept(open_page: OpenPage) -> None:
    page = open_page("/rigs/1")
    expect(page.get_by_role("heading", name="Bramble, stone by stone")).to_be_visible()
    page.keyboard.press("s")
    expect(page.get_by_role("heading", name="Bramble: what it does")).to_be_visible()
    # A stone in hand: how long it backs up.
    page.get_by_role("button", name=re.compile("^▸ back back up")).click()
    panel = page.get_by_role("region", name="State back")
    panel.get_by_label("Left after").fill("1.2")
    expect(page.get_by_role("heading", name=re.compile("back goes 0.48 m blind"))).to_be_visible()
    panel.get_by_label("Left after").fill("0.6")
    expect(page.get_by_role("heading", name=re.compile("m blind"))).to_have_count(0)
    # The same as a table: a condition that cannot be is named by its place, and the next is read.
    view(page, "Table")
    when = page.get_by_label("When, of way 2")
    when.fill("frnt < 0.5")
    when.press("Enter")
    expect(page.get_by_role("alert").filter(has_text="transitions 2, when")).to_be_visible()
    expect(page.get_by_role("button", name="Keep the rules")).to_be_disabled()
    when.fill("front < 50 cm")
    when.press("Enter")
    expect(page.get_by_text("front below 0.5 m")).to_be_visible()
    # Replayed beside the version that was kept, with what it saw.
    view(page, "Replay")
    expect(page.get_by_text("A as it stands")).to_be_visible()
    page.get_by_role("combobox", name="beside").select_option(index=1)
    expect(page.get_by_role("heading", name=re.compile("^B: right for"))).to_be_visible()
    strips = page.get_by_role("application")
    box = strips.bounding_box()
    assert box is not None
    page.mouse.click(box["x"] + 128 + (box["width"] - 136) * 11.4 / 72.0, box["y"] + 30)
    saw = page.get_by_role("region", name="What it saw")
    expect(saw).to_contain_text(re.compile(r"in (brake|back), since 1[01]\.\d+ s"))
    expect(saw).to_contain_text("±")
    page.get_by_role("button", name=re.compile("s, for .* s: .* for ")).first.click()
    expect(page.get_by_role("button", name="All of it")).to_be_visible()
    # Kept, and taken back.
    page.get_by_label("Why these rules").fill("sooner at the crate")
    page.get_by_role("button", name="Keep the rules").click()
    expect(page.get_by_text("Bramble goes by these rules now.")).to_be_visible()
    expect(page.get_by_text(re.compile("kept .*, in use"))).to_be_visible()
    page.get_by_role("button", name=re.compile("Undo")).click()
    expect(page.get_by_text("changed since it was kept")).to_be_visible()


def test_a_way_is_led_by_a_finger(open_page: OpenPage) -> None:
    page = open_page("/rigs/1/rules")
    dot = page.get_by_role("img", name="Lead a way from stopped", exact=True)
    expect(dot).to_be_visible()
    ways = page.get_by_role("button", name=re.compile("^(\\d+:|◷)"))
    before = ways.count()
    start = dot.bounding_box()
    end = page.get_by_role("button", name=re.compile("^▪ avoid")).bounding_box()
    assert start is not None
    assert end is not None
    finger = page.context.new_cdp_session(page)
    finger.send("Emulation.setTouchEmulationEnabled", {"enabled": True})
    x, y = start["x"] + start["width"] / 2, start["y"] + start["height"] / 2
    across, down = end["x"] + end["width"] / 2 - x, end["y"] + end["height"] / 2 - y
    finger.send(
        "Input.dispatchTouchEvent", {"type": "touchStart", "touchPoints": [{"x": x, "y": y}]}
    )
    for n in range(1, 11):
        at = {"x": x + across * n / 10, "y": y + down * n / 10}
        finger.send("Input.dispatchTouchEvent", {"type": "touchMove", "touchPoints": [at]})
    finger.send("Input.dispatchTouchEvent", {"type": "touchEnd", "touchPoints": []})
    expect(ways).to_have_count(before + 1)
    expect(page.get_by_role("button", name="Step back")).to_be_enabled()


def test_a_way_is_led_by_hand_from_stone_to_stone(open_page: OpenPage) -> None:
    page = open_page("/rigs/1/rules")
    expect(page.get_by_role("button", name=re.compile("^7: "))).to_be_visible()
    dot = page.get_by_label("Lead a way from avoid").bounding_box()
    stone = page.get_by_role("button", name=re.compile("^▪ stopped stop")).bounding_box()
    assert dot is not None
    assert stone is not None
    page.mouse.move(dot["x"] + 5, dot["y"] + 5)
    page.mouse.down()
    page.mouse.move(stone["x"] + 50, stone["y"] + 50, steps=4)
    page.mouse.move(stone["x"] + 50, stone["y"] + 30, steps=2)
    page.mouse.up()
    expect(page.get_by_role("heading", name="Way 8: avoid → stopped")).to_be_visible()
    page.get_by_role("button", name="Step back").click()
    expect(page.get_by_role("button", name=re.compile("^8: "))).to_have_count(0)


def test_what_would_have_been_right_is_marked_on_the_strips(open_page: OpenPage) -> None:
    page = open_page("/rigs/1/rules")
    view(page, "Replay")
    strips = page.get_by_role("application")
    expect(strips).to_be_visible()
    box = strips.bounding_box()
    assert box is not None
    at = [box["x"] + 128 + (box["width"] - 136) * t / 72.0 for t in (63.0, 66.0, 70.0)]
    page.mouse.move(at[0], box["y"] + 100)
    page.mouse.down()
    page.mouse.move(at[1], box["y"] + 100, steps=3)
    page.mouse.move(at[2], box["y"] + 100, steps=3)
    page.mouse.up()
    page.get_by_text("Right would have been").wait_for()
    page.get_by_role("button", name="drive", exact=True).click()
    expect(page.get_by_text(re.compile("drive would have been right from 63"))).to_be_visible()


def test_a_loop_is_tuned_by_hand_and_by_a_known_way(open_page: OpenPage) -> None:
    page = open_page("/rigs/1")
    expect(page.get_by_role("heading", name="Bramble, stone by stone")).to_be_visible()
    page.keyboard.press("p")
    expect(page.get_by_role("heading", name="Bramble: controllers")).to_be_visible()
    # By hand: first P alone.
    expect(page.get_by_text("Take them out: first P alone.")).to_be_visible()
    page.get_by_role("button", name=re.compile("^Try P 0.3")).click()
    expect(page.get_by_text("Turn P up by half.")).to_be_visible()
    page.get_by_role("button", name=re.compile("^Try P 0.45")).click()
    expect(page.get_by_label("P of A", exact=True)).to_have_value("0.45")
    # A second beside it, by a known way; then one that is not stable.
    page.get_by_role("button", name="Another beside A").click()
    page.get_by_role("button", name="Known ways").click()
    page.locator(".known-way").filter(has_text="SIMC").get_by_role(
        "button", name="Take these"
    ).click()
    expect(page.get_by_label("P of B", exact=True)).not_to_have_value("0.45")
    page.get_by_label("P of B", exact=True).fill("9")
    expect(page.get_by_text("Not stable: its swings grow")).to_be_visible()
    # A plant from one's own step, with its ±.
    page.get_by_role("button", name="Your own step").click()
    page.get_by_label("Recording").select_option(label="rear axle, power 30 to 75 %")
    expect(page.get_by_text(re.compile(r"Gain 4\.1\d+ ± 0\.0"))).to_be_visible()
    page.get_by_role("button", name="Steer this").click()
    expect(page.get_by_role("combobox", name="Steered")).to_have_value("fitted")
    page.get_by_label("P of A", exact=True).fill("0.5")
    page.get_by_label("Why this controller").fill("fitted")
    page.get_by_role("button", name="Keep A").click()
    expect(page.get_by_text("Bramble keeps this controller")).to_be_visible()
    # Another is kept; the first is put beside it, and gone by again.
    page.get_by_label("P of A", exact=True).fill("0.7")
    page.get_by_label("Why this controller").fill("livelier")
    page.get_by_role("button", name="Keep A").click()
    kept = page.get_by_label("Kept controllers")
    first = kept.get_by_role("option", name=re.compile("fitted$"))
    expect(kept.get_by_role("option", name=re.compile(r"livelier \(in use\)$"))).to_have_count(1)
    number = first.get_attribute("value")
    assert number is not None
    kept.select_option(number)
    page.get_by_role("button", name="Put it beside").click()
    expect(page.get_by_label("P of B", exact=True)).to_have_value("0.5")
    kept.select_option(number)
    page.get_by_role("button", name="Go by it again").click()
    expect(kept.get_by_role("option", name=re.compile(r"fitted \(in use\)$"))).to_have_count(1)
    expect(page.get_by_label("P of A", exact=True)).to_have_value("0.5")
    expect(page.get_by_label("P of B", exact=True)).to_have_count(0)


def test_a_run_is_the_evidence_of_a_drive(open_page: OpenPage) -> None:
    page = open_page("/sensors/2/driven")
    page.get_by_label("The run, as evidence").select_option(index=1)
    expect(page.get_by_text("In this recording nothing happened")).to_be_visible()
    page.get_by_role("button", name="It went as expected").click()
    expect(page.get_by_role("cell", name=re.compile("by “ruler, frosty morning”"))).to_be_visible()
