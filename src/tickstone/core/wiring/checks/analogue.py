"""What analogue leads span, against the pin, the reference and the codes there are."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator

from tickstone.core.display import grouped, prefixed
from tickstone.core.electric.divider import choose_divider
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.finding import Happens, Number, Repair, WiringFinding, offered
from tickstone.core.wiring.references import analogue_span, lowest_reference
from tickstone.core.wiring.repairing import divided
from tickstone.core.wiring.thread import Thread, names_of

LEAST_SHARE = 0.45
"""A signal that spans less of the reference is told so; under half the codes (our choice)."""


def analogue_range(circuit: Circuit) -> Iterator[WiringFinding]:
    """A signal beyond what the pin bears or the reference reaches."""
    reference = circuit.reference
    for thread in circuit.threads:
        span = analogue_span(circuit, thread)
        if span is None or reference is None or thread.pin is None:
            continue
        converter = circuit.board.converter
        assert converter is not None
        full, most = reference.volts.value, circuit.board.class_of(thread.pin).absolute_max_v
        codes = 2**converter.bits
        numbers = _numbers(span, full, codes)
        if span[1] > most.value:
            continue  # told of the pin itself
        if span[1] > full * 1.02:
            yield WiringFinding(
                "analogue-beyond",
                Happens.LUCK,
                thread.where,
                f"{thread.name} reaches {prefixed(span[1], 'V')}, beyond the reference of "
                f"{full:g} V: the top reads as one and the same.",
                f"Everything over the reference is code {codes - 1}.",
                "ideal converter: code = volts ÷ reference × 2ⁿ",
                (thread.spot,),
                numbers,
                offered(lowest_reference(circuit), _divide(circuit, thread, full, most.value)),
            )


def analogue_small(circuit: Circuit) -> Iterator[WiringFinding]:
    """A signal far under the reference; leads of a device that span the same are told at once."""
    reference, converter = circuit.reference, circuit.board.converter
    if reference is None or converter is None:
        return
    full, codes = reference.volts.value, 2**converter.bits
    alike: dict[tuple[str, tuple[float, float]], list[Thread]] = defaultdict(list)
    for thread in circuit.threads:
        span = analogue_span(circuit, thread)
        if span is None or thread.pin is None or span[1] > full * 1.02:
            continue
        if _share(span, full) < LEAST_SHARE:
            alike[thread.device.key, span].append(thread)
    for (_, span), threads in alike.items():
        used = _share(span, full) * codes
        yield WiringFinding(
            "analogue-small",
            Happens.BETTER,
            ", ".join(thread.where for thread in threads),
            f"{names_of(threads)} {'uses' if len(threads) == 1 else 'use'} {grouped(used, 0)} of "
            f"{grouped(codes, 0)} codes: {prefixed(span[0], 'V')} to {prefixed(span[1], 'V')} of "
            f"{full:g} V.",
            "The rest of the resolution goes unused. A lower reference helps when every analogue "
            "lead stays under it.",
            "ideal converter: code = volts ÷ reference × 2ⁿ",
            tuple(thread.spot for thread in threads),
            _numbers(span, full, codes),
            offered(_lower_reference(circuit, span)),
        )


def _lower_reference(circuit: Circuit, span: tuple[float, float]) -> Repair | None:
    """The lowest reference that suits all, where it lets this signal span enough of it."""
    repair, converter = lowest_reference(circuit), circuit.board.converter
    if repair is None or repair.settings is None or converter is None:
        return None
    name = repair.settings.reference
    lower = next((one for one in converter.references if one.name == name), None)
    return repair if lower and _share(span, lower.volts.value) >= LEAST_SHARE else None


def _share(span: tuple[float, float], full: float) -> float:
    """How much of the reference a signal spans."""
    return max(0.0, min(span[1], full) - min(span[0], full)) / full


def _numbers(span: tuple[float, float], full: float, codes: int) -> tuple[Number, ...]:
    return (
        Number("signal low", span[0], "V"),
        Number("signal high", span[1], "V"),
        Number("reference", full, "V"),
        Number("codes used", round(_share(span, full) * codes), ""),
        Number("codes", float(codes), ""),
    )


def _divide(circuit: Circuit, thread: Thread, full: float, most: float) -> Repair | None:
    bare = circuit.bare_high(thread)
    pair = choose_divider(bare.usual, min(full, most), min(full, most)) if bare else None
    return divided(thread, pair, f"{pair.nominal_v:.2f} V at most nominal") if pair else None
