"""A low that is a low and a high that is a high, at every pin and every input that listens."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace

import numpy as np

from tickstone.core.display import prefixed
from tickstone.core.electric.divider import choose_divider
from tickstone.core.electric.network import Span
from tickstone.core.families.board_family import Ability
from tickstone.core.families.device_family import Drive, Role
from tickstone.core.wiring.bead import Bead, BeadKind, pull_up
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.currents import pin_amps
from tickstone.core.wiring.finding import Happens, Number, Repair, WiringFinding, offered
from tickstone.core.wiring.pieces import Driver, Owner
from tickstone.core.wiring.pin_jobs import PinJob
from tickstone.core.wiring.pin_look import PinLook
from tickstone.core.wiring.repairing import divided, pulled, restrung, without_resistors
from tickstone.core.wiring.solved import FLOATING_OHM, Island, Point
from tickstone.core.wiring.thread import Thread

USUAL_LOW_V = 0.8
"""What an input takes for a low where its family does not say (from memory)."""
GOOD_PART = 0.01
"""The better class of resistors: 1 %."""
SOURCE = "common practice"


def pin_levels(circuit: Circuit) -> Iterator[WiringFinding]:
    """What the outputs on each listening pin make of it, with every tolerance against them."""
    for look in circuit.pin_looks:
        island = look.point.island
        if island is None or look.job is PinJob.DRIVES or look.job is PinJob.FEEDS:
            continue
        if _is_analogue(look) or circuit.fights(island):
            continue
        for place, driver in look.heard():
            thread = circuit.thread_of(driver.owner)
            if thread is None or thread.lead.output is None:
                continue
            yield from _heard_from(circuit, look, island, place, driver, thread)


def _is_analogue(look: PinLook) -> bool:
    own = [one for one in look.threads if one.pin is look.pin] or look.threads
    return bool(own) and all(one.lead.wants is Ability.ANALOGUE for one in own)


def _heard_from(
    circuit: Circuit, look: PinLook, island: Island, place: int, driver: Driver, thread: Thread
) -> Iterator[WiringFinding]:
    limits = look.limits
    is_drain = "high" not in driver.positions
    high_state = island.state({place: "released" if is_drain else "high"})
    low_state = island.state({place: "low"})
    if high_state is None or low_state is None:
        return
    needed, most_low = limits.high_min_v.value, limits.low_max_v.value
    high, low = look.point.volts(high_state), look.point.volts(low_state)
    if high.low < needed - 1e-9 and look.point.behind_ohm(high_state) < FLOATING_OHM:
        yield WiringFinding(
            "output-too-low",
            _happens(island, look.point, high_state, _at_least(needed)),
            thread.where,
            f"{thread.name} puts {prefixed(high.usual, 'V')} on {look.pin.name}, as little as "
            f"{prefixed(high.low, 'V')} with tolerances; a reliable high needs {needed:g} V."
            + _good_parts(island, look.point, high_state, _at_least(needed)),
            "Between low and high the pin reads what it likes, differently when it is warm.",
            limits.high_min_v.source,
            (thread.spot,),
            (
                Number("nominal", high.usual, "V"),
                Number("worst case", high.low, "V"),
                Number("reliable high", needed, "V"),
            ),
            offered(*_better_level(circuit, look, thread)),
        )
    if low.high > most_low + 1e-9:
        yield WiringFinding(
            "low-too-high",
            _happens(island, look.point, low_state, _at_most(most_low)),
            thread.where,
            f"When {thread.name} is low, {look.pin.name} is at {prefixed(low.usual, 'V')}, up to "
            f"{prefixed(low.high, 'V')} with tolerances; a reliable low is under {most_low:g} V."
            + _good_parts(island, look.point, low_state, _at_most(most_low)),
            "A resistor in the wire and another that lifts it make a divider: the output pulls "
            "down and the pin does not follow.",
            limits.low_max_v.source,
            (thread.spot,),
            (
                Number("nominal", low.usual, "V"),
                Number("worst case", low.high, "V"),
                Number("reliable low", most_low, "V"),
            ),
            offered(*_better_level(circuit, look, thread)),
        )


def _better_level(circuit: Circuit, look: PinLook, thread: Thread) -> Iterator[Repair | None]:
    """Without the resistors, or with those that do; a lead that only pulls keeps what lifts it."""
    output = thread.lead.output
    assert output is not None
    if output.drive is Drive.OPEN_DRAIN:
        kept = [bead for bead in thread.beads if bead.kind is not BeadKind.SERIES]
        lifted = [bead for bead in kept if bead.kind is not BeadKind.PULL_DOWN]
        if len(kept) < len(thread.beads):
            yield restrung(thread, kept, f"Take the resistor out of the wire of {thread.name}.")
        if len(lifted) < len(kept):
            yield restrung(thread, lifted, f"Take the resistors to ground off {thread.name}.")
        yield pulled(circuit, thread)
        return
    bare = circuit.bare_high(thread)
    if bare is None:
        return
    logic = circuit.board.logic_v.value
    if bare.usual > logic:
        pair = choose_divider(
            bare.usual,
            logic,
            look.limits.absolute_max_v.value,
            look.limits.high_min_v.value,
            bare.high / bare.usual - 1.0,
        )
        yield divided(thread, pair) if pair else None
    elif thread.beads:
        yield restrung(thread, without_resistors(thread), f"Take the resistors off {thread.name}.")


def input_levels(circuit: Circuit) -> Iterator[WiringFinding]:
    """What pins and outputs put on a device's input, against what it takes for high and for low."""
    for thread in circuit.threads:
        limits = thread.lead.input
        if limits is None or (thread.connection is None and thread.pin is None):
            continue
        point = circuit.solved.at(thread.place)
        island = point.island
        if island is None or circuit.fights(island):
            continue
        for place in range(len(island.drivers)):
            driver = island.driver(place)
            if driver.owner.sort not in ("pin", "output") or "high" not in driver.positions:
                continue
            if driver.owner.device == thread.device.key or _is_overloaded(circuit, driver.owner):
                continue
            who = driver.owner.pin or circuit.name_of(driver.owner)
            high_state, low_state = island.state({place: "high"}), island.state({place: "low"})
            if high_state is None or low_state is None:
                continue
            needed = limits.high_min_v.value
            most_low = limits.low_max_v.value if limits.low_max_v else USUAL_LOW_V
            high, low = point.volts(high_state), point.volts(low_state)
            if high.low < needed - 1e-9:
                yield WiringFinding(
                    "input-too-low",
                    _happens(island, point, high_state, _at_least(needed)),
                    thread.where,
                    f"{who} gives {thread.name} {prefixed(high.usual, 'V')}, as little as "
                    f"{prefixed(high.low, 'V')}; it needs {needed:g} V for a high."
                    + _good_parts(island, point, high_state, _at_least(needed)),
                    "It may work on the bench and stop when the supply sags.",
                    limits.high_min_v.source,
                    (thread.spot,),
                    (
                        Number("nominal", high.usual, "V"),
                        Number("worst case", high.low, "V"),
                        Number("reliable high", needed, "V"),
                    ),
                    offered(_bare(thread)),
                    "a level shifter, or a transistor that lifts the signal",
                )
                break
            if low.high > most_low + 1e-9:
                yield WiringFinding(
                    "input-low-too-high",
                    _happens(island, point, low_state, _at_most(most_low)),
                    thread.where,
                    f"When {who} is low, {thread.name} is at {prefixed(low.usual, 'V')}, up to "
                    f"{prefixed(low.high, 'V')}; it takes under {most_low:g} V for a low.",
                    "A resistor in the wire and one that lifts it make a divider.",
                    limits.low_max_v.source if limits.low_max_v else "from memory",
                    (thread.spot,),
                    (
                        Number("nominal", low.usual, "V"),
                        Number("worst case", low.high, "V"),
                        Number("reliable low", most_low, "V"),
                    ),
                    offered(_bare(thread)),
                )
                break


