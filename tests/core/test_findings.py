"""What is said of a recording, and that it is true of it."""

from __future__ import annotations

import numpy as np

from tickstone.core.air.conditions import AirConditions
from tickstone.core.air.sound_speed import sound_speed_from_air, sound_speed_from_rule
from tickstone.core.chains.echo_ranger import EchoRanger, RangerParameters, ranger_chain
from tickstone.core.finding import Finding
from tickstone.core.findings import budget_findings, signal_findings
from tickstone.core.signal import Signal
from tickstone.core.surroundings import Surroundings

AIR = AirConditions(5.0, 0.5)
KIND = EchoRanger()


def findings(signal: Signal, parameters: RangerParameters | None = None) -> list[Finding]:
    of_kind = KIND.findings(parameters or RangerParameters(), Surroundings(AIR), signal)
    return [*signal_findings(signal, is_events=False), *of_kind]


def measured(raw: np.ndarray, time_s: np.ndarray | None = None) -> Signal:
    times = np.arange(len(raw)) * 0.05 if time_s is None else time_s
    return ranger_chain(RangerParameters(), AIR).apply(Signal.of(times, raw))


def test_a_dropout_is_told_with_its_place() -> None:
    raw = np.full(800, 3000.0)
    raw[600:630] = 0
    raw[10] = 0
    (finding,) = findings(measured(raw))
    assert finding.title == "31 readings have no echo."
    assert "4 %, most of it near 30.7 s" in finding.why


def test_scattered_zeros_are_not_said_to_be_in_one_place() -> None:
    rng = np.random.default_rng(3)
    raw = np.where(rng.random(1000) < 0.3, 0.0, 3000.0)
    (finding,) = findings(measured(raw))
    assert finding.severity == "error"
    assert "spread over the recording" in finding.why


def test_all_zeros_and_nothing_at_all() -> None:
    assert "100 %, all there is" in findings(measured(np.zeros(30)))[0].why
    assert findings(measured(np.empty(0)))[0].title == "The recording is empty."


def test_a_gap_in_the_log_is_told() -> None:
    time_s = np.arange(100) * 0.05
    time_s[60:] += 3.0
    (finding,) = findings(measured(np.full(100, 3000.0), time_s))
    assert finding.title in ("Nothing was logged for 3.0 s.", "Nothing was logged for 3.1 s.")


def test_near_and_far_are_notes() -> None:
    raw = np.full(50, 3000.0)
    raw[3], raw[4] = 90.0, 25_000.0
    titles = [finding.title for finding in findings(measured(raw))]
    assert titles == ["1 reading is too near.", "1 reading is too far."]


def test_a_rule_of_thumb_is_told_how_far_it_is_off_in_this_air() -> None:
    rule = RangerParameters(air_model="us58")
    (finding,) = KIND.findings(rule, Surroundings(AIR), None)
    true = sound_speed_from_air("cramer", AIR).value
    off_mm = (sound_speed_from_rule("us58").value / true - 1) * 1000
    assert finding.title == f"The fixed speed of sound puts 1 m {off_mm:.0f} mm too far."
    assert list(KIND.findings(RangerParameters(), Surroundings(AIR), None)) == []


def test_what_would_help_most_is_the_heaviest_and_its_promise_holds() -> None:
    echo = Signal.of([0.0], [11_660.0])
    step = ranger_chain(RangerParameters(), AIR).explain(echo, 0)[-1]
    (finding,) = budget_findings(step, KIND.remedy)
    assert finding.title == "Most of the doubt is the thermometer."
    better = AirConditions(5.0, 0.5, temperature_tolerance_c=0.5)
    promised = ranger_chain(RangerParameters(), better).explain(echo, 0)[-1]
    assert f"to ± {2000 * promised.u:.1f} mm" in finding.remedy
    assert step.u > 1.5 * promised.u
