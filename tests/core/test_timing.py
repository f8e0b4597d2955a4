"""The time budget and the firing order."""

from __future__ import annotations

import math
from itertools import combinations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tickstone.core.timing.firing_order import firing_order
from tickstone.core.timing.loop_budget import Program, loop_budget
from tickstone.core.wiring.hearing import can_hear
from tickstone.core.wiring.netlist import Device
from tickstone.formats.family_file import shipped_devices

DEVICES = shipped_devices()
names = st.lists(st.sampled_from(sorted(DEVICES)), max_size=10)
programs = st.builds(
    Program,
    st.sampled_from([300, 9_600, 115_200]),
    st.integers(0, 200),
    st.floats(0, 0.2),
    st.floats(0, 0.05),
    st.booleans(),
)


def rig(kinds: list[str]) -> list[Device]:
    return [Device(f"d{n}", f"d{n}", DEVICES[kind]) for n, kind in enumerate(kinds)]


def test_forty_characters_at_9600_baud_are_42_ms() -> None:
    """Common practice check."""
    assert Program(9_600, 40).printing_s == pytest.approx(0.0417, abs=5e-5)


def test_a_ranger_waited_for_blocks_the_loop() -> None:
    waiting = loop_budget(rig(["ultrasonic_ranger"]), Program(characters=0))
    assert waiting.bottleneck is not None
    assert waiting.bottleneck.name == "d0"
    assert waiting.loop_s == pytest.approx(0.039)
    woven = loop_budget(rig(["ultrasonic_ranger"]), Program(characters=0, is_interleaved=True))
    assert woven.loop_s < 0.002
    assert woven.blind_s == pytest.approx(0.06)


@given(names, programs)
def test_the_costs_add_up_to_the_loop_and_to_the_other_way(
    kinds: list[str], program: Program
) -> None:
    budget = loop_budget(rig(kinds), program)
    assert budget.loop_s == pytest.approx(math.fsum(c.seconds for c in budget.costs))
    assert budget.other_way_s == pytest.approx(math.fsum(c.other_way_s for c in budget.costs))
    other = loop_budget(
        rig(kinds),
        Program(
            program.baud,
            program.characters,
            program.delay_s,
            program.other_s,
            not program.is_interleaved,
        ),
    )
    assert other.loop_s == pytest.approx(budget.other_way_s)
    woven, waiting = sorted((budget.loop_s, budget.other_way_s))
    assert woven <= waiting
    assert min(budget.loop_s, budget.other_way_s) >= program.printing_s * (1 - 1e-9)
    for period in budget.periods:
        assert period.seconds >= budget.loop_s * (1 - 1e-9)


angles = st.lists(st.one_of(st.none(), st.floats(-math.pi, math.pi)), min_size=1, max_size=9)


@given(angles)
def test_no_slot_holds_two_that_may_hear_each_other(facings: list[float | None]) -> None:
    rangers = [
        Device(f"r{n}", f"r{n}", DEVICES["ultrasonic_ranger"], facing_rad=facing)
        for n, facing in enumerate(facings)
    ]
    slots = firing_order(rangers)
    assert sorted(one.key for slot in slots for one in slot) == sorted(one.key for one in rangers)
    for slot in slots:
        assert all(can_hear(one, other) is False for one, other in combinations(slot, 2))


def test_slots_that_follow_each_other_look_different_ways() -> None:
    rangers = [
        Device(f"r{n}", f"r{n}", DEVICES["ultrasonic_ranger"], facing_rad=math.radians(angle))
        for n, angle in enumerate((0, 20, 40, 60))
    ]
    slots = [slot[0].facing_rad for slot in firing_order(rangers)]
    assert len(slots) == 3
    steps = zip(slots, [*slots[1:], slots[0]], strict=True)
    assert min(abs(a - b) for a, b in steps) >= math.radians(19)


@pytest.mark.parametrize("field", ["baud", "characters", "delay_s", "other_s"])
def test_a_program_that_cannot_be_names_the_field(field: str) -> None:
    with pytest.raises(ValueError, match=f"^{field}"):
        Program(**{field: -1})