def _is_overloaded(circuit: Circuit, owner: Owner) -> bool:
    """Whether a pin gives more than it is meant for: that is told of, and why its volts sag."""
    look = next((one for one in circuit.pin_looks if one.pin.name == owner.pin), None)
    if look is None or look.limits.drive_a is None:
        return False
    return pin_amps(circuit, look).usual > look.limits.drive_a.value


def _bare(thread: Thread) -> Repair | None:
    if not thread.beads:
        return None
    return restrung(thread, without_resistors(thread), f"Take the resistors off {thread.name}.")


def bus_lows(circuit: Circuit) -> Iterator[WiringFinding]:
    """On each line of a bus: whoever pulls down, all others have to see a low (UM10204 table 9)."""
    for look in circuit.pin_looks:
        island = look.point.island
        if look.job is not PinJob.BUS or island is None:
            continue
        worst: tuple[float, str, str, Thread] | None = None
        least_high: float | None = None
        for place in range(len(island.drivers)):
            state = island.state({place: "low"})
            puller = island.driver(place).owner
            if state is None:
                continue
            for thread in look.threads:
                if thread.lead.role not in (Role.SDA, Role.SCL):
                    continue
                ends = [(thread.place, thread.name)]
                if puller.sort == "output":
                    ends.append((look.pin.name, look.pin.name))
                for end, name in ends:
                    point = circuit.solved.at(end)
                    if point.island is not island:
                        continue
                    low, rest = point.volts(state).high, point.volts(0).usual
                    limit = 0.3 * rest
                    if rest > 0.5 and low > limit + 1e-9 and (worst is None or low > worst[0]):
                        who = puller.pin or circuit.name_of(puller)
                        own = circuit.thread_of(puller) or thread
                        worst, least_high = (low, who, name, own), limit
        if worst is None or least_high is None:
            continue
        low, who, name, thread = worst
        at_fault = next(
            (one for one in look.threads if any(b.kind is BeadKind.SERIES for b in one.beads)),
            thread,
        )
        yield WiringFinding(
            "bus-low",
            Happens.FAILS,
            f"{thread.lead.role.words} on {look.pin.name}",
            f"When {who} pulls the bus down, {name} still sees {prefixed(low, 'V')}; a low is "
            f"under {prefixed(least_high, 'V')}.",
            "A resistor lies between what pulls and what listens, and the pull-up is on the far "
            "side of it. Resistors in a bus go last before the device, a few hundred ohms at most.",
            "UM10204 rev. 7, table 9: V_IL 0.3 of the bus’s supply",
            (at_fault.spot,),
            (Number("low", low, "V"), Number("most for a low", least_high, "V")),
            offered(
                restrung(
                    at_fault,
                    [bead for bead in at_fault.beads if bead.kind is not BeadKind.SERIES],
                    f"Take the resistor out of the wire of {at_fault.name}.",
                )
                if any(b.kind is BeadKind.SERIES for b in at_fault.beads)
                else None
            ),
        )


