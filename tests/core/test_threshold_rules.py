"""Stop, clear, blind: what the decision must never do."""

from __future__ import annotations

import enum
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tickstone.core.chains.echo_ranger import RangerParameters
from tickstone.core.quantity import DISTANCE, NUMBER
from tickstone.core.rules.stop_and_go import WAY, StopAndGo, StopAndGoParameters
from tickstone.core.signal import Signal
from tickstone.core.stages.two_thresholds import TwoThresholds, Words
from tickstone.core.status import Status
from tickstone.core.step import Lane, Reading


class Decision(enum.IntEnum):
    CLEAR = 0
    STOP = 1
    BLIND = 2


def decide(
    distances: list[float],
    statuses: list[Status] | None = None,
    step_s: float = 0.05,
    silence_is_clear: bool = False,
) -> list[Decision]:
    sensor = RangerParameters(blind_stop_s=0.25, silence_is_clear=silence_is_clear)
    stage = StopAndGo().stage(StopAndGoParameters(0.42, 0.50), sensor)
    time_s = np.arange(len(distances)) * step_s
    signal = Signal.of(time_s, distances, DISTANCE, statuses or [Status.OK] * len(distances))
    decided, _ = stage.run(stage.begin(), signal)
    return [Decision(int(code)) for code in decided.value]


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
        StopAndGoParameters(0.5, 0.42)


def test_an_empty_recording_decides_nothing() -> None:
    assert decide([]) == []


def test_an_alarm_above_is_the_same_turned_round() -> None:
    stage = TwoThresholds(0.5, 0.42, WAY, Words("too fast", "slow enough"))
    signal = Signal.of(np.arange(5.0), [0.3, 0.45, 0.51, 0.45, 0.41])
    decided, _ = stage.run(stage.begin(), signal)
    assert decided.value.tolist() == [0.0, 0.0, 1.0, 1.0, 0.0]
    step = stage.explain((None,) * 5, reading(0.6))
    assert (step.label, step.filled) == ("too fast above 0.5", "0.600 is above 0.5")


def reading(value: float) -> Reading:
    return Reading(0.0, NUMBER, (Lane(value),))


@given(
    st.lists(st.sampled_from([0.3, 0.45, 0.6]), min_size=1, max_size=60),
    st.floats(0.05, 0.4),
)
def test_a_new_decision_waits_until_it_has_stood(values: list[float], dwell_s: float) -> None:
    """Against the rule read out sample by sample."""
    plain = TwoThresholds(0.42, 0.5, WAY, Words("stop", "go again"))
    waiting = replace(plain, dwell_s=dwell_s)
    signal = Signal.of(np.arange(len(values)) * 0.1, values)
    wanted = plain.run(plain.begin(), signal)[0].value
    expected, counts, since, last = [], wanted[0], 0.0, None
    for time_s, decision in zip(signal.time_s, wanted, strict=True):
        if decision != last:
            last, since = decision, time_s
        if time_s - since >= dwell_s:
            counts = decision
        expected.append(counts)
    np.testing.assert_array_equal(waiting.run(waiting.begin(), signal)[0].value, expected)
