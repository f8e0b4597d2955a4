"""What is found amiss with rules before they run, and what is refused outright."""

from __future__ import annotations

import copy
from typing import Any

import pytest

from tickstone.core.machines.checking import check_machine
from tickstone.core.machines.document import MachineError
from tickstone.core.machines.machine import Machine
from tickstone.core.machines.starting import STARTING_POINTS

GOOD: dict[str, Any] = {
    "name": "cart",
    "inputs": [
        {"name": "front", "unit": "m"},
        {"name": "line", "states": ["line", "lost", "bar"]},
    ],
    "start": "drive",
    "states": [
        {"name": "drive", "moves": True},
        {"name": "stopped", "stay_s": 0.2},
        {"name": "back", "moves": True, "leave_after_s": 0.4, "leave_to": "stopped"},
    ],
    "transitions": [
        {"leaves": "drive", "to": "back", "when": "front < 0.42 m"},
        {"leaves": "drive", "to": "stopped", "when": "line is lost or line is bar"},
        {"leaves": "stopped", "to": "drive", "when": "front > 0.5 m and line is line"},
    ],
    "when_blind": {"how": "hold", "hold_s": 0.3, "go_to": "stopped"},
    "speed_m_per_s": 0.5,
}


def changed(**changes: Any) -> dict[str, Any]:
    """The good one with values put in, by path such as ``states.1.name``."""
    document = copy.deepcopy(GOOD)
    for path, value in changes.items():
        *way, last = path.split("__")
        at: Any = document
        for step in way:
            at = at[int(step) if step.isdigit() else step]
        if isinstance(at, list):
            at.insert(int(last), value) if int(last) == len(at) else at.__setitem__(
                int(last), value
            )
        else:
            at[last] = value
    return document


def severe(document: dict[str, Any]) -> list[tuple[str, str]]:
    found = check_machine(Machine.of(document))
    return [(one.severity, one.title) for one in found if one.severity != "note"]


def test_a_good_one_has_nothing_against_it() -> None:
    assert severe(GOOD) == []


@pytest.mark.parametrize(
    ("document", "title"),
    [
        (changed(states__3={"name": "nap", "leave_after_s": 1.0, "leave_to": "drive"}),
         "Nothing leads to nap."),
        (changed(transitions__2__leaves="back"), "Nothing leads out of stopped."),
        (changed(transitions__0__when="front < 0.2 and front > 0.4"), "is never true."),
        (changed(transitions__2__when="front > 0.4 m", states__1__stay_s=0.0,
                 transitions__1__when="front < 0.6 m"),
         "drive and stopped turn into each other at once."),
        (changed(transitions__2__when="front >= 0.6 m", states__1__stay_s=0.0,
                 transitions__1__when="front < 0.6 m"),
         "drive and stopped may dither."),
        (changed(transitions__1__when="front < 0.3 m"), "“front below 0.3 m” never counts."),
        (changed(states__2__leave_after_s=1.2), "back goes 0.6 m blind."),
        (changed(speed_m_per_s=None), "back moves for 0.4 s"),
        (changed(when_blind={"how": "hold", "hold_s": None}), "Blind, it drives on for ever."),
        (changed(when_blind={"how": "hold", "hold_s": 0.2, "go_to": "back"}),
         "Blind, it goes to back, which drives."),
        (changed(when_blind={"how": "highest"}), "count as the highest there is."),
        (changed(states__1={"name": "stopped", "leave_after_s": 0.0, "leave_to": "back"},
                 states__2={"name": "back", "leave_after_s": 0.0, "leave_to": "stopped"}),
         "goes round without an end."),
    ],
)  # fmt: skip
def test_what_is_amiss_is_told(document: dict[str, Any], title: str) -> None:
    assert [one for one in severe(document) if title in one[1]], severe(document)


