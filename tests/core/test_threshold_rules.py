"""Stop, clear, blind: what the decision must never do."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tickstone.core.signal import Signal
from tickstone.core.stages.stop_threshold import Decision, StopThreshold
from tickstone.core.status import Status


def decide(
    distances: list[float],
    statuses: list[Status] | None = None,
    step_s: float = 0.05,
    silence_is_clear: bool = False,
) -> list[Decision]:
    stage = StopThreshold(0.42, 0.50, 0.25, silence_is_clear)
    status = np.array(statuses or [Status.OK] * len(distances), dtype=np.uint8)
    time_s = np.arange(len(distances)) * step_s
    signal = Signal(time_s, np.array(distances, dtype=float), "m", status)
    return [Decision(int(code)) for code in stage.apply(signal).values]


def test_the_band_keeps_the_last_decision() -> None:
    assert decide([0.6, 0.45, 0.41, 0.45, 0.49, 0.51, 0.45]) == [
        Decision.CLEAR, Decision.CLEAR, Decision.STOP, Decision.STOP,
        Decision.STOP, Decision.CLEAR, Decision.CLEAR,
    ]  # fmt: skip


def test_before_any_evidence_it_stands_still() -> None:
    assert decide([0.45, 0.46]) == [Decision.STOP, Decision.STOP]


@given(st.lists(st.floats(0.421, 0.499), min_size=1, max_size=200), st.floats(0.51, 4))
def test_noise_inside_the_band_never_dithers(noise: list[float], first: float) -> None:
    assert set(decide([first, *noise])) == {Decision.CLEAR}


def test_silence_becomes_blind_and_only_a_clear_reading_ends_it() -> None:
    statuses = [Status.OK] + [Status.NO_ECHO] * 8 + [Status.OK] * 2
    decisions = decide([0.6] + [np.nan] * 8 + [0.45, 0.6], statuses)
    assert decisions[:6] == [Decision.CLEAR] * 6
    assert decisions[6:9] == [Decision.BLIND] * 3
    assert decisions[9:] == [Decision.STOP, Decision.CLEAR]


def test_silence_counts_as_clear_only_when_told_so() -> None:
    statuses = [Status.NO_ECHO] * 10
    assert Decision.CLEAR not in decide([np.nan] * 10, statuses)
    assert set(decide([np.nan] * 10, statuses, silence_is_clear=True)) == {Decision.CLEAR}


def test_too_near_stops_and_too_far_clears() -> None:
    assert decide([0.01, 5.0], [Status.TOO_NEAR, Status.TOO_FAR]) == [
        Decision.STOP,
        Decision.CLEAR,
    ]


def test_thresholds_the_wrong_way_round_are_refused() -> None:
    with pytest.raises(ValueError, match="the second has to be the larger"):
        StopThreshold(0.5, 0.42, 0.25, False)


def test_an_empty_recording_decides_nothing() -> None:
    assert decide([]) == []
