"""What a pin of the board is for the job it has: its drive, protection, leak and capacitance."""

from __future__ import annotations

from tickstone.core.electric.network import Span
from tickstone.core.families.board_family import Pin, PinClass
from tickstone.core.wiring.modelling.model import Model
from tickstone.core.wiring.pieces import Capacitance, Driver, Owner
from tickstone.core.wiring.pin_jobs import PinJob

PIN_F = 10e-12
"""Capacitance of a pin, F; UM10204 table 10 allows 10 pF."""
LEAK_A = 1e-6
"""What an input takes or gives at most where nobody stated it (from memory)."""
NOTHING_OHM = 1e15
"""As good as nothing in between."""


def add_pin(model: Model, pin: Pin, job: PinJob) -> None:
    """Its protection always; what it leaks and drives while the board is on."""
    net, limits = model.nets.of(pin.name), model.wiring.board.class_of(pin)
    owner = Owner("pin", pin=pin.name)
    model.capacitances.append(Capacitance((net, model.ground), PIN_F, owner))
    clamp = Owner("clamp", pin=pin.name)
    model.clamp(model.ground, net, clamp)
    if model.is_board_off:
        model.clamp(net, model.ground, clamp)
        return
    logic = model.logic()
    if has_upper_clamp(limits, model.wiring.board.logic_v.value):
        model.clamp(net, logic, clamp)
    if net not in model.origins and net != model.ground:
        _add_leak(model, pin, limits, net)
    if job is PinJob.LISTENS:
        return
    down, up = pin_ohms(limits, model.wiring.board.logic_v.value)
    positions: tuple[str, ...] = ("low", "high")
    pulls, rest = frozenset({0, 1}), 0
    if job is PinJob.FEEDS:
        rest = 1
    elif job is PinJob.BUS:
        positions, pulls = ("released", "low"), frozenset({1})
    elif job is PinJob.BOTH:
        positions, pulls = ("released", "low", "high"), frozenset({1, 2})
    driven = model.drive(Driver(owner, positions, rest, pulls))
    model.resistor(net, model.ground, down, owner, driver=driven, position=positions.index("low"))
    if "high" in positions:
        model.resistor(net, logic, up, owner, driver=driven, position=positions.index("high"))


def _add_leak(model: Model, pin: Pin, limits: PinClass, net: str) -> None:
    """What an input takes from its net or gives to it: nothing as usual, at worst all of it.

    As much as stated when the pin is at the other end of its supply, and never beyond it.
    """
    leak = limits.leak_a.value if limits.leak_a else LEAK_A
    logic = model.wiring.board.logic_v.value
    inside = model.held(f"{pin.name} leak", Span(0.0, logic / 2.0, logic))
    model.resistor(
        net, inside, Span(logic / leak, NOTHING_OHM, NOTHING_OHM), Owner("leak", pin=pin.name)
    )


def pin_ohms(limits: PinClass, logic_v: float) -> tuple[Span, Span]:
    """What a pin drives low and high through, from the volts it is stated to have at its current.

    Stated are the worst; a usual one has half of that, a strong one a quarter (from memory).
    """
    amps = limits.drive_a.value if limits.drive_a else 0.02
    low = limits.output_low_v.value if limits.output_low_v else 0.4
    high = limits.output_high_v.value if limits.output_high_v else logic_v - 0.4
    down, up = max(low / amps, 1.0), max((logic_v - high) / amps, 1.0)
    return Span(down / 4.0, down / 2.0, down), Span(up / 4.0, up / 2.0, up)


def has_upper_clamp(limits: PinClass, logic_v: float) -> bool:
    """Whether a pin leads what is above its supply into it; one that bears 5 V does not."""
    return limits.absolute_max_v.value <= logic_v + 0.6
