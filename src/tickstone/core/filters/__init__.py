"""Filters that any reading may go through: a file for each, registered here."""

from __future__ import annotations

import numpy as np

from tickstone.core.chain import Stage
from tickstone.core.filters.average import Average
from tickstone.core.filters.exponential import Exponential
from tickstone.core.filters.hampel import Hampel
from tickstone.core.filters.kalman import Kalman
from tickstone.core.filters.kind import FilterKind
from tickstone.core.filters.low_pass import LowPass
from tickstone.core.filters.median import Median
from tickstone.core.filters.slew import Slew
from tickstone.core.filters.speed_kalman import SpeedKalman
from tickstone.core.inputs import Value, inputs_of, with_inputs
from tickstone.core.signal import Signal

_RUN_IN = 2_000

FILTERS: dict[str, FilterKind] = {
    kind.name: kind
    for kind in (
        Median(), Average(), Exponential(), Hampel(), LowPass(), Kalman(), SpeedKalman(), Slew(),
    )
}  # fmt: skip


def filter_from_words(words: str) -> tuple[FilterKind, dict[str, Value]]:
    """A filter as it is typed: its name, then its settings.

    Raises ValueError naming what is none of them.

    >>> kind, settings = filter_from_words("kalman:q=1e-3,r=4e-2")
    >>> kind.name, settings
    ('kalman', {'q': 0.001, 'r': 0.04})
    """
    name, _, rest = words.strip().partition(":")
    if name not in FILTERS:
        raise ValueError(f"there is no filter “{name[:40]}”; there are {', '.join(FILTERS)}")
    kind = FILTERS[name]
    known = {one.name: one for one in inputs_of(kind.parameters)}
    settings: dict[str, Value] = {}
    for pair in rest.split(",") if rest else []:
        setting, mark, text = (part.strip() for part in pair.partition("="))
        if not mark or setting not in known:
            raise ValueError(f"{name}: “{pair[:40]}” has to be one of {_known(kind)}")
        try:
            value = float(text)
        except ValueError:
            raise ValueError(f"{name}: {setting}: “{text[:40]}” is no number") from None
        checked = known[setting].check(value)
        assert checked is not None
        settings[setting] = checked
    return kind, settings


def stage_from_words(words: str) -> Stage | None:
    """The stage of a filter as it is typed; None where nothing is.

    >>> stage_from_words("median:n=5").n, stage_from_words("")
    (5, None)
    """
    if not words.strip():
        return None
    kind, settings = filter_from_words(words)
    return kind.stage(with_inputs(kind.parameters, settings))


def lag_s(words: str, sample_s: float) -> float:
    """By how much a filter is behind what changes evenly, when a reading comes every so often.

    >>> round(lag_s("mean:n=5", 0.05), 6), lag_s("", 0.05)
    (0.1, 0.0)
    """
    stage = stage_from_words(words)
    if stage is None or not sample_s > 0.0:
        return 0.0
    time_s = np.arange(_RUN_IN) * sample_s
    told = stage.run(stage.begin(), Signal.of(time_s, time_s))[0].value
    return max(0.0, float(time_s[-1] - told[-1]))


def check_words(words: str) -> None:
    """Raises ValueError, naming the parameter, when a filter cannot be as it is typed."""
    try:
        stage_from_words(words)
    except ValueError as error:
        raise ValueError(f"smooth: {error}") from error


def in_words(kind: FilterKind, settings: dict[str, Value]) -> str:
    """A filter as it would be typed.

    >>> in_words(FILTERS["median"], {"n": 5})
    'median:n=5'
    """
    pairs = ",".join(f"{name}={value:g}" for name, value in settings.items())
    return f"{kind.name}:{pairs}" if pairs else kind.name


def _known(kind: FilterKind) -> str:
    return ", ".join(f"{one.name}=…" for one in inputs_of(kind.parameters))
