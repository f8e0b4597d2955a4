"""Readings held against something else: ratios and their causes, and a regulation's band."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tickstone.core.chains.pulses import PulseParameters
from tickstone.core.checks.speed_display import DisplayShows, SpeedDisplay
from tickstone.core.checks.turn_reference import AgainstReference, TurnReference, causes

CHECK = AgainstReference()
SETS = [
    PulseParameters(),
    PulseParameters(per_turn=4),
    PulseParameters(per_turn=2, edges="both"),
    PulseParameters(gear=0.3),
]


@pytest.mark.parametrize(
    ("asked", "rpm"),
    [
        # Common practice: rpm = 60·fps/frames, rpm ≈ KV·V.
        (TurnReference("film", frames=240.0, frames_per_s=240.0), 60.0),
        (TurnReference("film", frames=12.0, film_turns=3.0, frames_per_s=120.0), 1800.0),
        (TurnReference("watch", turns=30.0, seconds=20.0), 90.0),
        (TurnReference("motor", kv_rpm_per_v=1400.0, volts=7.4), 10_360.0),
        (TurnReference("meter", meter_turns_per_s=3.9), 234.0),
    ],
)
def test_what_a_reference_says(asked: TurnReference, rpm: float) -> None:
    rate, u = asked.rate()
    assert 60.0 * rate == pytest.approx(rpm)
    assert 0.0 < u < rate


def test_one_frame_more_or_less_is_its_doubt() -> None:
    rate, u = TurnReference("film", frames=20.0, frames_per_s=240.0).rate()
    near = [TurnReference("film", frames=f, frames_per_s=240.0).rate()[0] for f in (19.0, 21.0)]
    assert min(near) < rate - u < rate + u < max(near)


@given(st.sampled_from(SETS), st.floats(0.5, 50.0), st.data())
def test_every_cause_is_named_where_its_ratio_is_seen(parameters, rate, data) -> None:
    cause = data.draw(st.sampled_from(causes(parameters)))
    asked = TurnReference("meter", meter_turns_per_s=rate, meter_percent=0.5)
    found = CHECK.judge(asked, rate * cause.ratio, 1e-3 * rate, parameters)
    titles = [finding.title for finding in found.findings]
    fitting = {c.title for c in causes(parameters) if abs(c.ratio / cause.ratio - 1) < 1e-6}
    assert found.is_good is False
    assert cause.title in titles or len(fitting) > 5
    assert all(finding.remedy for finding in found.findings)


def test_twice_as_fast_is_both_edges_first_and_two_strips_next() -> None:
    found = CHECK.judge(
        TurnReference("watch", turns=60.0, seconds=30.0), 4.0, 0.001, PulseParameters()
    )
    assert found.says.startswith("2.000 ± 0.02")
    assert "Both edges" in found.findings[0].title
    assert "2 magnets or strips" in found.findings[1].title
    both = PulseParameters(edges="both")
    low = CHECK.judge(TurnReference("watch", turns=60.0, seconds=30.0), 1.0, 0.001, both)
    assert "too low" in low.says
    assert "One edge" in low.findings[0].title


def test_what_agrees_and_what_no_whole_number_explains() -> None:
    watch = TurnReference("watch", turns=60.0, seconds=30.0)
    assert CHECK.judge(watch, 2.01, 0.001, PulseParameters()).is_good is True
    odd = CHECK.judge(watch, 2.6, 0.001, PulseParameters())
    assert odd.is_good is False
    assert "No small whole number" in odd.findings[-1].title
    rough = CHECK.judge(TurnReference("watch", turns=2.0, seconds=1.0, reaction_s=0.5), 9.0, 0.01,
                        PulseParameters())  # fmt: skip
    assert any("too rough" in finding.title for finding in rough.findings)
    with pytest.raises(ValueError, match="no rate"):
        CHECK.judge(watch, float("nan"), 0.1, PulseParameters())


@pytest.mark.parametrize(
    ("true_kmh", "shown_kmh", "is_good"),
    [
        # UN Regulation 39: 0 ≤ V₁ − V₂ ≤ V₂/10 + 4 km/h.
        (40.0, 40.5, True),
        (40.0, 47.5, True),
        (40.0, 48.5, False),
        (40.0, 39.5, False),
        (120.0, 135.5, True),
        (120.0, 136.5, False),
        (40.0, 40.0, None),
        (40.0, 47.95, None),
    ],
)
def test_a_display_by_the_regulation(true_kmh: float, shown_kmh: float, is_good) -> None:
    found = SpeedDisplay().judge(DisplayShows(shown_kmh / 3.6), true_kmh / 3.6, 0.05 / 3.6, None)
    assert found.is_good is is_good
    assert SpeedDisplay.caution
