"""The assignment against every other there could be, where they can all be tried."""

from __future__ import annotations

from itertools import permutations

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from tests.core.wiring.rigs import BOARDS, DEVICES, device, wiring

from tickstone.core.families.board_family import Ability, BoardFamily, Pin, PinUse
from tickstone.core.families.device_family import DeviceKind, Drive, Role
from tickstone.core.wiring.assignment import abilities_for, assign, can_serve, free_pin
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
    """What is given up, the worst first; scarce abilities for nothing at last."""
    uses = [pin.use for pin in pins]
    pairs = list(zip(threads, pins, strict=True))
    moves = sum(
        pin.use is not PinUse.NONE and one.device.family.kind is not DeviceKind.SENSOR
        for one, pin in pairs
    )
    late = sum(not abilities_for(circuit, one) <= set(pin.abilities) for one, pin in pairs)
    bare = sum(
        circuit.board.class_of(pin).pull_up_ohm is None
        and (
            (one.lead.output is not None and one.lead.output.drive is Drive.OPEN_DRAIN)
            or (one.lead.role is Role.LEG and one.lead.wants is Ability.DIGITAL_IN)
        )
        and (one.lead.output is None or one.lead.output.own_pull_up_ohm is None)
        for one, pin in pairs
    )
    wasted = sum(
        len((set(pin.abilities) & SCARCE) - abilities_for(circuit, thread))
        for thread, pin in zip(threads, pins, strict=True)
    )
    serial, boot, lamp = (
        sum(use is one for use in uses) for one in (PinUse.SERIAL, PinUse.BOOT, PinUse.LAMP)
    )
    return (moves, serial, boot, late, bare, lamp, wasted)


def every_way(circuit: Circuit, threads: list[Thread], board: BoardFamily) -> list[tuple[Pin, ...]]:
    return [
        pins
        for pins in permutations(board.pins, len(threads))
        if all(can_serve(circuit, one, pin) for one, pin in zip(threads, pins, strict=True))
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
        alike = [price(circuit, threads, way) for way in ways]
        assert mine[:-1] == min(one[:-1] for one in alike)
        assert mine[-1] <= min(one[-1] for one in alike if one[:-1] == mine[:-1]) + 1


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
            assert can_serve(circuit, thread, pin)
            assert name not in circuit.used_pins
