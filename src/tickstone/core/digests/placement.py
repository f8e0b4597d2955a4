"""Three switches of a motor: how often each state was, and where each switch really sits."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from typing import Any, ClassVar

import numpy as np
import numpy.typing as npt

from tickstone.core.digests.kind import DigestKind, Figure
from tickstone.core.quantity import Quantity
from tickstone.core.reading_units import SMALL_LENGTH
from tickstone.core.signal import FloatArray, Signal
from tickstone.core.status import Status

_STATES = 6
_SWITCHES = ("A", "B", "C")
_FEWEST_TURNS = 5
COUNT = Quantity("number", "", decimals=0)
ANGLE = Quantity("angle", "°", decimals=1)
ARC = Quantity("arc", "m", shown_as=SMALL_LENGTH, decimals=2)


class Placement(DigestKind):
    """Steps forward and back, states that cannot be, and each switch’s place against the mean of
    all three, in electrical and mechanical degrees and along its radius.

    A switch rises and falls half an electrical turn apart; its place is the middle of both, so
    that how wide its magnets are does not matter. Even steps are read off the mean over a whole
    turn of the shaft around each, which the pattern of the magnets leaves alone. What all three are
    off by together cannot be seen from their signals.
    """

    name: ClassVar[str] = "placement"
    label: ClassVar[str] = "States and placement"
    takes: ClassVar[tuple[str, ...]] = ("state",)
    is_calibrated: ClassVar[bool] = False

    def figures(
        self,
        results: Mapping[str, Signal],
        from_s: float,
        to_s: float,
        u_of: Callable[[str, float], float],
        parameters: Any,
    ) -> Sequence[Figure]:
        """Counts, and three figures a switch."""
        state = results["state"]
        inside = (state.time_s >= from_s) & (state.time_s <= to_s)
        none = int(np.count_nonzero(state.flag[inside] == Status.NO_STATE))
        good = np.flatnonzero(inside & state.ok)
        time_s, place = state.time_s[good], np.rint(state.value[good]).astype(np.int64) - 1
        steps = (np.diff(place) + _STATES // 2) % _STATES - _STATES // 2
        sign = -1 if parameters.swapped else 1
        found = [
            _count("forward", "steps forward", np.count_nonzero(sign * steps == 1)),
            _count("backward", "steps back", np.count_nonzero(sign * steps == -1)),
            _count("skipped", "not seen", np.count_nonzero(np.abs(steps) > 1)),
            _count("illegal", "cannot be", none),
        ]
        errors = placed(time_s[1:], place[1:], steps, parameters.pole_pairs, parameters.spacing)
        for switch, (angle, u) in zip(_SWITCHES, errors, strict=True):
            error = sign * angle
            mechanical = 1.0 / parameters.pole_pairs
            along = math.radians(mechanical) * parameters.radius_m
            low = switch.lower()
            found += [
                Figure(f"{low}_electrical", f"{switch} electrical", ANGLE, error, u, _HOW),
                Figure(
                    f"{low}_mechanical", f"{switch} mechanical", ANGLE, error * mechanical,
                    u * mechanical, "÷ pole pairs",
                ),
                Figure(f"{low}_arc", f"{switch} along", ARC, error * along, u * along, "× radius"),
            ]  # fmt: skip
        return found


_HOW = "against the mean of the three"


def _count(name: str, label: str, number: int | np.integer) -> Figure:
    return Figure(name, label, COUNT, float(number), math.nan, "counted")


def placed(
    time_s: FloatArray,
    place: npt.NDArray[np.int64],
    steps: npt.NDArray[np.int64],
    pole_pairs: int,
    spacing: str,
) -> list[tuple[float, float]]:
    """How far each switch sits from where it belongs, electrical degrees forward, and its standard
    uncertainty; NaN from fewer than five turns of the shaft without a break, one way.

    time_s, place: of every step, and the state it led to, 0 to 5. steps: 1 or -1, of each.
    """
    around = _STATES * pole_pairs
    nothing = [(math.nan, math.nan)] * 3
    if len(time_s) < (_FEWEST_TURNS + 1) * around:
        return nothing
    way = 1 if np.count_nonzero(steps == 1) >= np.count_nonzero(steps == -1) else -1
    weights = np.full(around + 1, 1.0 / around)
    weights[[0, -1]] /= 2.0
    even = np.convolve(time_s, weights, mode="valid")
    middle = slice(around // 2, len(time_s) - around // 2)
    whole = time_s[around:] - time_s[:-around]
    # A window in which every step went the same way, one at a time.
    alike = np.convolve(steps == way, np.ones(around + 1), mode="valid") > around + 0.5
    with np.errstate(divide="ignore", invalid="ignore"):
        off = way * 360.0 * pole_pairs * (time_s[middle] - even) / whole
    # Forward it is the state led to that begins at an edge, backward the one that is left.
    edge = (place[middle] if way > 0 else (place[middle] + 1)) % _STATES
    turns = np.count_nonzero(alike) / around
    if turns < _FEWEST_TURNS:
        return nothing
    off, edge = off[alike], edge[alike]
    means = np.array([off[edge == n].mean() for n in range(_STATES)])
    spread = np.array([off[edge == n].std(ddof=1) for n in range(_STATES)])
    u = spread / math.sqrt(turns * pole_pairs)
    # A rises where the cycle begins, the others as far on as they sit; each falls half round later.
    rises = (0, 2, 4) if spacing == "120" else (0, 1, 2)
    pairs = [(rise, (rise + _STATES // 2) % _STATES) for rise in rises]
    middles = np.array([(means[a] + means[b]) / 2.0 for a, b in pairs])
    doubts = np.array([math.hypot(u[a], u[b]) / 2.0 for a, b in pairs])
    middles -= middles.mean()
    shared = np.sqrt((4.0 * doubts**2 + (doubts**2).sum() - doubts**2) / 9.0)
    return [(float(a), float(b)) for a, b in zip(middles, shared, strict=True)]
