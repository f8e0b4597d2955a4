"""Six faces, two extremes, level, rest and turns: what they find, refuse and doubt."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
from tests.core.inertial_units import HZ, G, held, one_log, resting, six_spans, unit

from tickstone.core.axes import AXES, axis_vector, rotation
from tickstone.core.calibration.face_fit import SQUARE_RAD
from tickstone.core.calibration.guiding import see_poses, see_rest
from tickstone.core.calibration.kind import CalibrationKind, Fit, Span
from tickstone.core.calibration.level_zero import LevelZeroKind
from tickstone.core.calibration.poses import face_of, face_said, stillness
from tickstone.core.calibration.rest_bias import RestBiasKind
from tickstone.core.calibration.six_face import SixFaceKind
from tickstone.core.calibration.turn_scale import TurnScaleKind
from tickstone.core.calibration.two_extremes import TwoExtremesKind
from tickstone.core.chains.analogue3 import Analogue3Parameters
from tickstone.core.chains.six_axis import SixAxisParameters
from tickstone.core.quantity import FORCE, ROTATION, VOLTAGE
from tickstone.core.signal import Signal
from tickstone.core.step import Lane, Reading

TRIALS = 1000
KINDS = FACES, TWO, LEVEL, REST, TURN = (
    SixFaceKind(), TwoExtremesKind(), LevelZeroKind(), RestBiasKind(), TurnScaleKind(),
)  # fmt: skip


def share_within(ratios: list[float]) -> float:
    """Share of errors that lie within twice their standard uncertainty."""
    return float(np.mean(np.abs(ratios) <= 2.0))


def test_six_faces_give_the_unit_back_within_what_is_stated() -> None:
    """Offsets, scales and cross-axis of a thousand units, each with its own stated doubt."""
    ratios: list[float] = []
    for seed in range(TRIALS):
        rng = np.random.default_rng(seed)
        offset, scale = unit(rng)
        fit = FACES.fit(six_spans(offset, scale, rng, SQUARE_RAD), SixAxisParameters())
        u = np.sqrt(np.diag(fit.covariance))
        true = np.concatenate((offset / G, np.linalg.inv(scale).ravel()))
        told = np.array(fit.numbers("offset_g") + fit.numbers("matrix"))
        ratios += ((told - true) / u).tolist()
    assert 0.93 < share_within(ratios) < 0.97


def test_faces_are_found_in_one_log_in_any_order_with_hands_between() -> None:
    rng = np.random.default_rng(1)
    offset, scale = unit(rng)
    order = rng.permutation(list(AXES))
    parts = []
    for face in order:
        moving = held(axis_vector(face), offset, scale, rng, 1.0)
        moving = moving.replaced(moving.values + rng.normal(0, 1.5, moving.values.shape))
        parts += [moving, held(axis_vector(face), offset, scale, rng)]
    log = one_log(parts)
    fit = FACES.fit([Span("any face", log)], SixAxisParameters())
    assert fit.statistics["faces"] == 6.0
    np.testing.assert_allclose(fit.numbers("offset_g"), offset / G, atol=0.002)
    assert [face_of(one.mean) for one in stillness(log, 0.04)] == order.tolist()
    assert len(FACES.still(log)) == 6


def test_the_stage_it_becomes_undoes_the_unit_and_carries_its_doubt() -> None:
    rng = np.random.default_rng(2)
    offset, scale = unit(rng)
    fit = FACES.fit(six_spans(offset, scale, rng), SixAxisParameters())
    stage = FACES.stage(fit, True, "6 faces")
    true = np.array([3.0, -4.0, 8.0])
    read = offset + scale @ true
    told = stage.apply(Signal.of([0.0], read[:, None], FORCE)).values[:, 0]
    np.testing.assert_allclose(told, true, atol=0.05)
    step = stage.explain(None, Reading(0.0, FORCE, tuple(Lane(float(one)) for one in read)))
    assert all(0.0 < lane.u < 0.1 for lane in step.lanes)


@pytest.mark.parametrize(
    ("faces", "count"),
    [(AXES[:5], 9.0), (("+x", "-x", "+y", "+z"), 6.0)],
)
def test_fewer_faces_give_fewer_numbers_and_say_so(faces: tuple[str, ...], count: float) -> None:
    rng = np.random.default_rng(3)
    offset, scale = np.array([0.1, -0.2, 0.3]), np.diag([1.01, 0.99, 1.02])
    fit = FACES.fit(six_spans(offset, scale, rng, faces=faces), SixAxisParameters())
    assert fit.statistics["fitted"] == count
    assert any("not held" in one.title for one in fit.remarks)
    np.testing.assert_allclose(fit.numbers("offset_g"), offset / G, atol=0.004)


def test_a_face_that_moved_or_came_twice_is_left_out_by_name() -> None:
    rng = np.random.default_rng(4)
    offset, scale = unit(rng)
    spans = six_spans(offset, scale, rng)
    drifting = held(axis_vector("+x"), offset, scale, rng)
    drifting = drifting.replaced(drifting.values + np.linspace(0, 1.0, len(drifting)))
    again = Span("again", held(axis_vector("+z"), offset, scale, rng))
    fit = FACES.fit([*spans, Span("wobbly", drifting), again], SixAxisParameters())
    titles = {one.title: one.why for one in fit.remarks}
    assert "It moved" in titles["“wobbly” is left out."]
    assert "came twice" in titles["“again” is left out."]
    assert [one.is_used for one in fit.spans] == [True] * 6 + [False, False]


def test_what_cannot_be_is_refused_with_what_would_mend_it() -> None:
    rng = np.random.default_rng(5)
    none, flat = np.zeros(3), np.eye(3)
    six = six_spans(none, flat, rng)
    with pytest.raises(ValueError, match=r"faces were held still; 4 at least.*x up"):
        FACES.fit(six[2:5], SixAxisParameters())
    with pytest.raises(ValueError, match="feels no gravity"):
        FACES.fit([Span("a", held(none, none, flat, rng, noise=1e-4))] * 6, SixAxisParameters())
    half = [Span(s.name, s.signal.replaced(s.signal.values * 0.5)) for s in six]
    with pytest.raises(ValueError, match="8192 codes for 1 g would fit, not 16384"):
        FACES.fit(half, SixAxisParameters())
    with pytest.raises(ValueError, match="range was changed half-way"):
        FACES.fit([*half[:3], *six[3:]], SixAxisParameters())
    leaning = held(rotation(0.0, 0.0, math.pi / 4) @ axis_vector("+z"), none, flat, rng)
    fit = FACES.fit([*six, Span("slanted", leaning)], SixAxisParameters())
    assert any("leans" in one.why for one in fit.remarks)


def test_swapped_axes_are_named_when_faces_were_told() -> None:
    rng = np.random.default_rng(6)
    spans = [
        Span(face_said(told), held(axis_vector(true), np.zeros(3), np.eye(3), rng))
        for told, true in zip(AXES, ("+y", "-y", "+x", "-x", "+z", "-z"), strict=True)
    ]
    fit = FACES.fit(spans, SixAxisParameters())
    assert any(one.title == "“x up” reads as y up." for one in fit.remarks)


def extremes(zero: np.ndarray, per_g: np.ndarray, rng: np.random.Generator, noise: float):
    """Six ends of an analogue part, V, coded by a 10-bit converter on 5 V."""
    lsb = 5.0 / 1024
    spans = []
    for face in AXES:
        volts = zero + per_g * axis_vector(face)
        codes = np.floor((volts[:, None] + rng.normal(0, noise, (3, 150))) / lsb)
        signal = Signal.of(np.arange(150) / HZ, (codes + 0.5) * lsb, VOLTAGE.in_lanes(*"xyz"))
        spans.append(Span(face, signal))
    return spans


def test_two_extremes_give_zero_and_scale_back_within_what_is_stated() -> None:
    ratios: list[float] = []
    for seed in range(TRIALS):
        rng = np.random.default_rng(seed)
        zero, per_g = rng.uniform(1.6, 1.7, 3), rng.uniform(0.32, 0.34, 3)
        fit = TWO.fit(extremes(zero, per_g, rng, 0.0), Analogue3Parameters())
        u = np.sqrt(np.diag(fit.covariance))
        told = np.array(fit.numbers("zero_v") + fit.numbers("per_g_v"))
        ratios += ((told - np.concatenate((zero, per_g))) / u).tolist()
    # Noise of a code would only help: an end is then known better than its rounding says.
    assert 0.93 < share_within(ratios) < 0.97


def test_the_check_value_of_two_extremes() -> None:
    """277 and 411 counts: offset 344, 67 counts a g, 0.327 V a g on 5 V and 10 bits."""
    lsb = 5.0 / 1024
    middle = 344.0
    spans = []
    for place, face in enumerate(AXES):
        counts = np.full(3, middle)
        counts[place // 2] = 411.0 if face[0] == "+" else 277.0
        volts = np.tile(((counts + 0.5) * lsb)[:, None], 60)
        spans.append(Span(face, Signal.of(np.arange(60) / HZ, volts, VOLTAGE.in_lanes(*"xyz"))))
    fit = TWO.fit(spans, Analogue3Parameters())
    assert fit.statistics["zero_codes"] == pytest.approx(344.0)
    assert fit.statistics["per_g_codes"] == pytest.approx(67.0)
    assert fit.numbers("per_g_v")[0] == pytest.approx(0.327, abs=5e-4)
    # Integers of hundredths throw away up to a whole one.
    assert 0.009 < fit.statistics["whole_numbers_lose_g"] < 0.02
    with pytest.raises(ValueError, match=r"z goes by .* only"):
        TWO.fit(spans[:4], Analogue3Parameters())


def test_rest_gives_the_bias_back_within_what_is_stated() -> None:
    ratios: list[float] = []
    for seed in range(TRIALS):
        rng = np.random.default_rng(seed)
        bias = rng.uniform(-0.05, 0.05, 3)
        fit = REST.fit([Span("rest", resting(bias, rng, 8.0))], SixAxisParameters())
        u = np.sqrt(np.diag(fit.covariance))[:3]
        ratios += ((np.array(fit.numbers("bias")) - bias) / u).tolist()
    assert 0.93 < share_within(ratios) < 0.97


def test_more_noise_never_makes_a_rest_more_certain() -> None:
    rng = np.random.default_rng(1)
    us = []
    for noise in (0.0005, 0.001, 0.004, 0.02):
        fit = REST.fit([Span("rest", resting(np.zeros(3), rng, 8.0, noise))], SixAxisParameters())
        us.append(math.sqrt(fit.covariance[0][0]))
    assert us == sorted(us)


def test_a_rest_that_was_touched_keeps_its_longest_part_and_a_restless_one_is_refused() -> None:
    rng = np.random.default_rng(2)
    quiet, shaken = resting(np.full(3, 0.01), rng, 12.0), resting(np.zeros(3), rng, 4.0, 0.5)
    fit = REST.fit([Span("rest", one_log([quiet, shaken]))], SixAxisParameters())
    assert fit.numbers("bias") == pytest.approx([0.01] * 3, abs=2e-4)
    assert any("longest rest" in one.title for one in fit.remarks)
    restless = resting(np.zeros(3), rng, 10.0, 0.001)
    turning = restless.replaced(restless.values + np.sin(np.arange(len(restless)) / 5.0))
    with pytest.raises(ValueError, match="lay it down"):
        REST.fit([Span("rest", turning)], SixAxisParameters())


def test_level_gives_the_lean_back_within_what_is_stated() -> None:
    ratios: list[float] = []
    floor = math.radians(0.1)
    for seed in range(TRIALS):
        rng = np.random.default_rng(seed)
        roll, pitch = rng.uniform(-0.1, 0.1, 2)
        aslant = rng.normal(0.0, floor, 2)
        up = rotation(0.0, pitch + aslant[1], roll + aslant[0]).T @ [0.0, 0.0, 1.0]
        span = Span("level", held(up, np.zeros(3), np.eye(3), rng, noise=0.001 * G))
        fit = LEVEL.fit([span], SixAxisParameters())
        u = math.sqrt(fit.covariance[0][0])
        ratios += [
            (fit.numbers("roll_rad")[0] - roll) / u,
            (fit.numbers("pitch_rad")[0] - pitch) / u,
        ]
    assert 0.93 < share_within(ratios) < 0.97


def test_no_slope_is_called_level() -> None:
    rng = np.random.default_rng(1)
    up = rotation(0.0, 0.0, 0.5).T @ [0.0, 0.0, 1.0]
    with pytest.raises(ValueError, match="no level floor"):
        LEVEL.fit([Span("level", held(up, np.zeros(3), np.eye(3), rng))], SixAxisParameters())


def turned(angle: float, scale: float, rng: np.random.Generator, axis: int = 2) -> Signal:
    """At rest, turned by hand, at rest: what a gyroscope of that scale tells."""
    t = np.arange(int(6.0 * HZ)) / HZ
    push = np.where((t > 1.0) & (t < 5.0), 1.0 - np.cos((t - 1.0) * math.pi / 2.0), 0.0)
    push *= angle / np.trapezoid(push, t)
    values = rng.normal(0.0, 0.001, (3, len(t)))
    values[axis] += push / scale
    return Signal.of(t, values, ROTATION)


def test_turns_give_the_scale_back_within_what_is_stated() -> None:
    ratios: list[float] = []
    u_turn = math.radians(1.0)
    for seed in range(TRIALS):
        rng = np.random.default_rng(seed)
        scale = rng.uniform(0.97, 1.03)
        true = 2.0 * math.pi
        done = true + rng.normal(0.0, u_turn)
        fit = TURN.fit([Span("turn", turned(done, scale, rng), true, u_turn)], SixAxisParameters())
        u = math.sqrt(fit.covariance[2][2])
        ratios.append((fit.numbers("scale")[2] - scale) / u)
    assert 0.93 < share_within(ratios) < 0.97


def test_a_turn_about_no_axis_or_cut_short_is_said() -> None:
    rng = np.random.default_rng(1)
    whole = turned(2.0 * math.pi, 1.0, rng)
    short = whole.between(0, 150)
    fit = TURN.fit([Span("short", short, math.pi, 0.02)], SixAxisParameters())
    assert any("begin and end at rest" in one.title for one in fit.remarks)
    mixed = whole.replaced(whole.values + np.array([1.0, 0, 0])[:, None] * whole.values[2])
    with pytest.raises(ValueError, match="no turn about one axis"):
        TURN.fit([Span("mixed", mixed, 2 * math.pi, 0.02)], SixAxisParameters())


def made(kind: CalibrationKind) -> tuple[list[Span], Fit]:
    """Spans that a kind can be made of, and what they come to."""
    rng = np.random.default_rng(11)
    offset, scale = unit(rng)
    spans = {
        FACES: lambda: six_spans(offset, scale, rng),
        TWO: lambda: extremes(np.full(3, 1.66), np.full(3, 0.33), rng, 0.002),
        LEVEL: lambda: [Span("level", held(rotation(0, 0.05, 0.02).T @ [0, 0, 1], 0 * offset,
                                           np.eye(3), rng))],
        REST: lambda: [Span("rest", resting(np.array([0.02, -0.01, 0.005]), rng, 30.0))],
        TURN: lambda: [Span(f"turn {axis}", turned(2 * math.pi, 1.02, rng, axis), 2 * math.pi, 0.01)
                       for axis in range(3)],
    }[kind]()  # fmt: skip
    parameters = Analogue3Parameters() if kind is TWO else SixAxisParameters()
    return spans, kind.fit(spans, parameters)


@pytest.mark.parametrize("kind", KINDS, ids=lambda kind: kind.name)
def test_what_was_made_undoes_what_it_was_made_of(kind: CalibrationKind) -> None:
    spans, fit = made(kind)
    kind.check(fit)
    stage = kind.stage(fit, True, "spans")
    for span in spans:
        told = stage.run(stage.begin(), span.signal)[0].values
        mean = told.mean(axis=1)
        if kind in (FACES, TWO):
            assert np.linalg.norm(mean) == pytest.approx(G, rel=0.01)
        elif kind is LEVEL:
            np.testing.assert_allclose(mean / G, [0.0, 0.0, 1.0], atol=2e-3)
        elif kind is REST:
            np.testing.assert_allclose(mean, 0.0, atol=1e-9)
        else:
            swept = np.trapezoid(told, span.signal.time_s, axis=1)
            assert np.abs(swept).max() == pytest.approx(2 * math.pi, abs=1e-3)


@pytest.mark.parametrize("kind", KINDS, ids=lambda kind: kind.name)
def test_a_certificate_says_every_axis_with_its_doubt(kind: CalibrationKind) -> None:
    _, fit = made(kind)
    lines = {line.label: line.text for line in kind.certificate(fit)}
    axes = ("roll there", "pitch there") if kind is LEVEL else ("x", "y", "z")
    assert all("±" in lines[axis] for axis in axes)
    assert not any("nan" in value for value in lines.values())
    assert kind.short(fit)
    if kind is TWO:
        assert "off by up to 0.0" in lines["in whole hundredths"]
    if kind is FACES:
        assert lines["rests on"] == "6 faces, 12 numbers"
        assert lines["of each face"].count("up") == lines["of each face"].count("down") == 3


@pytest.mark.parametrize("kind", KINDS, ids=lambda kind: kind.name)
def test_what_no_fit_could_give_is_refused_by_name(kind: CalibrationKind) -> None:
    """A file that was written by hand, or by half: each number of it, and its covariance."""
    _, fit = made(kind)
    for name in fit.parameters:
        numbers = np.array(fit.parameters[name], dtype=np.float64)
        for wrong in (np.full_like(numbers, 1e12), np.full_like(numbers, np.nan)):
            broken = replace(fit, parameters={**fit.parameters, name: wrong.tolist()})
            with pytest.raises(ValueError, match=name):
                kind.check(broken)
        if numbers.ndim:
            short = {**fit.parameters, name: numbers[:-1].tolist()}
            with pytest.raises(ValueError, match=name):
                kind.check(replace(fit, parameters=short))
        without = {key: one for key, one in fit.parameters.items() if key != name}
        with pytest.raises((KeyError, ValueError), match=name):
            kind.check(replace(fit, parameters=without))
    for covariance in (
        fit.covariance[:-1, :-1],
        -fit.covariance - 1e-9 * np.eye(len(fit.covariance)),
    ):
        with pytest.raises(ValueError, match="covariance: is not that of"):
            kind.check(replace(fit, covariance=covariance))


@pytest.mark.parametrize(
    "kind", [one for one in KINDS if one.is_guided], ids=lambda kind: kind.name
)
def test_what_is_still_in_a_log_is_found_and_nothing_in_one_that_never_rests(
    kind: CalibrationKind,
) -> None:
    spans, _ = made(kind)
    log = one_log([span.signal for span in spans])
    found = kind.still(log)
    assert len(found) == (6 if kind in (FACES, TWO) else 1)
    assert all(start < end for start, end in found)
    wild = log.replaced(log.values + 3.0 * np.sin(np.arange(len(log)) / 2.0))
    assert kind.still(wild) == []


def test_a_floor_that_is_off_cancels_when_it_is_turned_half_round() -> None:
    rng = np.random.default_rng(12)
    aslant, sits = math.radians(0.4), (0.03, -0.02)

    def stands(way: int) -> Span:
        up = rotation(0.0, sits[1] + way * aslant, sits[0] + way * aslant).T @ [0.0, 0.0, 1.0]
        return Span("level", held(up, np.zeros(3), np.eye(3), rng, noise=0.001 * G))

    once, twice = (LEVEL.fit(spans, None) for spans in ([stands(1)], [stands(1), stands(-1)]))
    assert abs(once.numbers("roll_rad")[0] - sits[0]) > 0.8 * aslant
    assert twice.numbers("roll_rad")[0] == pytest.approx(sits[0], abs=2e-4)
    assert twice.numbers("pitch_rad")[0] == pytest.approx(sits[1], abs=2e-4)
    assert twice.statistics["apart_rad"] == pytest.approx(2 * aslant, rel=0.05)


def test_the_ends_of_an_analogue_part_are_seen_while_they_are_held() -> None:
    rng = np.random.default_rng(13)
    parts = []
    for span in extremes(np.full(3, 1.66), np.full(3, 0.33), rng, 0.002):
        moving = span.signal.replaced(span.signal.values + rng.normal(0, 0.2, (3, 150)))
        parts += [moving.between(0, 40), span.signal]
    log = one_log(parts)
    seen = TWO.see(log, Analogue3Parameters())
    assert seen.is_done
    assert {one.name for one in seen.done} == {pose.name for pose in TWO.poses}
    half = TWO.see(log.between(0, 190), Analogue3Parameters())
    assert [one.name for one in half.done] == ["x up"]
    assert half.missing[0] == "x down"


def test_an_axis_that_was_not_turned_is_said_and_a_scale_far_off_is_doubted() -> None:
    rng = np.random.default_rng(14)
    fit = TURN.fit([Span("z", turned(2 * math.pi, 0.5, rng), 2 * math.pi, 0.01)], None)
    lines = {line.label: line.text for line in TURN.certificate(fit)}
    assert lines["x"] == lines["y"] == "not turned"
    assert [one.title for one in fit.remarks] == ["The scale of z is 0.50, far from 1."]
    many = [Span(str(n), turned(2 * math.pi * n, 1.02, rng), 2 * math.pi * n, 0.01) for n in (1, 2)]
    single, both = (TURN.fit(spans, None) for spans in (many[:1], many))
    assert both.covariance[2, 2] < single.covariance[2, 2]
    apart = [
        Span(str(n), turned(2 * math.pi, 1.0 + n / 10, rng), 2 * math.pi, 0.01) for n in (0, 1)
    ]
    assert TURN.fit(apart, None).covariance[2, 2] > both.covariance[2, 2]


def test_a_rest_that_is_short_turning_or_frozen_is_said() -> None:
    rng = np.random.default_rng(15)

    def titles(signal: Signal) -> str:
        return " ".join(one.title for one in REST.fit([Span("rest", signal)], None).remarks)

    assert titles(resting(np.zeros(3), rng, 30.0)) == ""
    assert "The rest lasted 3" in titles(resting(np.zeros(3), rng, 3.0))
    assert "At rest it tells 115" in titles(resting(np.array([0.0, 0.0, 2.0]), rng, 30.0))
    frozen = resting(np.zeros(3), rng, 30.0)
    frozen = frozen.replaced(frozen.values * np.array([1.0, 1.0, 0.0])[:, None])
    assert "does not change at all" in titles(frozen)


def test_the_guide_counts_what_is_held_and_says_what_is_next() -> None:
    rng = np.random.default_rng(8)
    none, flat = np.zeros(3), np.eye(3)
    names = [face_said(face) for face in AXES]

    def seen(parts: list[Signal]):
        return see_poses(
            one_log(parts), 0.04, lambda h: face_said(f) if (f := face_of(h.mean)) else "", names
        )

    up, side = (held(axis_vector(face), none, flat, rng, 3.5) for face in ("+z", "+x"))
    moving = up.between(0, 60)
    moving = moving.replaced(moving.values + rng.normal(0, 2.0, moving.values.shape))
    assert seen([up]).says == "Now x up"
    assert [one.name for one in seen([up, moving, side]).done] == ["z up", "x up"]
    assert seen([up, moving]).now == ""
    twice = seen([up, moving, side, moving, up])
    assert twice.refused == "z up was held already"
    leaning = held(rotation(0, 0, 0.8) @ axis_vector("+z"), none, flat, rng, 3.5)
    assert "leans" in seen([up, moving, leaning]).refused
    whole = seen([p for face in AXES for p in (moving, held(axis_vector(face), none, flat, rng))])
    assert whole.is_done


def test_the_guide_waits_for_a_rest_as_long_as_it_takes() -> None:
    rng = np.random.default_rng(9)
    short = see_rest(resting(np.zeros(3), rng, 4.0), 0.003, "rest", 10.0)
    assert (short.is_done, short.says) == (False, "Leave it alone")
    assert see_rest(resting(np.zeros(3), rng, 12.0), 0.003, "rest", 10.0).is_done
    shaken = see_rest(resting(np.zeros(3), rng, 4.0, 0.001).replaced(
        np.sin(np.arange(200) / 3.0) * np.ones((3, 1))), 0.003, "rest", 10.0)  # fmt: skip
    assert shaken.says == "Put it down"
