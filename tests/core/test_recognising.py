"""Families by the labels printed beside their pins."""

from __future__ import annotations

from dataclasses import replace
from random import Random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tickstone.core.families.recognising import MOST_LABELS, recognise, split_labels
from tickstone.formats.family_file import shipped_devices

DEVICES = shipped_devices()
names = st.sampled_from(sorted(name for name, family in DEVICES.items() if family.is_wired))
chance = st.randoms(use_true_random=False)


@given(names, chance)
def test_its_own_labels_in_any_order_and_case_fit_exactly(name: str, chance: Random) -> None:
    family = DEVICES[name]
    labels = [chance.choice(lead.labels) for lead in family.leads]
    chance.shuffle(labels)
    typed = chance.choice([" ", ", ", " / ", "|"]).join(
        chance.choice([label.lower(), label.upper()]) for label in labels
    )
    matches = recognise(split_labels(typed), DEVICES.values())
    mine = next((one for one in matches if one.family is family), None)
    assert mine is not None
    assert mine.is_exact or len(set(labels)) < len(labels), "two leads were given one label"
    assert [one.score for one in matches] == sorted((one.score for one in matches), reverse=True)


@given(names)
def test_its_usual_labels_are_beaten_by_nothing(name: str) -> None:
    family = DEVICES[name]
    matches = recognise([lead.labels[0] for lead in family.leads], DEVICES.values())
    mine = next(one for one in matches if one.family is family)
    assert mine.score == matches[0].score


@given(names, st.lists(st.sampled_from(["QQ", "ZZ9", "WIFI"]), max_size=3))
def test_what_is_missing_and_what_is_strange_is_named(name: str, strange: list[str]) -> None:
    family = DEVICES[name]
    needed = [lead for lead in family.leads if not lead.is_optional]
    labels = [lead.labels[0] for lead in needed[1:]] + strange
    for match in recognise(labels, DEVICES.values()):
        if match.family is family:
            assert needed[0].name in match.missing or len(needed) > len(set(labels) - {*strange})
            assert set(strange) <= set(match.strange)
        # Every label is either a lead's or strange, and every lead found or missing.
        found = {lead.name for lead in match.family.leads} - {*match.missing}
        assert len(labels) - len(match.strange) <= len(found)


@pytest.mark.parametrize("text", ["", " , ; ", "|||"])
def test_no_labels_at_all(text: str) -> None:
    with pytest.raises(ValueError, match="type the labels"):
        split_labels(text)


def test_too_many_labels() -> None:
    with pytest.raises(ValueError, match=f"{MOST_LABELS} at most"):
        split_labels("A " * (MOST_LABELS + 1))


@given(st.lists(st.sampled_from(["VCC", "GND", "QQ"]), min_size=1, max_size=4))
def test_a_family_with_nothing_to_wire_has_no_labels(labels: list[str]) -> None:
    unwired = [family for family in DEVICES.values() if not family.is_wired]
    assert unwired, "none is shipped: this test says nothing"
    assert recognise(labels, unwired) == ()


@given(names)
def test_those_its_usual_labels_fit_are_told_apart_by_what_one_sees(name: str) -> None:
    family = DEVICES[name]
    matches = recognise([lead.labels[0] for lead in family.leads], DEVICES.values())
    told = [one.family.recognise for one in matches if one.is_exact]
    assert len(set(told)) == len(told)
    assert len(told) == 1 or all(told)


def test_what_tells_a_family_apart_is_a_line_and_no_book() -> None:
    with pytest.raises(ValueError, match="recognise: 300 characters at most"):
        replace(DEVICES["touch_key"], recognise="x" * 301)
