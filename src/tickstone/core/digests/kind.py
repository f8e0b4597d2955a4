"""What a digest of a recording is: outputs in, a few figures out, of all of it and of each lap."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, ClassVar

from tickstone.core.quantity import Quantity
from tickstone.core.signal import Signal

BESIDE = "beside"
MARKED = "marked"


@dataclass(frozen=True, slots=True)
class Markable:
    """What a person can mark as known to be true, to hold a digest against. name: of the mark."""

    name: str
    label: str
    quantity: Quantity


@dataclass(frozen=True, slots=True)
class Figure:
    """One figure. value: NaN when it cannot be told. u: standard uncertainty, NaN when unknown.
    how: by which rule it was got, a few words. feeds: the input of evidence for a decision that it
    answers, wherever a sensor of the rig has one of that name. sets: parameters of the sensor that
    it suggests, by name.
    """

    name: str
    label: str
    quantity: Quantity
    value: float
    u: float
    how: str
    feeds: str = ""
    sets: Mapping[str, float | str] = field(default_factory=dict)


class DigestKind:
    """One kind of digest. takes: the outputs it looks at. lap: the name of notes that end a lap.

    beside: the output of another sensor, in the same take, that they are held against; it comes as
    results[BESIDE], at the times of the first it takes. Empty: nothing is.
    marks: what a person may have marked as true; it comes as results[MARKED], a lane for each, at
    the same times, NaN where nothing was marked.
    is_calibrated: whether its figures are only as good as the sensor’s calibration.
    """

    name: ClassVar[str]
    label: ClassVar[str]
    takes: ClassVar[tuple[str, ...]]
    lap: ClassVar[str] = "lap"
    beside: ClassVar[str] = ""
    marks: ClassVar[tuple[Markable, ...]] = ()
    is_calibrated: ClassVar[bool] = True

    def figures(
        self,
        results: Mapping[str, Signal],
        from_s: float,
        to_s: float,
        u_of: Callable[[str, float], float],
        parameters: Any,
    ) -> Sequence[Figure]:
        """The figures of a stretch. u_of: standard uncertainty of an output near a value.

        parameters: of the sensor.
        """
        raise NotImplementedError


def laps(from_s: float, to_s: float, ends_s: Sequence[float]) -> list[tuple[float, float]]:
    """Stretches between the ends of laps; none when no lap ended.

    >>> laps(0.0, 10.0, [4.0, 7.0, 12.0])
    [(0.0, 4.0), (4.0, 7.0), (7.0, 10.0)]
    >>> laps(0.0, 10.0, [])
    []
    """
    inside = sorted({end for end in ends_s if from_s < end < to_s})
    if not inside:
        return []
    edges = [from_s, *inside, to_s]
    return list(itertools.pairwise(edges))
