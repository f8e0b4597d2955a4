"""Six faces, each held up once: offsets, scales and cross-axis of an accelerometer."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np
from scipy.special import chdtrc

from tickstone.core.axes import AXES, axis_vector, three
from tickstone.core.calibration.face_fit import sigma_of, solved, through_inverse
from tickstone.core.calibration.faces import (
    STEADY,
    Face,
    floor_of,
    mg_said,
    moved,
    refuse,
    remarks_on,
    seen_in,
    used_of,
)
from tickstone.core.calibration.guiding import see_poses
from tickstone.core.calibration.kind import CalibrationKind, Fit, Line, Pose, Span, SpanResult
from tickstone.core.calibration.poses import (
    Held,
    face_of,
    face_said,
    good_samples,
    held_between,
    held_result,
    split_span,
    stillness,
)
from tickstone.core.calibration.seen import Seen
from tickstone.core.finding import worst_first
from tickstone.core.reading_units import STANDARD_GRAVITY_M_PER_S2
from tickstone.core.signal import FloatArray, Signal
from tickstone.core.stages.axes_matrix import AxesMatrix
from tickstone.core.uncertainty import expanded

G = STANDARD_GRAVITY_M_PER_S2
_BY_CHANCE = 0.01
_LEFT = "left over, "


class SixFaceKind(CalibrationKind):
    """a = M·(x − o) from what is read with each face up."""

    name = "six-face"
    label = "Six faces"
    node = "correction"
    done = "it stood on one face"
    deed = "Mark a face"
    unset = "Its faces have not been held: offsets and scales are as stated."
    interval_days = 365
    undone_by = ("another unit of the kind", "dropped, or soldered anew")
    guide = (
        "Stand the module on each of its six faces, in any order, and let go for three seconds. "
        "Which face it is, and whether it was still, is seen from the readings. Press M and drag "
        "over all of it, or over one face after the other."
    )
    poses = (
        Pose(
            "any face", "Stand it on each face in turn; which one it is is seen.", "Let go of it."
        ),
        *(Pose(face_said(axis), "") for axis in AXES),
    )
    takes_any_pose = True
    is_guided = True
    told = ("residual_mg",)

    def fit(self, spans: Sequence[Span], parameters: Any) -> Fit:
        """Least squares of x = o + S·a over the faces; M = S⁻¹. A span may hold several faces.

        Six faces carry all 12 numbers; five the 9 of a symmetric S; four the 6 of a straight one.

        Raises ValueError when faces are missing, or what is read cannot be g.

        >>> from tickstone.core.quantity import FORCE
        >>> still = lambda v: Signal.of(np.arange(40) / 20, np.tile(v, (40, 1)).T, FORCE)
        >>> faces = [Span(face, still(1.01 * G * axis_vector(face) + 0.1)) for face in AXES]
        >>> fit = SixFaceKind().fit(faces, None)
        >>> [round(one * G, 3) for one in fit.parameters["offset_g"]]
        [0.1, 0.1, 0.1]
        >>> round(fit.parameters["matrix"][0][0], 4)
        0.9901
        """
        split = [split_span(span, STEADY) for span in spans]
        parts = [part for one in split for part in one]
        looks, faces = seen_in(parts)
        used = used_of(looks, faces)
        refuse(used, looks, parameters)
        read = np.array([one.held.mean for one in used])
        true = np.array([G * axis_vector(one.face) for one in used])
        sigma = np.array([sigma_of(one) for one in used])
        count, offset, scale, covariance = solved(read, true, sigma)
        matrix = np.linalg.inv(scale).astype(np.float64)
        left = (read - offset) @ matrix.T - true
        degrees = 3 * len(used) - count
        chi_square = float(np.sum(((read - offset - true @ scale.T) / sigma) ** 2))
        if degrees > 0 and chdtrc(degrees, chi_square) < _BY_CHANCE:
            covariance = covariance * (chi_square / degrees)
        sizes = np.sqrt(np.sum(left**2, axis=1)).tolist()
        by_part = {id(one.span): size for one, size in zip(used, sizes, strict=True)}
        statistics = {
            "residual_mg": math.sqrt(float(np.mean(np.square(sizes)))) / G * 1000.0,
            "chi_square": chi_square,
            "degrees": float(degrees),
            "faces": float(len(used)),
            "fitted": float(count),
        }
        for one in used:
            statistics[_LEFT + face_said(one.face)] = by_part[id(one.span)] / G * 1000.0
        return Fit(
            parameters={"offset_g": (offset / G).tolist(), "matrix": matrix.tolist()},
            covariance=through_inverse(covariance, matrix),
            statistics=statistics,
            spans=tuple(
                _result(span, mine, used, by_part, floor_of(looks))
                for span, mine in zip(spans, split, strict=True)
            ),
            remarks=worst_first(remarks_on(parts, looks, faces, used)),
        )

    def check(self, fit: Fit) -> None:
        """An offset and a matrix near that of nothing."""
        offset, matrix = fit.numbers("offset_g"), fit.numbers("matrix")
        if len(offset) != 3 or len(matrix) != 9:
            raise ValueError("offset_g and matrix: have to be 3 and 3 × 3 numbers")
        if not all(math.isfinite(one) for one in (*offset, *matrix)):
            raise ValueError("offset_g or matrix: holds something that is no number")
        if max(abs(one) for one in offset) > 20.0 or abs(np.linalg.det(_square(matrix))) < 1e-3:
            raise ValueError("offset_g or matrix: is none that faces could give")
        fit.check_covariance(12, "offset and matrix")

    def stage(self, fit: Fit, absorbs_shared: bool, label: str) -> AxesMatrix:
        """The correction. Its own range was in the readings that were fitted."""
        offset = three([one * G for one in fit.numbers("offset_g")])
        rows = tuple(three(row) for row in _square(fit.numbers("matrix")).tolist())
        # The offset is kept in g, and used in m/s².
        unit = np.concatenate((np.full(3, G), np.ones(9)))
        covariance = fit.covariance * np.outer(unit, unit)
        return AxesMatrix(offset, rows, tuple(tuple(row) for row in covariance.tolist()), label)

    def certificate(self, fit: Fit) -> Sequence[Line]:
        """Each axis' offset and scale, cross-axis, and what is left over of each face."""
        offset, matrix = fit.numbers("offset_g"), _square(fit.numbers("matrix"))
        u = np.sqrt(np.maximum(0.0, np.diag(fit.covariance))).tolist()
        lines = []
        for place, axis in enumerate("xyz"):
            scale, scale_u = matrix[place][place], u[3 + 4 * place]
            lines.append(
                Line(
                    axis,
                    f"offset {mg_said(offset[place])} ± {mg_said(expanded(u[place]))}, "
                    f"× {scale:.4f} ± {expanded(scale_u):.4f}",
                )
            )
        most = float(np.abs(matrix - np.diag(np.diag(matrix))).max())
        lines.append(Line("cross-axis", f"up to {100.0 * most:.2f} %"))
        shares = [
            f"{name.removeprefix(_LEFT)} {mg:.1f}"
            for name, mg in fit.statistics.items()
            if name.startswith(_LEFT)
        ]
        lines.append(Line("left over", f"{fit.statistics['residual_mg']:.2f} mg"))
        if shares:
            lines.append(Line("of each face", ", ".join(shares) + " mg"))
        count, faces = (int(fit.statistics.get(name, 0.0)) for name in ("fitted", "faces"))
        if count:
            lines.append(Line("rests on", f"{faces} faces, {count} numbers"))
        return lines

    def short(self, fit: Fit) -> str:
        """What is left over."""
        return f"{fit.statistics['residual_mg']:.1f} mg left over"

    def see(self, signal: Signal, parameters: Any) -> Seen:
        """Which faces were held."""
        return see_poses(
            signal, STEADY, lambda held: face_said(face_of(held.mean)), [face_said(a) for a in AXES]
        )

    def still(self, signal: Signal) -> list[tuple[float, float]]:
        """Every stretch on a face, each face once: the longest."""
        longest: dict[str, Held] = {}
        for one in stillness(signal, STEADY):
            face = face_of(one.mean)
            before = longest.get(face)
            if face and (before is None or one.count > before.count):
                longest[face] = one
        return sorted((one.start_s, one.end_s) for one in longest.values())


def _result(
    span: Span,
    parts: Sequence[Span],
    used: Sequence[Face],
    by_part: dict[int, float],
    floor: float,
) -> SpanResult:
    """A span after the fit: of the face in it, or of all that were in it."""
    mine = [one for one in used if any(one.span is part for part in parts)]
    time_s, values = good_samples(span.signal)
    held = mine[0].held if mine else held_between(time_s, values) if len(time_s) > 2 else None
    axis = "xyz".index(mine[0].face[1]) if mine else 2
    left = [by_part[id(one.span)] for one in mine]
    count = sum(one.held.count for one in mine) or len(time_s)
    return held_result(
        span, held, axis, bool(mine), count=count,
        is_still=bool(mine) or (held is not None and not moved(held, floor)),
        residual=math.sqrt(float(np.mean(np.square(left)))) if left else None,
    )  # fmt: skip


def _square(numbers: list[float]) -> FloatArray:
    return np.array(numbers).reshape(3, 3)
