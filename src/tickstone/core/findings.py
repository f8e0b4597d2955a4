"""What Tick Stone thinks of a recording and of a reading's budget. Pure rules."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import numpy.typing as npt

from tickstone.core.display import decimals_for, grouped
from tickstone.core.finding import Finding
from tickstone.core.reading_units import SMALL_LENGTH, shown, shown_u
from tickstone.core.signal import FloatArray, Signal
from tickstone.core.status import Status
from tickstone.core.step import Step
from tickstone.core.uncertainty import combined, expanded


def signal_findings(signal: Signal, is_events: bool) -> list[Finding]:
    """What the number and the spacing of a recording's samples say.

    is_events: samples are there only because something happened; silence is no gap then.
    """
    if len(signal) == 0:
        return [Finding("error", "The recording is empty.", "No line of it could be read.", "")]
    return [] if is_events else _gap_findings(signal)


def _gap_findings(signal: Signal) -> list[Finding]:
    if len(signal) < 3:
        return []
    steps = np.diff(signal.time_s)
    usual = float(np.median(steps))
    gaps = steps > max(5.0 * usual, 1e-6)
    if usual <= 0.0 or not gaps.any():
        return []
    longest = int(np.argmax(steps))
    return [
        Finding(
            "warning",
            f"Nothing was logged for {steps[longest]:.1f} s.",
            f"Readings come every {usual * 1000:.0f} ms, but after {signal.time_s[longest]:.1f} s "
            f"there is a gap{', and others' if gaps.sum() > 1 else ''}.",
            "Check the cable and what the program did at that time.",
        )
    ]


def budget_findings(step: Step, remedy_of: Callable[[str], str]) -> list[Finding]:
    """What would help most: the component that weighs heaviest, when one does."""
    if not step.components or not np.isfinite(step.value):
        return []
    heaviest = max(step.components, key=lambda part: abs(part.contribution))
    total = combined(step.components)
    if total <= 0.0 or heaviest.contribution**2 < 0.5 * total**2:
        return []
    rest = combined(part for part in step.components if part is not heaviest)
    quarter = (rest**2 + (heaviest.contribution / 4.0) ** 2) ** 0.5
    remedy = remedy_of(heaviest.name) or f"Knowing the {heaviest.name} four times better"
    return [
        Finding(
            "note",
            f"Most of the doubt is the {heaviest.name}.",
            f"It makes up {100 * heaviest.contribution**2 / total**2:.0f} % of the variance.",
            f"{remedy} would bring ± {_small(total, step)} to ± {_small(quarter, step)}.",
        )
    ]


def _small(u: float, step: Step) -> str:
    """The ± of a step, a length in mm."""
    key = step.quantity.small_key
    value, unit = shown_u(expanded(u), key), shown(0.0, key)[1]
    decimals = max(1 if key == SMALL_LENGTH else 0, decimals_for(value / 2.0) if value else 0)
    return f"{grouped(value, decimals)} {unit}".rstrip()


def clipped_findings(signal: Signal, end_of: str, remedy: str) -> list[Finding]:
    """That readings sit at an end, where what was felt may have been more. end_of: of what."""
    clipped = (signal.status == Status.CLIPPED).any(axis=0)
    count = int(np.count_nonzero(clipped))
    if count == 0:
        return []
    those = "1 reading sits" if count == 1 else f"{grouped(count, 0)} readings sit"
    return [
        Finding(
            "warning",
            f"{those} at the end of {end_of}.",
            f"That is {share_said(count, len(signal))}, {where_said(signal.time_s, clipped)}: "
            "what was felt there may have been more.",
            remedy,
        )
    ]


def where_said(time_s: FloatArray, mask: npt.NDArray[np.bool_]) -> str:
    """Where in time the set samples are: in one stretch, or all over."""
    places = np.flatnonzero(mask)
    if places.size == len(time_s):
        return "all there is"
    breaks = np.flatnonzero(np.diff(places) > 3)
    starts = np.concatenate(([0], breaks + 1))
    ends = np.concatenate((breaks, [places.size - 1]))
    longest = int(np.argmax(ends - starts))
    first, last = int(starts[longest]), int(ends[longest])
    if last - first + 1 < 0.5 * places.size:
        return "spread over the recording"
    middle = time_s[places[(first + last) // 2]]
    return f"most of it near {middle:.1f} s"


def share_said(part: int, whole: int) -> str:
    """A part of a whole in per cent."""
    share = 100.0 * part / whole
    return f"{share:.0f} %" if share >= 1 else "under 1 %"
