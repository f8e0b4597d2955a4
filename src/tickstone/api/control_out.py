"""How a loop did, dressed for the wire."""

from __future__ import annotations

from dataclasses import asdict

from tickstone.api.schemas.control import MeasuresOut
from tickstone.core.control.measures import Measures
from tickstone.core.display import finite


def measures_out(told: Measures) -> MeasuresOut:
    """The measures; null where it never came to that."""
    return MeasuresOut(
        **{
            name: value if isinstance(value, int) else finite(value)
            for name, value in asdict(told).items()
        }
    )


def thinned(count: int, points: int) -> slice:
    """Every so many of so many, for no more than so many points."""
    return slice(None, None, max(1, -(-count // points)))
