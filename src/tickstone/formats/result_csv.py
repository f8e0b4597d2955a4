"""Writing a recording as CSV: raw inputs, what they were worked out to, and decisions."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence

import numpy as np

from tickstone.core.signal import Signal
from tickstone.core.status import Status

_ROWS_AT_ONCE = 20_000
_ASCII = {"µs": "us", "°": "deg", "Ω": "ohm", "%": "percent", "RPM": "rpm"}


def write_result_csv(
    raw: Mapping[str, Signal], results: Mapping[str, Signal], decisions: Mapping[str, Signal]
) -> Iterator[str]:
    """The CSV text in pieces: one row a result, numbers with a point, words that are no formulas.

    raw: by input; results, decisions: by output, all at the same times. A raw value stands in the
    row of its very time, an empty cell where there is none.

    >>> from tickstone.core.quantity import DISTANCE, ECHO_TIME
    >>> echo = Signal.of([0.0], [5831.0], ECHO_TIME)
    >>> pieces = write_result_csv({"echo": echo},
    ...     {"distance": Signal.of([0.0], [0.9951234], DISTANCE)}, {})
    >>> list(pieces)
    ['time_s,echo_us,distance_m,status\\n', '0.000000,5831,0.995123,ok\\n']
    """
    first = next(iter(results.values()))
    aligned = {name: _at_times_of(signal, first) for name, signal in raw.items()}
    heads = [*_heads(aligned), *_heads(results), "status", *_heads(decisions)]
    yield ",".join(["time_s", *heads]) + "\n"
    statuses = {int(status): status.code for status in Status}
    for begin in range(0, len(first), _ROWS_AT_ONCE):
        part = slice(begin, begin + _ROWS_AT_ONCE)
        columns: list[Sequence[str]] = [[f"{t:.6f}" for t in first.time_s[part].tolist()]]
        for signal in aligned.values():
            columns += [_cells(lane[part], ".10g") for lane in signal.values]
        for signal in results.values():
            scale = signal.quantity.filed(1.0)[0]
            columns += [_cells(scale * lane[part], ".6f") for lane in signal.values]
        columns.append([statuses[code] for code in first.flag[part].tolist()])
        for signal in decisions.values():
            states = [state.name for state in signal.quantity.states]
            columns += [
                [states[int(code)] for code in lane[part].tolist()] for lane in signal.values
            ]
        yield "".join(f"{','.join(row)}\n" for row in zip(*columns, strict=True))


def _heads(signals: Mapping[str, Signal]) -> list[str]:
    """Names with units and lanes, of letters, digits and underscores only; no word twice."""
    return [
        "_".join(word for word in dict.fromkeys((_word(name), _word(lane), unit)) if word)
        for name, signal in signals.items()
        for unit in (_unit(signal.quantity.filed(0.0)[1]),)
        for lane in signal.quantity.lanes
    ]


def _unit(unit: str) -> str:
    return _ASCII.get(unit) or _word(unit.replace("/", "_per_").replace("²", "2"))


def _word(text: str) -> str:
    return re.sub(r"[^A-Za-z0-9]+", "_", text).strip("_")


def _cells(values: np.ndarray, form: str) -> list[str]:
    return ["" if value != value else format(value, form) for value in values.tolist()]


def _at_times_of(signal: Signal, other: Signal) -> Signal:
    """A signal in the rows of another's times."""
    if len(signal) == len(other) and np.array_equal(signal.time_s, other.time_s):
        return signal
    places = np.searchsorted(signal.time_s, other.time_s)
    inside = np.minimum(places, max(0, len(signal) - 1))
    values = np.full((len(signal.values), len(other)), np.nan)
    status = np.zeros(values.shape, dtype=np.uint8)
    if len(signal):
        here = signal.time_s[inside] == other.time_s
        values[:, here] = signal.values[:, inside[here]]
    return Signal(other.time_s, values, status, signal.quantity)
