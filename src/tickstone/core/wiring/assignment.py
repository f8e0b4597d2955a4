"""Pins for leads: a minimum-cost assignment, and why there is none when there is none."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from tickstone.core.families.board_family import Ability, Pin, PinUse, Timer
from tickstone.core.families.device_family import DeviceKind, Drive, Role
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.controllers import BUS_ROLES, line_pins, shared_out
from tickstone.core.wiring.thread import Thread

_COSTS = {PinUse.NONE: 0.0, PinUse.LAMP: 30.0, PinUse.BOOT: 200.0, PinUse.SERIAL: 400.0}
_SPARED = {
    Ability.INTERRUPT: 8.0,
    Ability.SDA: 12.0,
    Ability.SCL: 12.0,
    Ability.ANALOGUE: 5.0,
    Ability.PWM: 1.0,
}
"""What it costs to spend an ability on a lead that does not need it. The scale is ours: a special
job of the board's own weighs most, then the scarce abilities."""
_BY_PIN_CHANGE, _BARE, _MOVES_AT_START = 60.0, 40.0, 1000.0
"""What it costs to count by a pin-change interrupt; to put what wants a pull-up on a pin that has
none of its own; to let what moves or sounds hang on a pin the board works at start."""


@dataclass(frozen=True, slots=True)
class Assignment:
    """A pin name for each thread, in the order asked, None for one that gets none.

    impossible: in one sentence, why some get none.
    """

    pins: tuple[str | None, ...] = ()
    impossible: str = ""


def abilities_for(circuit: Circuit, thread: Thread) -> frozenset[Ability]:
    """What the pin of a lead has to be able to do."""
    wants = thread.lead.wants
    if wants is None:
        return frozenset()
    needed = {wants}
    if thread.lead.role is Role.TWO_WAY:
        needed |= {Ability.DIGITAL_IN}
    if pulses_too_fast_to_poll(circuit, thread):
        needed |= {Ability.INTERRUPT}
    return frozenset(needed)


def pulse_hz(thread: Thread) -> float | None:
    """The fastest a lead will pulse, Hz: what the person says, or what its family is fit for."""
    if thread.lead.pulses_hz is None:
        return None
    said = thread.device.pulse_hz
    return thread.lead.pulses_hz.value if said is None else said


def pulses_too_fast_to_poll(circuit: Circuit, thread: Thread) -> bool:
    """Whether a loop that looks at the pin once a turn would miss pulses.

    A turn has to be shorter than half of the shorter half of a pulse, for even pulses T/4.
    """
    rate = pulse_hz(thread)
    return rate is not None and rate * circuit.settings.loop_s * 4.0 > 1.0


def can_serve(circuit: Circuit, thread: Thread, pin: Pin) -> bool:
    """Whether a pin can do what a lead asks, by itself or at a cost."""
    needed = abilities_for(circuit, thread)
    if Ability.INTERRUPT in needed and Ability.PIN_CHANGE in pin.abilities:
        needed -= {Ability.INTERRUPT}
    return needed <= set(pin.abilities) and taken_timer(circuit, thread, pin) is None


def taken_timer(circuit: Circuit, thread: Thread, pin: Pin) -> Timer | None:
    """The timer a lead would have its PWM from on a pin, when something else takes it."""
    if Ability.PWM not in abilities_for(circuit, thread):
        return None
    asked = {one.lead.uses for one in circuit.threads if one.spot != thread.spot}
    timer = next((one for one in circuit.board.timers if pin.name in one.pins), None)
    return timer if timer is not None and asked & set(timer.taken_by) else None


def assign(circuit: Circuit, threads: Sequence[Thread], taken: Collection[str] = ()) -> Assignment:
    """Give each thread a pin that can do what it needs, at the least cost.

    Leads of a bus share a pin; all others get one each. taken: pins that are spoken for. Where the
    pins do not do for all, as many leads as can have theirs. Solved as a rectangular assignment
    (SciPy, after Crouse 2016).
    """
    slots = _slots(circuit, threads)
    pins = list(circuit.board.pins)
    cost = np.full((len(slots), len(pins)), np.inf)
    for row, slot in enumerate(slots):
        for column, pin in enumerate(pins):
            free = pin.name not in taken or pin.name == slot.line
            may = slot.among is None or pin.name in slot.among
            if free and may and can_serve(circuit, slot.threads[0], pin):
                cost[row, column] = (
                    _cost(circuit, slot, pin) + 0.01 * column - 0.0004 * row * column
                )
    match = _matched(np.isfinite(cost))
    placed = [row for row, column in enumerate(match) if column >= 0]
    chosen: dict[object, str] = {}
    if placed:
        from scipy.optimize import linear_sum_assignment  # half a second, and seldom needed

        rows, columns = linear_sum_assignment(cost[placed])
        chosen = {
            thread.spot: pins[column].name
            for row, column in zip(rows, columns, strict=True)
            for thread in slots[placed[row]].threads
        }
    return Assignment(
        tuple(chosen.get(thread.spot) for thread in threads),
        _why_not(circuit, slots, pins, np.isfinite(cost), match),
    )


