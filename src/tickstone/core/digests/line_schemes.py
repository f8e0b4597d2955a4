"""Ways to use a row side by side: two, three and five of its sensors, and the weighted place."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from typing import Any, ClassVar

import numpy as np
import numpy.typing as npt

from tickstone.core.digests.kind import DigestKind, Figure
from tickstone.core.quantity import Quantity
from tickstone.core.reading_units import PERCENT_SHARE, SMALL_LENGTH
from tickstone.core.signal import FloatArray, Signal
from tickstone.core.stages.lane_state import DARK

_OFF = Quantity("off", "m", shown_as=SMALL_LENGTH, decimals=1)
_SHARE = Quantity("share", "", shown_as=PERCENT_SHARE, decimals=1)
_RATE = Quantity("changes", "1/s", decimals=1)
_COUNT = Quantity("number", "", decimals=0)


class LineSchemes(DigestKind):
    """The same recording seen by two, three, five … of the sensors about the middle: how far the
    middle of those that see the line lies from the weighted place (root mean square), how often
    none sees it, how many places it can tell, and how often it changes.
    """

    name: ClassVar[str] = "line-schemes"
    label: ClassVar[str] = "Two, three, five sensors, or the weighted place"
    takes: ClassVar[tuple[str, ...]] = ("state", "position")

    def figures(
        self,
        results: Mapping[str, Signal],
        from_s: float,
        to_s: float,
        u_of: Callable[[str, float], float],
        parameters: Any,
    ) -> Sequence[Figure]:
        """Four figures a scheme."""
        state, place = results["state"], results["position"]
        inside = (state.time_s >= from_s) & (state.time_s <= to_s)
        time_s = state.time_s[inside]
        on = state.values[:, inside] == DARK
        on = on if parameters.line_is == "dark" else ~on
        count = len(on)
        row = parameters.row(count)
        if row is None:
            return ()
        places = row.of_lanes(parameters.first_is == "right") + parameters.middle_m
        good = place.ok[inside] & ~np.isnan(place.value[inside])
        found: list[Figure] = []
        for used in sorted({*(n for n in (2, 3, 5) if n < count), count}):
            lanes = _middle(count, used, places)
            found += _scheme(used, on[lanes], places[lanes], place.value[inside], good, time_s)
        steps = int(np.count_nonzero(np.diff(place.value[inside][good])))
        lasting = float(time_s[-1] - time_s[0]) if len(time_s) > 1 else math.nan
        lost = 1.0 - good.mean() if len(good) else math.nan
        found += [
            Figure("weighted_lost", "weighted: no place", _SHARE, float(lost), math.nan, "flagged"),
            Figure(
                "weighted_rate", "weighted: changes", _RATE,
                steps / lasting if lasting else math.nan, math.nan, "of any size",
            ),
        ]  # fmt: skip
        return found


def _middle(count: int, used: int, places: FloatArray) -> npt.NDArray[np.intp]:
    """Those of the lanes that sit nearest the middle, as many on either side."""
    middle = (places.min() + places.max()) / 2.0
    order = np.argsort(np.abs(places - middle), kind="stable")
    if used % 2 == 0 and count % 2 == 1:
        order = order[1:]  # an even number leaves the middle one out
    return np.sort(order[:used])


def _scheme(
    used: int,
    on: npt.NDArray[np.bool_],
    places: FloatArray,
    weighted: FloatArray,
    good: npt.NDArray[np.bool_],
    time_s: FloatArray,
) -> list[Figure]:
    many = on.sum(axis=0)
    seen = (many > 0) & good
    told = np.divide(places @ on, many, out=np.zeros(len(many)), where=many > 0)
    off = told[seen] - weighted[seen]
    rms = math.sqrt(float(np.mean(off**2))) if off.size else math.nan
    lost = float(np.mean(many == 0)) if len(many) else math.nan
    bits = (2.0 ** np.arange(len(on))) @ on
    changes = int(np.count_nonzero(np.diff(bits)))
    lasting = float(time_s[-1] - time_s[0]) if len(time_s) > 1 else math.nan
    rate = changes / lasting if lasting else math.nan
    said = f"{used} sensors"
    return [
        Figure(f"off_{used}", f"{said}: off by", _OFF, rms, math.nan, "from the weighted place"),
        Figure(f"lost_{used}", f"{said}: none sees it", _SHARE, lost, math.nan, "of the time"),
        Figure(
            f"places_{used}", f"{said}: places", _COUNT,
            float(len(np.unique(np.round(told[seen], 6)))), math.nan, "it told apart",
        ),
        Figure(f"rate_{used}", f"{said}: changes", _RATE, rate, math.nan, "of what it sees"),
    ]  # fmt: skip
