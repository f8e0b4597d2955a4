"""Inputs with different times, joined: a sensor made of two."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tickstone.core.chain import Chain, ChainInput, Node
from tickstone.core.quantity import DISTANCE, SPEED
from tickstone.core.signal import Signal
from tickstone.core.stages.align import Align
from tickstone.core.stages.mount_offset import MountOffset
from tickstone.core.status import Status

PAIR = Chain(
    (ChainInput("wheel", SPEED), ChainInput("ranger", DISTANCE)),
    (
        Node("mount", MountOffset(0.1, 0.02), ("@ranger",)),
        Node("both", Align(1.0, 0.05), ("@wheel", "mount")),
    ),
    (("gap", "both"),),
)
times = st.lists(st.floats(0.001, 0.9), min_size=1, max_size=30).map(np.cumsum)


@given(times, times)
def test_it_is_the_latest_at_every_time_and_never_one_to_come(
    asked_s: np.ndarray, said_s: np.ndarray
) -> None:
    wheel = Signal.of(asked_s, np.ones(len(asked_s)), SPEED)
    ranger = Signal.of(said_s, 1.0 + np.arange(len(said_s)), DISTANCE)
    found = PAIR.apply({"wheel": wheel, "ranger": ranger})
    for at, value, status in zip(asked_s, found.value, found.flag, strict=True):
        before = said_s[said_s <= at]
        if before.size == 0:
            assert (math.isnan(value), status) == (True, Status.NOT_YET)
        else:
            assert value == pytest.approx(len(before) - 0.1)
            assert status == (Status.OUTDATED if at - before[-1] > 1.0 else Status.OK)


def test_its_doubt_grows_with_its_age_and_its_working_comes_along() -> None:
    wheel = Signal.of([1.0, 1.8], [1.0, 1.0], SPEED)
    ranger = Signal.of([1.0], [0.6], DISTANCE)
    fresh = PAIR.explain({"wheel": wheel, "ranger": ranger}, 0)[-1]
    aged = PAIR.explain({"wheel": wheel, "ranger": ranger}, 1)[-1]
    assert aged.u == pytest.approx(math.hypot(fresh.u, 0.05 * 0.8))
    assert [one.stage for line in aged.beside for one in line] == ["mount"]
    assert aged.value == fresh.value == pytest.approx(0.5)


def test_what_was_said_before_what_is_at_hand_has_no_doubt_of_its_own() -> None:
    """A window that begins at a kept state: the value is known, what it doubts is not told."""
    first = {"wheel": Signal.of([1.0], [1.0], SPEED), "ranger": Signal.of([0.9], [0.6], DISTANCE)}
    _, kept = PAIR.run(PAIR.begin(), first)
    later = {"wheel": Signal.of([1.5], [1.0], SPEED), "ranger": Signal.of([], [], DISTANCE)}
    step = PAIR.explain(later, 0, "both", kept)[-1]
    assert step.value == pytest.approx(0.5)
    assert math.isnan(step.u)