def floating(circuit: Circuit) -> Iterator[WiringFinding]:
    """Pins that listen to nothing that holds them."""
    for look in circuit.pin_looks:
        island = look.point.island
        if look.job is not PinJob.LISTENS or island is None:
            continue
        if look.point.behind_ohm(island.rest_state) < FLOATING_OHM:
            continue
        own = [one for one in look.threads if one.pin is look.pin] or list(look.threads)
        if not own or any(one.lead.output is not None for one in own):
            continue  # the pull-up check's
        if any(one.lead.role in (Role.COLLECTOR, Role.EMITTER) for one in own):
            continue  # the light check's
        thread = own[0]
        lift = (
            replace(
                thread.connection,
                beads=(*thread.beads, _lifting(look)),
            )
            if thread.connection is not None and thread.lead.wants is not Ability.ANALOGUE
            else None
        )
        yield WiringFinding(
            "floating-pin",
            Happens.FAILS,
            thread.where,
            f"Nothing holds {look.pin.name} while {thread.name} is open.",
            "Left alone a pin floats: it reads noise, and a hand nearby is enough to change it.",
            SOURCE,
            (thread.spot,),
            (),
            offered(Repair(f"Hold {look.pin.name} with a pull-up.", (lift,)) if lift else None),
        )


def _lifting(look: PinLook) -> Bead:
    """What holds a pin high: its own pull-up, or a resistor where it has none."""
    return Bead(BeadKind.PIN_PULL_UP) if look.limits.pull_up_ohm else pull_up(10_000.0)


def _at_least(volts: float) -> Callable[[Span], bool]:
    return lambda found: found.low >= volts


def _at_most(volts: float) -> Callable[[Span], bool]:
    return lambda found: found.high <= volts


def _happens(island: Island, point: Point, state: int, passes: Callable[[Span], bool]) -> Happens:
    return Happens.LUCK if _passes_good(island, point, state, passes) else Happens.FAILS


def _good_parts(island: Island, point: Point, state: int, passes: Callable[[Span], bool]) -> str:
    return " 1 % parts pass." if _passes_good(island, point, state, passes) else ""


def _passes_good(island: Island, point: Point, state: int, passes: Callable[[Span], bool]) -> bool:
    """Whether resistors of the better class would do."""
    better = island.with_good_parts(GOOD_PART)
    n = point.number
    volts = Span(
        float(better.low_v[state, n]),
        float(better.usual_v[state, n]),
        float(better.high_v[state, n]),
    )
    return bool(np.isfinite(volts).all() and passes(volts))
