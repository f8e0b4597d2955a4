"""Pins for leads: a minimum-cost assignment, and why there is none when there is none."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from tickstone.core.families.board_family import Ability, Pin, PinUse
from tickstone.core.families.device_family import Role
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.thread import Thread

BUS_ROLES = (Role.SDA, Role.SCL)
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


@dataclass(frozen=True, slots=True)
class Assignment:
    """A pin name for each thread, in the order asked; or, in one sentence, why it cannot be."""

    pins: tuple[str, ...] = ()
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


def assign(circuit: Circuit, threads: Sequence[Thread], taken: Collection[str] = ()) -> Assignment:
    """Give each thread a pin that can do what it needs, at the least cost.

    Leads of a bus share a pin; all others get one each. taken: pins that are spoken for. Solved as
    a rectangular assignment (SciPy, after Crouse 2016).
    """
    slots = _slots(circuit, threads)
    pins = list(circuit.board.pins)
    shared = {one.pin.name for one in circuit.threads if one.pin and one.lead.role in BUS_ROLES}
    cost = np.full((len(slots), len(pins)), np.inf)
    for row, slot in enumerate(slots):
        needed = abilities_for(circuit, slot[0])
        on_bus = slot[0].lead.role in BUS_ROLES
        for column, pin in enumerate(pins):
            free = pin.name not in taken or (on_bus and pin.name in shared)
            if free and needed <= set(pin.abilities):
                cost[row, column] = _cost(pin, needed) + 0.01 * column - 0.0004 * row * column
                if on_bus and pin.name in shared:
                    cost[row, column] -= 100.0
    impossible = _why_not(circuit, slots, pins, np.isfinite(cost))
    if impossible:
        return Assignment(impossible=impossible)
    from scipy.optimize import linear_sum_assignment  # half a second, and seldom needed

    rows, columns = linear_sum_assignment(cost)
    chosen = {
        thread.spot: pins[column].name
        for row, column in zip(rows, columns, strict=True)
        for thread in slots[row]
    }
    return Assignment(tuple(chosen[thread.spot] for thread in threads))


def _slots(circuit: Circuit, threads: Sequence[Thread]) -> list[list[Thread]]:
    """Threads that get one pin together: all SDA, all SCL; every other by itself."""
    slots: list[list[Thread]] = []
    buses: dict[Role, list[Thread]] = {}
    for thread in threads:
        role = thread.lead.role
        if role in BUS_ROLES and role in buses:
            buses[role].append(thread)
            continue
        slots.append([thread])
        if role in BUS_ROLES:
            buses[role] = slots[-1]
    return slots


def _cost(pin: Pin, needed: frozenset[Ability]) -> float:
    return _COSTS[pin.use] + sum(
        price
        for ability, price in _SPARED.items()
        if ability in pin.abilities and ability not in needed
    )


def _why_not(
    circuit: Circuit,
    slots: Sequence[Sequence[Thread]],
    pins: Sequence[Pin],
    possible: npt.NDArray[np.bool_],
) -> str:
    """Names a set of leads with fewer pins than leads (Hall's condition), or nothing."""
    if not slots:
        return ""
    from scipy.sparse import csr_array
    from scipy.sparse.csgraph import maximum_bipartite_matching

    match = maximum_bipartite_matching(csr_array(possible.astype(np.int8)), perm_type="column")
    unmatched = [row for row, column in enumerate(match) if column < 0]
    if not unmatched:
        return ""
    rows, columns, queue = {*unmatched}, set[int](), [*unmatched]
    owner = {int(column): row for row, column in enumerate(match) if column >= 0}
    while queue:
        for column in np.flatnonzero(possible[queue.pop()]):
            if int(column) not in columns:
                columns.add(int(column))
                row = owner[int(column)]
                if row not in rows:
                    rows.add(row)
                    queue.append(row)
    words = Counter(
        " and ".join(sorted(ability.words for ability in abilities_for(circuit, slots[row][0])))
        for row in rows
    )
    wanted = "; ".join(f"{count} × {what}" for what, count in words.most_common())
    names = ", ".join(slots[row][0].name for row in sorted(rows))
    left = ", ".join(pins[column].name for column in sorted(columns))
    need = "1 lead needs a pin" if len(rows) == 1 else f"{len(rows)} leads need pins of their own"
    has = f"has only {len(columns)} free: {left}" if columns else "has none free"
    pulses = any(Ability.INTERRUPT in abilities_for(circuit, slots[row][0]) for row in rows)
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
    return found.pins[0] if found.pins and found.pins[0] != here else None
