"""The loom as it is drawn: nothing hides anything, threads arrive, and few cross."""

from __future__ import annotations

from itertools import combinations
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import OpenPage

TWELVE = [
    "ultrasonic_ranger",
    "ultrasonic_ranger",
    "ultrasonic_ranger_3_lead",
    "laser_ranger",
    "six_axis",
    "reflective_array_5",
    "hall_switch_unipolar",
    "quadrature_encoder",
    "thermometer_hygrometer",
    "battery_divider",
    "accelerometer_analogue_regulated",
    "hobby_servo",
]
MEASURE = """() => {
  const box = (one) => { const { x, y, width, height } = one.getBoundingClientRect();
    return [x, y, x + width, y + height]; };
  const drawing = document.querySelector('.loom-drawing');
  const cards = [...drawing.querySelectorAll('.loom-card')];
  return {
    frame: box(document.querySelector('.loom-frame')),
    cards: cards.map((one) => box(one.querySelector(':scope > rect'))),
    words: [...drawing.querySelectorAll('text')].map((one) => ({
      text: one.textContent, box: box(one),
      size: parseFloat(one.getAttribute('font-size')) * drawing.getScreenCTM().a })),
    threads: [...drawing.querySelectorAll('.loom-thread')].map((one) => {
      const paths = [...one.querySelectorAll(':scope > g > path:first-child')];
      const at = (path, share) => { const p = path.getPointAtLength(path.getTotalLength() * share);
        return [p.x, p.y]; };
      return { name: one.getAttribute('aria-label'),
        from: at(paths[0], 0), to: at(paths[paths.length - 1], 1) }; }),
  };
}"""


def rig_of(page: Page, families: list[str], board: str) -> int:
    """A rig with these devices, wired as proposed."""
    origin = "/".join(page.url.split("/")[:3])
    post = page.request.post
    rig: int = post(f"{origin}/api/rigs", data={"name": "Twelve", "board": board}).json()["id"]
    for place, family in enumerate(families):
        named = {"name": f"device {place}", "family": family}
        assert post(f"{origin}/api/rigs/{rig}/sensors", data=named).ok
    assert post(f"{origin}/api/rigs/{rig}/wiring/proposal", data={}).ok
    return rig


def measured(page: Page, rig: int) -> dict[str, Any]:
    page.goto("/".join(page.url.split("/")[:3]) + f"/rigs/{rig}/wire/loom")
    expect(page.locator(".loom-drawing")).to_be_visible()
    found: dict[str, Any] = page.evaluate(MEASURE)
    return found


def overlap(one: list[float], other: list[float]) -> bool:
    return one[0] < other[2] and other[0] < one[2] and one[1] < other[3] and other[1] < one[3]


def within(one: list[float], other: list[float]) -> bool:
    return one[0] >= other[0] and one[1] >= other[1] and one[2] <= other[2] and one[3] <= other[3]


def inked(word: dict[str, Any]) -> list[float]:
    """Where a word has ink: its box without the room above and below its letters."""
    left, top, right, bottom = word["box"]
    slack = 0.2 * (bottom - top)
    return [left, top + slack, right, bottom - slack]


def crossings(threads: list[dict[str, Any]]) -> int:
    """Pairs in another order at the cards than at the comb; those that share a pin never count."""
    return sum(
        (one["from"][1] - other["from"][1]) * (one["to"][1] - other["to"][1]) < -1e-6
        for one, other in combinations(threads, 2)
    )


@pytest.fixture
def drawn(open_page: OpenPage, request: pytest.FixtureRequest) -> dict[str, Any]:
    page = open_page("/rigs")
    families, board = request.param
    rig = rig_of(page, families, board) if families else {"bramble": 1, "pipit": 2}[board]
    return measured(page, rig)


RIGS = pytest.mark.parametrize(
    "drawn",
    [
        ([], "bramble"),
        ([], "pipit"),
        (TWELVE, "five_volt_8bit_many_pins"),
        ([*TWELVE[:5], "hobby_servo", "indicator_led"], "three_volt_dual_core"),
    ],
    ids=["bramble", "pipit", "twelve", "seven"],
    indirect=True,
)


@RIGS
def test_all_of_it_can_be_read_at_the_design_size(drawn: dict[str, Any]) -> None:
    assert len(drawn["cards"]) >= 3
    for one, other in combinations(drawn["cards"], 2):
        assert not overlap(one, other)
    for word in drawn["words"]:
        assert word["size"] >= 8.5, word["text"]
        assert within(word["box"], drawn["frame"]), word["text"]
    for one, other in combinations(drawn["words"], 2):
        assert not overlap(inked(one), inked(other)), (one["text"], other["text"])


@RIGS
def test_threads_cross_no_more_than_they_must(drawn: dict[str, Any]) -> None:
    """No two cards could change places and leave fewer crossings."""
    threads = drawn["threads"]
    assert len(threads) >= 3
    cards = sorted({name_of(one) for one in threads}, key=lambda card: first(threads, card))
    now = crossings(threads)
    for one, other in combinations(cards, 2):
        order = [other if card == one else one if card == other else card for card in cards]
        assert crossings(stacked(threads, order)) >= now, (one, other)


def name_of(thread: dict[str, Any]) -> str:
    """The card a thread leaves: its name without the lead, which is the last word before “to”."""
    return str(thread["name"]).split(" to ")[0].rsplit(" ", 1)[0]


def first(threads: list[dict[str, Any]], card: str) -> float:
    return min(one["from"][1] for one in threads if name_of(one) == card)


def stacked(threads: list[dict[str, Any]], order: list[str]) -> list[dict[str, Any]]:
    """The threads as they would leave cards in another order, leads of a card as they are."""
    heights = iter(range(len(threads)))
    return [
        {**thread, "from": [0.0, float(next(heights))]}
        for card in order
        for thread in sorted(threads, key=lambda one: one["from"][1])
        if name_of(thread) == card
    ]


def test_the_comb_stands_right_of_the_cards_before_anything_is_wired(open_page: OpenPage) -> None:
    page = open_page("/rigs")
    origin = "/".join(page.url.split("/")[:3])
    made = page.request.post(
        f"{origin}/api/rigs", data={"name": "Bare", "board": "three_volt_dual_core"}
    )
    rig: int = made.json()["id"]
    for name in ("ultrasonic_ranger", "six_axis"):
        named = {"name": name, "family": name}
        assert page.request.post(f"{origin}/api/rigs/{rig}/sensors", data=named).ok
    page.goto(f"{origin}/rigs/{rig}/wire/loom")
    free = page.locator(".loom-tooth rect").first.bounding_box()
    assert free
    for card in page.locator(".loom-card > rect").all():
        box = card.bounding_box()
        assert box
        assert box["x"] + box["width"] < free["x"]
    for end in page.locator(".loom-loose circle").all():
        box = end.bounding_box()
        frame = page.locator(".loom-frame").bounding_box()
        assert box
        assert frame
        assert box["x"] + box["width"] <= frame["x"] + frame["width"]
