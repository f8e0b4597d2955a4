"""Machines and recordings at random, all in whole ticks."""

from __future__ import annotations

from typing import Any

import numpy as np
from hypothesis import strategies as st
from tests.core.machines.naive import TICKS

from tickstone.core.machines.machine import BLIND_WORDS, Machine
from tickstone.core.signal import Signal
from tickstone.core.status import Status

_INPUTS = ("a", "b", "c")
_STATES = ("s0", "s1", "s2", "s3")
_FLAGS = [int(Status.OK)] * 6 + [int(Status.NO_ECHO), int(Status.LINE_GAP)]


def ticks(low: int, high: int) -> st.SearchStrategy[float]:
    """A time of so many ticks."""
    return st.integers(low, high).map(lambda n: n / TICKS)


@st.composite
def atoms(draw: Any) -> str:
    name, number = draw(st.sampled_from(_INPUTS)), draw(st.integers(0, 4))
    return draw(
        st.sampled_from(
            [
                f"{name} < {number}",
                f"{name} > {number}",
                f"{name} <= {number}",
                f"{name} >= {number}",
                f"{name} between {number} and {number + 2}",
                f"{name} says no_echo",
                f"{name} says not ok",
                f"2 of a, b, c < {number}",
                f"any of a, c > {number}",
                f"all of b, c >= {number}",
            ]
        )
    )


conditions = st.recursive(
    atoms(),
    lambda inner: st.one_of(
        st.tuples(inner, st.sampled_from(["and", "or"]), inner).map(
            lambda three: f"({three[0]} {three[1]} {three[2]})"
        ),
        inner.map(lambda one: f"not ({one})"),
    ),
    max_leaves=4,
)


@st.composite
def machines(draw: Any, how: str = "") -> Machine:
    """Some states, some transitions, any way of being blind."""
    names = _STATES[: draw(st.integers(2, 4))]
    states = []
    for name in names:
        stay = draw(ticks(0, 6))
        state: dict[str, Any] = {"name": name, "stay_s": stay}
        if draw(st.booleans()):
            state["leave_after_s"] = stay + draw(ticks(1, 8))
            state["leave_to"] = draw(st.sampled_from([one for one in names if one != name]))
            state["is_blocking"] = draw(st.booleans())
        states.append(state)
    transitions = []
    for _ in range(draw(st.integers(1, 6))):
        to = draw(st.sampled_from(names))
        leaves = draw(st.sampled_from([*(one for one in names if one != to), "any"]))
        transitions.append(
            {
                "leaves": leaves,
                "to": to,
                "when": draw(conditions),
                "for_s": draw(ticks(0, 5)),
                "at_once": draw(st.booleans()),
            }
        )
    blind = {"how": how or draw(st.sampled_from(list(BLIND_WORDS)))}
    if draw(st.booleans()):
        blind |= {"hold_s": draw(ticks(1, 8)), "go_to": draw(st.sampled_from(names))}
    else:
        blind |= {"hold_s": None}
    inputs = [{"name": one, "longest_s": draw(ticks(1, 9))} for one in _INPUTS]
    return Machine.of(
        {"inputs": inputs, "states": states, "transitions": transitions, "when_blind": blind}
    )


@st.composite
def recordings(draw: Any) -> dict[str, Signal]:
    """Each input at its own times, with flags, none at all missing."""
    rng = np.random.default_rng(draw(st.integers(0, 2**32 - 1)))
    found = {}
    for name in _INPUTS:
        at = np.flatnonzero(rng.random(80) < rng.uniform(0.1, 1.0))
        if not len(at):
            at = np.array([3])
        found[name] = Signal.of(
            at / TICKS, rng.integers(-1, 6, len(at)), status=rng.choice(_FLAGS, len(at)),
            until_s=80.5 / TICKS,
        )  # fmt: skip
    return found
