"""The least squares that every kind of calibration shares, against certified results.

The Statistical Reference Datasets of NIST for nonlinear regression, as the source distribution of
the lmfit package carries them, cut down to starting values, certified values and data.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import pytest

from tickstone.core.calibration.least_squares import nonlinear

FOLDER = Path(__file__).parent / "nist_strd"
DIGITS = {"Lower": 6, "Average": 6, "Higher": 5}
"""Significant digits, by the difficulty that NIST gives a set."""
pi, exp = np.pi, np.exp


def gauss(x, b):
    return (
        b[0] * exp(-b[1] * x)
        + b[2] * exp(-((x - b[3]) ** 2) / b[4] ** 2)
        + b[5] * exp(-((x - b[6]) ** 2) / b[7] ** 2)
    )


def cycles(x, b):
    total = b[0] + b[1] * np.cos(2 * pi * x / 12) + b[2] * np.sin(2 * pi * x / 12)
    for first in (3, 6):
        angle = 2 * pi * x / b[first]
        total = total + b[first + 1] * np.cos(angle) + b[first + 2] * np.sin(angle)
    return total


MODELS: dict[str, Callable] = {
    "Misra1a": lambda x, b: b[0] * (1 - exp(-b[1] * x)),
    "Misra1b": lambda x, b: b[0] * (1 - (1 + b[1] * x / 2) ** -2.0),
    "Misra1c": lambda x, b: b[0] * (1 - (1 + 2 * b[1] * x) ** -0.5),
    "Misra1d": lambda x, b: b[0] * b[1] * x / (1 + b[1] * x),
    "Chwirut2": lambda x, b: exp(-b[0] * x) / (b[1] + b[2] * x),
    "DanWood": lambda x, b: b[0] * x ** b[1],
    "Gauss1": gauss,
    "Gauss2": gauss,
    "Kirby2": lambda x, b: (b[0] + b[1] * x + b[2] * x**2) / (1 + b[3] * x + b[4] * x**2),
    "Hahn1": lambda x, b: (
        (b[0] + b[1] * x + b[2] * x**2 + b[3] * x**3) / (1 + b[4] * x + b[5] * x**2 + b[6] * x**3)
    ),
    "MGH17": lambda x, b: b[0] + b[1] * exp(-x * b[3]) + b[2] * exp(-x * b[4]),
    "Lanczos3": lambda x, b: b[0] * exp(-b[1] * x) + b[2] * exp(-b[3] * x) + b[4] * exp(-b[5] * x),
    "Roszman1": lambda x, b: b[0] - b[1] * x - np.arctan(b[2] / (x - b[3])) / pi,
    "Thurber": lambda x, b: (
        (b[0] + b[1] * x + b[2] * x**2 + b[3] * x**3) / (1 + b[4] * x + b[5] * x**2 + b[6] * x**3)
    ),
    "BoxBOD": lambda x, b: b[0] * (1 - exp(-b[1] * x)),
    "Rat42": lambda x, b: b[0] / (1 + exp(b[1] - b[2] * x)),
    "Rat43": lambda x, b: b[0] / (1 + exp(b[1] - b[2] * x)) ** (1 / b[3]),
    "MGH09": lambda x, b: b[0] * (x**2 + x * b[1]) / (x**2 + x * b[2] + b[3]),
    "MGH10": lambda x, b: b[0] * exp(b[1] / (x + b[2])),
    "Eckerle4": lambda x, b: b[0] / b[1] * exp(-0.5 * ((x - b[2]) / b[1]) ** 2),
    "Bennett5": lambda x, b: b[0] * (b[1] + x) ** (-1 / b[2]),
    "ENSO": cycles,
}


@dataclass(frozen=True)
class Certified:
    level: str
    starts: np.ndarray
    values: np.ndarray
    deviations: np.ndarray
    y: np.ndarray
    x: np.ndarray


def read(name: str) -> Certified:
    lines = (FOLDER / f"{name}.dat").read_text().splitlines()
    rows = [re.split(r"\s+", line.split("=")[1].strip()) for line in lines if "=" in line[:5]]
    table = np.array(rows, dtype=float)
    at = next(n for n, line in enumerate(lines) if line.startswith("Data:"))
    data = np.array([line.split() for line in lines[at + 1 :]], dtype=float)
    return Certified(
        lines[1].split()[0], table[:, :2].T, table[:, 2], table[:, 3], data[:, 0], data[:, 1]
    )


TOO_FAR = {"MGH17", "BoxBOD", "MGH10", "MGH09", "Hahn1"}
"""From the farther start of these a search ends elsewhere, as no calibration's start is."""
TRIED = [(name, 1) for name in MODELS] + [(name, 0) for name in MODELS if name not in TOO_FAR]


@pytest.mark.parametrize(("name", "start"), TRIED)
def test_certified_parameters_and_their_deviations(name: str, start: int) -> None:
    """From the nearer start always; from the farther one where the method gets there at all."""
    known, model = read(name), MODELS[name]
    with np.errstate(all="ignore"):
        found = nonlinear(lambda b: model(known.x, b) - known.y, known.starts[start])
    assert found is not None
    values, covariance = found
    digits = DIGITS[known.level]
    assert values == pytest.approx(known.values, rel=10.0**-digits)
    left = known.y - model(known.x, values)
    variance = (left @ left) / (len(known.y) - len(values))
    deviations = np.sqrt(np.diag(covariance) * variance)
    assert deviations == pytest.approx(known.deviations, rel=10.0 ** -(digits - 2))