@pytest.mark.parametrize(
    ("document", "where", "says"),
    [
        (changed(transitions__0__when="frnt < 1"), "transitions 1, when", "no input “frnt”"),
        (changed(transitions__0__to="nowhere"), "transitions 1, to", "no state “nowhere”"),
        (changed(transitions__0__to="drive"), "transitions 1, to", "to itself"),
        (changed(transitions__0__for_s=-1), "transitions 1, for_s", "has to lie from 0"),
        (changed(states__1__stay_s=float("nan")), "states 2 (stopped), stay_s", "has to lie"),
        (changed(states__2__leave_to="x"), "states 3 (back), leave_to", "no state “x”"),
        (changed(states__2__leave_after_s=None), "states 3 (back), leave_to", "not after how long"),
        (changed(states__0__is_blocking=True), "states 1 (drive), is_blocking", "never left"),
        (changed(states__1__name="drive"), "states 2, name", "taken already"),
        (changed(states__1__name="Stop!"), "states 2, name", "small letters"),
        (changed(start="x"), "start", "no state “x”"),
        (changed(when_blind__go_to="x"), "when_blind, go_to", "no state “x”"),
        (changed(when_blind__how="guess"), "when_blind, how", "has to be one of"),
        (changed(inputs__0__longest_s=0), "inputs 1, longest_s", "has to lie"),
        (changed(states=[]), "states", "at least one"),
        (changed(states="many"), "states", "has to be a list"),
        (changed(speed_m_per_s="fast"), "speed_m_per_s", "has to be a number"),
        (changed(wheels=4), "the rules", "no “wheels”"),
        (changed(states__0__moves="yes"), "states 1, moves", "true or false"),
        (changed(states=[{"name": f"s{n}"} for n in range(41)]), "states", "more than the 40"),
        ([1], "the rules", "has to be an object"),
        ({"inputs": []}, "the rules", "want inputs, states and transitions"),
        (changed(inputs__2={"name": "both", "together": "trust", "of": ["front", "line"]}),
         "inputs 3, us", "wants the u of each"),
        (changed(inputs__2={"name": "both", "together": "nearest", "of": ["front", "gone"]}),
         "inputs 3, of", "no input “gone”"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_refused_by_its_place(document: Any, where: str, says: str) -> None:
    with pytest.raises(MachineError) as error:
        Machine.of(document)
    assert error.value.where == where
    assert says in error.value.what


@pytest.mark.parametrize("name", STARTING_POINTS)
def test_starting_points_have_nothing_against_them(name: str) -> None:
    found = check_machine(STARTING_POINTS[name].machine())
    assert [one.title for one in found if one.severity != "note"] == []


def test_too_many_sights_to_try_are_said() -> None:
    """What was not looked at is not passed over in silence."""
    inputs = [{"name": f"x{n}"} for n in range(12)]
    every = " or ".join(f"x{n} < {n} and x{n} > 0.5" for n in range(12))
    document = {
        "inputs": inputs,
        "states": [{"name": "a"}, {"name": "b"}],
        "transitions": [
            {"leaves": "a", "to": "b", "when": every},
            {"leaves": "b", "to": "a", "when": "x0 > 1"},
        ],
    }
    titles = [one.title for one in check_machine(Machine.of(document))]
    assert any("too many sights" in one for one in titles)


def test_an_absurd_machine_is_answered_soon_and_says_what_it_left() -> None:
    """Forty states, eighty ways of five numbers each: some work, and no more; beyond, refused."""
    states = [{"name": f"s{n}", "moves": True} for n in range(40)]
    wide = " or ".join(f"x{k} between {k}.1 and {k}.9" for k in range(4))
    transitions = [
        {"leaves": "any", "to": f"s{n % 40}", "when": f"({wide}) and x{n % 4} < {n}.5"}
        for n in range(1, 80)
    ]
    document = {
        "inputs": [{"name": f"x{k}"} for k in range(4)],
        "states": states,
        "transitions": transitions,
    }
    found = check_machine(Machine.of(document))
    assert any("too many sights" in one.title for one in found)
    transitions *= 2
    with pytest.raises(MachineError, match="comparisons; 400 at most"):
        Machine.of({**document, "transitions": transitions[:120]})
