"""A kind of sensor that the product never heard of has a whole bench."""

from __future__ import annotations

import json
from typing import Any

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import OpenPage
from tests.kinds.loads import sensor_with_recording
from tests.kinds.tray import Tray
from tickstone.core.chains import CHAINS


def test_it_has_a_bench_of_its_own(open_page: OpenPage, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setitem(CHAINS, "tray", Tray())
    page = open_page("/rigs/1")
    origin = page.url.split("/rigs")[0]

    class Asker:
        def request(self, method: str, path: str, json: Any = None) -> Any:
            answer = page.request.fetch(origin + path, method=method, data=json)
            return Answer(answer)

        def post(self, path: str, params: dict[str, str], content: bytes) -> Any:
            return Answer(page.request.post(origin + path, params=params, data=content))

    class Answer:
        def __init__(self, answer: Any) -> None:
            self.status_code, self.text, self.content = answer.status, answer.text(), answer.body()

        def json(self) -> Any:
            return json.loads(self.text)

    sensor, _ = sensor_with_recording(Asker())
    page.goto(f"{origin}/sensors/{sensor}/heard")
    expect(page.get_by_text("600 weighings")).to_be_visible()
    expect(page.get_by_role("button", name="both cells")).to_be_visible()
    page.keyboard.press("3")
    expect(page.get_by_role("list", name="What to do")).to_contain_text("Put two kilograms on.")
    page.keyboard.press("m")
    page.get_by_label("From", exact=True).fill("1")
    page.get_by_label("To", exact=True).fill("9")
    page.get_by_label("Pose").select_option("empty")
    page.get_by_role("button", name="Keep the mark").click()
    expect(page.get_by_text("two, five is not marked yet")).to_be_visible()
    page.keyboard.press("4")
    expect(page.get_by_role("heading", name="What it carries")).to_be_visible()
    page.get_by_role("button", name="Take 3").click()
    page.get_by_role("button", name="Keep the thresholds").click()
    expect(page.get_by_text("The decision is kept.")).to_be_visible()
    page.keyboard.press("r")
    expect(page.get_by_role("dialog")).to_contain_text("kg")
