"""What calibrations share that count pulses under a mark beside something counted or measured."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from tickstone.core.calibration.kind import Span, SpanResult
from tickstone.core.edges import passed
from tickstone.core.signal import FloatArray


def counted_turns(spans: Sequence[Span]) -> tuple[FloatArray, FloatArray]:
    """Pulses that passed under each span, and the turns told for it.

    Raises ValueError naming a span without turns, or when no pulse came at all.
    """
    for span in spans:
        if span.true is None or not span.true > 0.0:
            raise ValueError(f"“{span.name}” says no number of turns")
    pulses = np.array([passed(span.signal) for span in spans])
    if pulses.sum() < 1.0:
        raise ValueError("no pulse came under a mark; turn the wheel while it is recorded")
    return pulses, np.array([span.true or 0.0 for span in spans])


def counted_result(span: Span, pulses: float, read: float) -> SpanResult:
    """One span after the fit. read: what its pulses stand for."""
    is_used = pulses >= 1.0
    return SpanResult(
        name=span.name,
        true=span.true,
        u=span.u,
        read=read if is_used else None,
        scatter=None,
        drift=None,
        count=int(pulses),
        flagged=int(np.count_nonzero(~span.signal.ok)),
        wild=0,
        is_still=True,
        is_used=is_used,
        residual=(span.true or 0.0) - read if is_used else None,
    )
