"""The assignment against every other there could be, where they can all be tried."""

from __future__ import annotations

from itertools import permutations

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from tests.core.wiring.rigs import BOARDS, DEVICES, device, wiring

from tickstone.core.families.board_family import Ability, BoardFamily, Pin, PinUse
from tickstone.core.wiring.assignment import abilities_for, assign, free_pin
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.thread import Thread

SCARCE = {Ability.INTERRUPT, Ability.SDA, Ability.SCL, Ability.ANALOGUE}
boards = st.sampled_from(sorted(BOARDS))
families = st.sampled_from(
    sorted(name for name, one in DEVICES.items() if one.i2c is None and len(one.leads) <= 5)
)


def signals(circuit: Circuit) -> list[Thread]:
    return [one for one in circuit.threads if one.lead.wants and not one.lead.is_optional]


def price(circuit: Circuit, threads: list[Thread], pins: tuple[Pin, ...]) -> tuple[int, ...]:
    """What is given up: serial pins, start-up pins, the lamp, then scarce abilities for nothing."""
    uses = [pin.use for pin in pins]
    wasted = sum(
        len((set(pin.abilities) & SCARCE) - abilities_for(circuit, thread))
        for thread, pin in zip(threads, pins, strict=True)
    )
    by_use = (PinUse.SERIAL, PinUse.BOOT, PinUse.LAMP)
    return (*(sum(use is one for use in uses) for one in by_use), wasted)


def every_way(circuit: Circuit, threads: list[Thread], board: BoardFamily) -> list[tuple[Pin, ...]]:
    return [
        pins
        for pins in permutations(board.pins, len(threads))
        if all(
            abilities_for(circuit, thread) <= set(pin.abilities)
            for thread, pin in zip(threads, pins, strict=True)
        )
    ]


@settings(max_examples=40, suppress_health_check=[HealthCheck.too_slow])
@given(boards, st.lists(families, min_size=1, max_size=2))
def test_no_other_way_gives_up_less(board: str, kinds: list[str]) -> None:
    circuit = Circuit(wiring(board, [device(f"d{n}", kind) for n, kind in enumerate(kinds)], []))
    threads = signals(circuit)
    if not 1 <= len(threads) <= 3:
        return
    ways = every_way(circuit, threads, BOARDS[board])
    found = assign(circuit, threads)
    assert bool(found.impossible) == (not ways)
    if ways:
        pins = tuple(pin for name in found.pins if (pin := BOARDS[board].pin(name)) is not None)
        mine = price(circuit, threads, pins)
        assert mine[:3] == min(price(circuit, threads, way)[:3] for way in ways)
        alike = [price(circuit, threads, way) for way in ways]
        assert mine[3] <= min(one[3] for one in alike if one[:3] == mine[:3]) + 1


@settings(max_examples=60)
@given(boards, families, st.data())
def test_taken_pins_are_left_alone(board: str, kind: str, data: st.DataObject) -> None:
    circuit = Circuit(wiring(board, [device("d", kind)], []))
    names = [pin.name for pin in BOARDS[board].pins]
    taken = data.draw(st.sets(st.sampled_from(names)))
    found = assign(circuit, signals(circuit), taken)
    assert not set(found.pins) & taken
    if found.impossible:
        assert "but a " in found.impossible


@settings(max_examples=40)
@given(boards, families)
def test_a_free_pin_is_another_and_can_do_it(board: str, kind: str) -> None:
    circuit = Circuit(wiring(board, [device("d", kind)], []))
    for thread in signals(circuit):
        name = free_pin(circuit, thread)
        if name is not None:
            pin = BOARDS[board].pin(name)
            assert pin is not None
            assert abilities_for(circuit, thread) <= set(pin.abilities)
            assert name not in circuit.used_pins
