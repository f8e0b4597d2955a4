"""What the program sees while somebody has both hands on the thing: what is held, what is next."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from tickstone.core.calibration.poses import BIN_S, Held, noise_floor, stillness
from tickstone.core.calibration.poses import good_samples as good_of
from tickstone.core.calibration.seen import PoseHeld, Seen
from tickstone.core.signal import Signal

HELD_S = 2.5
"""A pose counts as held once it was still for so long."""
_GLIMPSE_S = 0.5
_SILENT_S = 1.5


def see_poses(
    signal: Signal, steady: float, named: Callable[[Held], str], wanted: Sequence[str]
) -> Seen:
    """What was held of several poses, each once, in any order.

    steady: what is granted beside noise. named: the pose of what is held; empty where it is none.

    >>> import numpy as np
    >>> from tickstone.core.calibration.poses import face_of
    >>> from tickstone.core.quantity import FORCE
    >>> flat = Signal.of(np.arange(400) / 100, np.tile([[0.0], [0.0], [9.8]], 400), FORCE)
    >>> seen = see_poses(flat, 0.05, lambda held: face_of(held.mean), ("+z", "-z"))
    >>> [one.name for one in seen.done], seen.missing, seen.says
    (['+z'], ('-z',), 'Now -z')
    """
    time_s, values = good_of(signal)
    if len(time_s) == 0:
        return _nothing(tuple(wanted), "Nothing is heard")
    noise = noise_floor(time_s, values)
    done: dict[str, PoseHeld] = {}
    last: tuple[str, Held, bool] | None = None
    for held in stillness(signal, steady, HELD_S, noise):
        name = named(held)
        is_new = bool(name) and name not in done
        if is_new and name in wanted:
            done[name] = PoseHeld(name, held.start_s, held.end_s)
        last = (name, held, is_new)
    missing = tuple(name for name in wanted if name not in done)
    now = _now(signal, steady, noise)
    still_s = now.end_s - now.start_s + 2.0 * BIN_S if now is not None else 0.0
    name = named(now) if now is not None else ""
    refused = ""
    # The stretch that is still going on may be the one that has just counted.
    counted = last is not None and now is not None and abs(last[1].end_s - now.end_s) < 3 * BIN_S
    if now is not None and not name:
        refused = "It leans: that is none of them"
    elif name in done and not (counted and last is not None and last[2]):
        refused = f"{name} was held already"
    if not missing:
        says = "All held"
    elif refused:
        says = f"Now {missing[0]}"
    elif now is None:
        says = f"Turn to {missing[0]}, and let go"
    elif name in done:
        says = f"Now {missing[0]}"
    else:
        says = f"{name}: keep still"
    return Seen(name, still_s, HELD_S, tuple(done.values()), missing, refused, says)


def see_rest(signal: Signal, steady: float, name: str, needs_s: float) -> Seen:
    """Whether something has been left alone for long enough; the longest rest counts.

    >>> import numpy as np
    >>> from tickstone.core.quantity import ROTATION
    >>> still = Signal.of(np.arange(500) / 100, np.zeros((3, 500)), ROTATION)
    >>> see_rest(still, 0.01, "rest", 10.0).says
    'Leave it alone'
    """
    time_s, values = good_of(signal)
    if len(time_s) == 0:
        return _nothing((name,), "Nothing is heard")
    noise = noise_floor(time_s, values)
    rests = stillness(signal, steady, _GLIMPSE_S, noise)
    longest = max(rests, key=lambda one: one.end_s - one.start_s, default=None)
    now = _now(signal, steady, noise)
    lasts_s = longest.end_s - longest.start_s + 2.0 * BIN_S if longest is not None else 0.0
    done = (
        (PoseHeld(name, longest.start_s, longest.end_s),)
        if longest is not None and lasts_s >= needs_s
        else ()
    )
    says = "Long enough" if done else "Leave it alone" if now is not None else "Put it down"
    still_s = lasts_s if done or now is None else now.end_s - now.start_s + 2.0 * BIN_S
    here = longest.end_s if longest is not None and now is not None else 0.0
    if now is not None and abs(here - now.end_s) < 3.0 * BIN_S:
        still_s = lasts_s
    return Seen(
        name if now is not None else "", still_s, needs_s, done, () if done else (name,), "", says
    )


def _now(signal: Signal, steady: float, noise: float) -> Held | None:
    """What has been still up to now; None while it moves."""
    end_s = float(signal.time_s[-1])
    first = int(signal.time_s.searchsorted(end_s - 2.0 * HELD_S))
    recent = signal.between(first, len(signal))
    held = stillness(recent, steady, _GLIMPSE_S, noise)
    return held[-1] if held and end_s - held[-1].end_s < 3.0 * BIN_S else None


def _nothing(missing: tuple[str, ...], says: str) -> Seen:
    return Seen("", 0.0, HELD_S, (), missing, "", says)
