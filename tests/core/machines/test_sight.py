"""What a machine saw at a time, and which of its inputs made a condition true."""

from __future__ import annotations

import pytest

from tickstone.api.machines_out import sight_out
from tickstone.core.machines.conditions import InputNames, read_condition
from tickstone.core.machines.machine import Machine, MachineInput, MachineState
from tickstone.core.machines.sight import Sight, deciders, sight_at
from tickstone.core.machines.together import NEAREST, put_together
from tickstone.core.reading_units import reading_in
from tickstone.core.signal import Signal
from tickstone.core.status import Status

FRONT = MachineInput("front", "1", "distance", longest_s=0.5, unit="m")
NAMES = InputNames({"front": ("m", ()), "left": ("m", ()), "line": ("", ("line", "lost"))})


def seen(**values: float) -> dict[str, Sight]:
    """Readings of front and left, in m; what is not said was not there."""
    every = {name: values.get(name, float("nan")) for name in ("front", "left", "line")}
    return {
        name: Sight(name, value, Status.OK if value == value else Status.NO_ECHO, "", 0.0)
        for name, value in every.items()
    }


@pytest.mark.parametrize(
    ("words", "sights", "decided"),
    [
        ("front < 0.4", seen(front=0.3), ["front"]),
        ("front < 0.4", seen(front=0.5), []),
        ("front < 0.4", seen(), []),  # it went by what was held
        ("front < 0.4 and left < 0.4", seen(front=0.3, left=0.3), ["front", "left"]),
        ("front < 0.4 or left < 0.4", seen(front=0.3, left=0.9), ["front"]),
        ("front < 0.4 or left < 0.4", seen(front=0.9, left=0.3), ["left"]),
        ("front < 0.4 or left < 0.4", seen(front=0.3, left=0.3), ["front", "left"]),
        ("not front > 0.4", seen(front=0.3), ["front"]),
        ("not (front > 0.4 or left > 0.4)", seen(front=0.3, left=0.2), ["front", "left"]),
        ("line is not lost", seen(line=0.0), ["line"]),
        ("front says no_echo", seen(), ["front"]),
        ("front < 0.4 or left says no_echo", seen(front=0.3), ["front", "left"]),
    ],
)
def test_who_made_a_condition_true(
    words: str, sights: dict[str, Sight], decided: list[str]
) -> None:
    assert deciders(read_condition(words, NAMES), sights) == decided


def test_of_those_put_together_the_one_whose_value_it_was() -> None:
    near = MachineInput("near", longest_s=0.5, together=NEAREST, of=("front", "left"))
    both = put_together(
        [Signal.of([0.0, 0.1], [0.9, 0.3]), Signal.of([0.0, 0.1], [0.5, 0.6])], [0.5, 0.5], NEAREST
    )
    condition = read_condition("near < 0.55", InputNames({"near": ("m", ())}))
    assert deciders(condition, {"near": sight_at(near, both, 0.05)}) == ["near by left"]
    assert deciders(condition, {"near": sight_at(near, both, 0.1)}) == ["near by front"]


def test_what_was_not_said_yet_and_what_is_too_old() -> None:
    heard = Signal.of([1.0, 1.1], [0.9, 0.8])
    assert sight_at(FRONT, heard, 0.9).status is Status.NOT_YET
    assert sight_at(FRONT, heard, 1.0).value == 0.9
    assert sight_at(FRONT, heard, 1.59).status is Status.OK
    assert sight_at(FRONT, heard, 1.7).status is Status.OUTDATED


@pytest.mark.parametrize(
    ("unit", "value", "u", "system", "said"),
    [
        ("m", 0.78812, 0.002, "metric", "0.7881 ± 0.0040 m"),
        ("rad", 0.0174533, 0.0174533, "metric", "1.0 ± 2.0 °"),
        ("°C", 20.04, 0.25, "metric", "20.04 ± 0.50 °C"),
        ("°C", 20.0, 0.25, "imperial", "68.00 ± 0.90 °F"),
        ("m", 0.5, float("nan"), "metric", "0.500 m"),
    ],
)
def test_a_reading_is_as_fine_as_its_doubt(
    unit: str, value: float, u: float, system: str, said: str
) -> None:
    given = MachineInput("one", "1", "x", unit=unit)
    machine = Machine((given,), (MachineState("go"),), (), "go")
    with reading_in(system):  # type: ignore[arg-type]
        told = sight_out(Sight("one", value, Status.OK, "", 0.0, u=u), machine)
    assert told.said == said
