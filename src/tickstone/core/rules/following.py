"""The sum of a row that follows a line, with what is known of the row filled in."""

from __future__ import annotations

from itertools import pairwise

from tickstone.core.part_benches.line_row import LineRowBench
from tickstone.core.rules.kind import Known, OpenSum


def following_sum(known: Known) -> OpenSum | None:
    """How fast it may follow, by its places, its line and its program; None for one sensor, and
    where the places are those of another row.

    Of uneven places the widest gap counts: it is the one that a line can hide in.
    """
    if known.lanes < 2:
        return None
    row = known.parameters.row(known.lanes)
    if row is None:
        return None
    widest_m = max(b - a for a, b in pairwise(row.places_m))
    inputs = {
        "sensors": known.lanes,
        "pitch_mm": 1e3 * widest_m,
        "line_mm": 1e3 * row.line_m,
        "spot_mm": 1e3 * row.spot_m,
        "loop_ms": 1e3 * max(known.loop_s, known.sample_s),
    }
    return OpenSum(
        LineRowBench.name,
        "How fast it may follow, how tight a curve, how wide a line",
        {name: float(f"{value:.4g}") for name, value in inputs.items()},
    )