@dataclass(slots=True)
class _Slot:
    """Threads that get one pin together. among: the pins of their bus. line: the one it has."""

    threads: list[Thread]
    among: tuple[str, ...] | None = None
    line: str = ""


def _slots(circuit: Circuit, threads: Sequence[Thread]) -> list[_Slot]:
    """All data and all clock leads of each bus together; every other by itself."""
    slots: list[_Slot] = []
    lines: dict[tuple[str, Role], _Slot] = {}
    buses = shared_out(circuit, threads)
    moving = [one.spot for one in threads]
    for thread in threads:
        role, wants = thread.lead.role, thread.lead.wants
        bus = buses.get(thread.device.key) if role in BUS_ROLES else None
        if bus is None or wants is None:
            slots.append(_Slot([thread]))
            continue
        slot = lines.get((bus.name, role))
        if slot is None:
            there = [
                pins[wants]
                for device in circuit.wiring.devices
                if buses.get(device.key) == bus
                and wants in (pins := line_pins(circuit, device, moving))
            ]
            slot = _Slot([], tuple(there[:1]) or bus.pins(wants), there[0] if there else "")
            lines[bus.name, role] = slot
            slots.append(slot)
        slot.threads.append(thread)
    return slots


def _cost(circuit: Circuit, slot: _Slot, pin: Pin) -> float:
    thread = slot.threads[0]
    needed = abilities_for(circuit, thread)
    cost = _COSTS[pin.use] + sum(
        price
        for ability, price in _SPARED.items()
        if ability in pin.abilities and ability not in needed
    )
    if slot.among is not None:
        cost += 0.3 * slot.among.index(pin.name)
    if not needed <= set(pin.abilities):
        cost += _BY_PIN_CHANGE
    if pin.use is not PinUse.NONE and _moves(thread):
        cost += _MOVES_AT_START
    if circuit.board.class_of(pin).pull_up_ohm is None and _wants_pull_up(thread):
        cost += _BARE
    return cost


def _moves(thread: Thread) -> bool:
    """Whether something turns, switches or sounds when the pin is driven."""
    kinds = (DeviceKind.ACTUATOR, DeviceKind.INDICATOR)
    return thread.device.family.kind in kinds and thread.lead.wants is not None


def _wants_pull_up(thread: Thread) -> bool:
    """Whether the lead only pulls down, or is a contact that opens."""
    output = thread.lead.output
    if output is None:
        return thread.lead.role is Role.LEG and thread.lead.wants is Ability.DIGITAL_IN
    return output.drive is Drive.OPEN_DRAIN and output.own_pull_up_ohm is None


def _matched(possible: npt.NDArray[np.bool_]) -> list[int]:
    """For each row a column of its own, as many as there can be; −1 for those that get none."""
    if not possible.size:
        return [-1] * len(possible)
    from scipy.sparse import csr_array
    from scipy.sparse.csgraph import maximum_bipartite_matching

    match = maximum_bipartite_matching(csr_array(possible.astype(np.int8)), perm_type="column")
    return [int(one) for one in match]


def _why_not(
    circuit: Circuit,
    slots: Sequence[_Slot],
    pins: Sequence[Pin],
    possible: npt.NDArray[np.bool_],
    match: Sequence[int],
) -> str:
    """Names a set of leads with fewer pins than leads (Hall's condition), or nothing."""
    unmatched = [row for row, column in enumerate(match) if column < 0]
    if not unmatched:
        return ""
    rows, columns, queue = {*unmatched}, set[int](), [*unmatched]
    owner = {column: row for row, column in enumerate(match) if column >= 0}
    while queue:
        for column in np.flatnonzero(possible[queue.pop()]):
            if int(column) not in columns:
                columns.add(int(column))
                row = owner[int(column)]
                if row not in rows:
                    rows.add(row)
                    queue.append(row)
    words = Counter(
        " and ".join(sorted(one.words for one in abilities_for(circuit, slots[row].threads[0])))
        for row in rows
    )
    wanted = "; ".join(f"{count} × {what}" for what, count in words.most_common())
    names = ", ".join(slots[row].threads[0].name for row in sorted(rows))
    left = ", ".join(pins[column].name for column in sorted(columns))
    need = "1 lead needs a pin" if len(rows) == 1 else f"{len(rows)} leads need pins of their own"
    has = f"has only {len(columns)} free: {left}" if columns else "has none free"
    pulses = any(Ability.INTERRUPT in abilities_for(circuit, slots[row].threads[0]) for row in rows)
    hint = " Pulses said to be slow enough for the loop can do without an interrupt."
    return f"{need} ({wanted}): {names}; but a {circuit.board.label} {has}.{hint if pulses else ''}"


def free_pin(circuit: Circuit, thread: Thread) -> str | None:
    """The best pin nothing else ends on, for one lead; None when there is none."""
    taken = {
        one.pin.name for one in circuit.threads if one.pin is not None and one.spot != thread.spot
    }
    if thread.pin is not None:
        taken.add(thread.pin.name)
    found = assign(circuit, [thread], taken)
    here = thread.pin.name if thread.pin is not None else None
    return found.pins[0] if found.pins[0] != here else None
