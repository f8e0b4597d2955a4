"""How far a loop is from swinging by itself: gain margin, phase margin, delay margin, Ms; and
whether it is stable at all as it is sampled.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial

import numpy as np
from scipy.linalg import expm
from scipy.optimize import brentq

from tickstone.core.control.controller import Gains
from tickstone.core.control.plant import ComplexArray, FloatArray, Plant

_POINTS = 6_000
MOST_LATE = 800
"""Readings that may be on their way at once: each is a state of the sampled loop."""


@dataclass(frozen=True, slots=True)
class Loop:
    """Plant and controller as one, in frequency. sample_s: half of it counts as dead time, as an
    output does that is held; 0: a controller that never waits. filter_lag_s: of what is measured.
    """

    plant: Plant
    gains: Gains
    derivative_lag_s: float = 0.0
    filter_lag_s: float = 0.0
    sample_s: float = 0.0

    @property
    def dead_s(self) -> float:
        """All of the dead time, s."""
        return self.plant.delay_s + self.sample_s / 2.0

    def prompt(self, w_rad_s: FloatArray) -> ComplexArray:
        """The open loop at some angular frequencies, but for its dead time."""
        s = 1j * np.asarray(w_rad_s, dtype=np.float64)
        g = self.gains
        controller = g.kp + g.ki / s + g.kd * s / (self.derivative_lag_s * s + 1.0)
        filtered = 1.0 / (self.filter_lag_s * s + 1.0)
        told: ComplexArray = (
            controller * filtered * replace(self.plant, delay_s=0.0).response(w_rad_s)
        )
        return told

    def span(self) -> tuple[float, float]:
        """From which to which angular frequency anything happens."""
        times = [
            one for one in (
                self.plant.lag_s, self.plant.delay_s, self.derivative_lag_s, self.filter_lag_s,
                self.sample_s,
            ) if one > 0.0
        ] or [1.0]  # fmt: skip
        high = 1e3 / min(times)
        # Beyond so many turns of the dead time, what is left of a loop is too small to matter.
        return 1e-6 / max(times), min(high, 80.0 * math.pi / self.dead_s) if self.dead_s else high


@dataclass(frozen=True, slots=True)
class Margins:
    """gain: by how much P, I and D may be turned up together; inf: without end. gain_down: down to
    which share of them it stays stable; 0: to nothing. phase_rad: how much phase may be lost.
    delay_s: how much more dead time it bears. peak: Ms, the largest of 1/|1 + L|.
    at_rad_s: where gain, phase are read; NaN where there is no such place.
    """

    gain: float
    gain_down: float
    phase_rad: float
    delay_s: float
    peak: float
    phase_at_rad_s: float
    gain_at_rad_s: float


def margins(loop: Loop) -> Margins:
    """Margins of a loop that is stable; of one that is not they say how far it is off.

    Where the curve crosses several times, the nearest crossing counts.

    >>> loop = Loop(Plant(1.0, 0.0, 0.2, 1), Gains(2.5, 0.0, 0.0))
    >>> found = margins(loop)
    >>> round(found.gain, 4), round(found.delay_s, 4)  # π/2 ÷ 0.5; (π/2 − 0.5) ÷ 2.5
    (3.1416, 0.4283)
    """
    low, high = loop.span()
    w = np.geomspace(low, high, _POINTS)
    answer = loop.prompt(w)
    size, prompt = np.abs(answer), np.unwrap(np.angle(answer))
    prompt += 2.0 * math.pi * round((_low_phase(loop) - prompt[0]) / (2.0 * math.pi))
    phase = prompt - loop.dead_s * w
    answer = answer * np.exp(-1j * loop.dead_s * w)
    phase_at_w = _exact_phase(loop, w, prompt)
    unity = _crossings(
        lambda x: math.log(float(np.abs(loop.prompt(np.array([x]))[0]))), w, np.log(size)
    )
    gain, gain_down, gain_at = math.inf, 0.0, math.nan
    turns = range(math.floor((phase.min() / math.pi - 1) / 2), 2)
    for turn in turns:
        level = math.pi * (2 * turn + 1)
        if not phase.min() <= level <= phase.max():
            continue
        for at in _crossings(partial(_less, phase_at_w, level), w, phase - level):
            k = 1.0 / float(np.abs(loop.prompt(np.array([at]))[0]))
            if 1.0 <= k < gain:
                gain, gain_at = k, at
            if k < 1.0:
                gain_down = max(gain_down, k)
    left = math.inf
    delay, phase_at = math.inf, math.nan
    for at in unity:
        angle = phase_at_w(at)
        # More than π behind, it is past the edge by so much; the nearer way round counts.
        spare = (angle + math.pi) % (2.0 * math.pi)
        spare = spare - 2.0 * math.pi if -2.0 * math.pi < angle < -math.pi else spare
        if spare < left:
            left, phase_at = spare, at
        delay = min(delay, spare / at)
    return Margins(
        gain, gain_down, left, delay, float(np.max(1.0 / np.abs(1.0 + answer))), phase_at, gain_at
    )


def _low_phase(loop: Loop) -> float:
    """The phase at the lowest frequencies, without the ambiguity of whole turns."""
    order = loop.plant.integrators + (1 if loop.gains.ki != 0.0 else 0)
    leading = loop.gains.ki or loop.gains.kp or loop.gains.kd
    if loop.gains.ki == 0.0 and loop.gains.kp == 0.0:
        order -= 1
    return -order * math.pi / 2.0 - (math.pi if leading * loop.plant.gain < 0.0 else 0.0)


def _exact_phase(loop: Loop, w: FloatArray, prompt: FloatArray) -> Callable[[float], float]:
    """The phase at any angular frequency; the curve tells which turn it is on."""
    log_w = np.log(w)

    def told(x: float) -> float:
        rough = float(np.interp(math.log(x), log_w, prompt))
        exact = float(np.angle(loop.prompt(np.array([x]))[0]))
        turns = round((rough - exact) / (2.0 * math.pi))
        return exact + 2.0 * math.pi * turns - loop.dead_s * x

    return told


def _less(of: Callable[[float], float], level: float, x: float) -> float:
    return of(x) - level


def _crossings(exact: Callable[[float], float], w: FloatArray, values: FloatArray) -> list[float]:
    """Where a function goes through 0."""
    places = np.flatnonzero(np.sign(values[1:]) * np.sign(values[:-1]) < 0)
    found = []
    for n in places:
        a, b = exact(w[n]), exact(w[n + 1])
        if a * b < 0.0:
            found.append(float(brentq(exact, w[n], w[n + 1], xtol=1e-12 * w[n], rtol=1e-12)))
        else:
            found.append(float(w[n]))
    return found


def growth(loop: Loop, sample_s: float) -> float:
    """By how much a swing of the sampled loop grows from one reading to the next, at most.

    Under 1 it dies away: the loop is stable. Exact for a plant without ends and friction, with its
    output held between readings: the largest size of the eigenvalues of one turn of the loop.
    Raises ValueError where the dead time is beyond `MOST_LATE` readings.

    >>> loop = Loop(Plant(2.0, 0.5, 0.1), Gains(1.0, 2.0, 0.0))
    >>> growth(loop, 0.05) < 1.0 < growth(Loop(loop.plant, Gains(9.0, 2.0, 0.0)), 0.05)
    True
    """
    a, b, c = _states(loop.plant)
    n = len(a)
    whole, part_s = divmod(loop.plant.delay_s, sample_s)
    late = int(whole)
    if late > MOST_LATE:
        raise ValueError(
            f"delay_s: {loop.plant.delay_s:g} s are {late} readings late; {MOST_LATE} at most"
        )
    step = expm(np.block([[a, b], [np.zeros((1, n + 1))]]) * sample_s)
    after = expm(np.block([[a, b], [np.zeros((1, n + 1))]]) * (sample_s - part_s))
    phi, gamma = step[:n, :n], step[:n, n:]
    newer = after[:n, n:]
    older = gamma - newer
    g = loop.gains
    smooth = 1.0 - math.exp(-sample_s / loop.filter_lag_s) if loop.filter_lag_s > 0.0 else 1.0
    lag = loop.derivative_lag_s
    # The states: plant, reading as filtered, integral, D term, outputs on their way.
    size = n + 3 + late + 1
    turn = np.zeros((size, size))
    seen = np.zeros(size)
    seen[:n] = smooth * c
    seen[n] = 1.0 - smooth
    d_term = np.zeros(size)
    d_term[n + 2] = lag / (lag + sample_s)
    d_term -= g.kd / (lag + sample_s) * (seen - np.eye(size)[n])
    integral = np.eye(size)[n + 1] - g.ki * sample_s * seen
    u = -g.kp * seen + integral + d_term
    line = [u, *(np.eye(size)[n + 3 + k] for k in range(late + 1))]
    turn[:n] = np.pad(phi, ((0, 0), (0, size - n)))
    turn[:n] += np.outer(newer[:, 0], line[late]) + np.outer(older[:, 0], line[late + 1])
    turn[n], turn[n + 1], turn[n + 2] = seen, integral, d_term
    for k in range(late + 1):
        turn[n + 3 + k] = line[k]
    if g.ki == 0.0:
        turn = np.delete(np.delete(turn, n + 1, axis=0), n + 1, axis=1)
    return float(np.max(np.abs(np.linalg.eigvals(turn))))


def _states(plant: Plant) -> tuple[FloatArray, FloatArray, FloatArray]:
    """The plant without its dead time as x' = Ax + Bu, y = Cx."""
    n = plant.integrators + (1 if plant.lag_s > 0.0 else 0)
    if n == 0:
        # No memory at all: a lag too short to matter stands in for none.
        return np.array([[-1e6]]), np.array([[1e6 * plant.gain]]), np.array([1.0])
    a, b, c = np.zeros((n, n)), np.zeros((n, 1)), np.zeros(n)
    c[0] = 1.0
    for k in range(n - 1):
        a[k, k + 1] = 1.0
    if plant.lag_s > 0.0:
        a[n - 1, n - 1] = -1.0 / plant.lag_s
        b[n - 1, 0] = plant.gain / plant.lag_s
    else:
        b[n - 1, 0] = plant.gain
    return a, b, c
