"""Faces under marks: which were held, whether they moved, and what there is to say of them."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from tickstone.core.axes import AXES
from tickstone.core.calibration.kind import Span
from tickstone.core.calibration.poses import Held, face_of, face_said, good_samples, held_between
from tickstone.core.finding import Finding
from tickstone.core.reading_units import MILLI_GRAVITIES, STANDARD_GRAVITY_M_PER_S2, said

G = STANDARD_GRAVITY_M_PER_S2
STEADY = 0.004 * G
"""What a board on a table may wander beside its noise, m/s²; our choice."""
FEWEST = 4
_SIZE_WITHIN = 0.3
_RANGES = (16_384.0, 8_192.0, 4_096.0, 2_048.0)


@dataclass(frozen=True, slots=True)
class Face:
    """A span that shows a face: which, and what was read."""

    span: Span
    held: Held
    face: str


def seen_in(parts: Sequence[Span]) -> tuple[dict[int, Held | None], list[Face]]:
    """What was read under each span, and which show a face, in order."""
    looks: dict[int, Held | None] = {}
    faces = []
    for part in parts:
        time_s, values = good_samples(part.signal)
        held = held_between(time_s, values) if len(time_s) >= 3 else None
        looks[id(part)] = held
        face = face_of(held.mean) if held is not None else ""
        if held is not None and face:
            faces.append(Face(part, held, face))
    return looks, faces


def floor_of(looks: dict[int, Held | None]) -> float:
    """The sensor's own noise: what its quietest span scatters by."""
    scatters = [float(np.linalg.norm(one.scatter)) for one in looks.values() if one is not None]
    return min(scatters, default=0.0)


def moved(held: Held, floor: float) -> bool:
    """Whether a span wandered, or scattered beyond the sensor's own noise."""
    half = held.count / 2.0
    granted = STEADY + 4.0 * floor / math.sqrt(max(1.0, half))
    return (
        float(np.abs(held.drift).max()) > granted
        or float(np.linalg.norm(held.scatter)) > 2.5 * floor + STEADY
    )


def used_of(looks: dict[int, Held | None], faces: Sequence[Face]) -> list[Face]:
    """One still span for each face: the first."""
    floor = floor_of(looks)
    used: dict[str, Face] = {}
    for one in faces:
        if not moved(one.held, floor):
            used.setdefault(one.face, one)
    return list(used.values())


def refuse(used: Sequence[Face], looks: dict[int, Held | None], parameters: Any) -> None:
    """Raises ValueError, saying what to do, where faces are missing or what is read cannot be g."""
    if not any(one is not None for one in looks.values()):
        raise ValueError("nothing was heard under the marks")
    means = [float(np.linalg.norm(one.mean)) for one in looks.values() if one is not None]
    if max(means) < 0.05 * G:
        raise ValueError(
            "all three axes read about 0: nothing feels no gravity. Check the columns, and that "
            "the unit is awake"
        )
    missing = [face_said(axis) for axis in AXES if axis not in {one.face for one in used}]
    if len(used) < FEWEST:
        raise ValueError(
            f"{len(used)} faces were held still; {FEWEST} at least, six are better. Missing: "
            f"{', '.join(missing)}"
        )
    sizes = np.array([float(np.linalg.norm(one.held.mean)) for one in used]) / G
    if sizes.max() > 1.6 * sizes.min():
        odd = used[int(np.argmax(np.abs(sizes - np.median(sizes))))]
        raise ValueError(
            f"with {face_said(odd.face)} it reads {np.linalg.norm(odd.held.mean) / G:.2f} g, "
            f"elsewhere {float(np.median(sizes)):.2f} g: the range was changed half-way, or the "
            "columns are in mixed units"
        )
    size = float(np.median(sizes))
    if abs(size - 1.0) > _SIZE_WITHIN:
        raise ValueError(f"held still it reads {size:.2f} g: {likely_scale(size, parameters)}")


def likely_scale(size: float, parameters: Any) -> str:
    """What would explain that it feels so many g held still."""
    lsb = getattr(parameters, "lsb_per_g", None)
    if lsb is None:
        return "check what its columns are in"
    fits = min(_RANGES, key=lambda one: abs(math.log(one / (lsb * size))))
    if abs(fits / (lsb * size) - 1.0) < _SIZE_WITHIN and fits != lsb:
        return f"{fits:.0f} codes for 1 g would fit, not {lsb:.0f}"
    return f"check its range; {lsb:.0f} codes for 1 g do not fit"


def remarks_on(
    parts: Sequence[Span],
    looks: dict[int, Held | None],
    faces: Sequence[Face],
    used: Sequence[Face],
) -> list[Finding]:
    """What was left out and why, faces that are not what they are called, and those missing."""
    remarks = []
    floor = floor_of(looks)
    first = {one.face: one for one in used}
    seen = {id(one.span): one for one in faces}
    poses = {face_said(axis) for axis in AXES}
    for part in parts:
        held, face = looks[id(part)], seen.get(id(part))
        if held is None:
            remarks.append(_left_out(part.name, "Too few readings are good there."))
        elif moved(held, floor):
            most = max(float(np.abs(held.drift).max()), float(np.linalg.norm(held.scatter)))
            remarks.append(
                _left_out(part.name, f"It moved: by {mg_said(most / G)}, beyond its own noise.")
            )
        elif face is None:
            remarks.append(_left_out(part.name, "No face points up there: it leans."))
        elif first[face.face].span is not part:
            remarks.append(
                _left_out(part.name, f"{face_said(face.face)} came twice; the first one is used.")
            )
        if face is not None and part.name in poses and part.name != face_said(face.face):
            remarks.append(
                Finding(
                    "error",
                    f"“{part.name}” reads as {face_said(face.face)}.",
                    "It stood on another face than told, or its columns are swapped.",
                    "Check which column is which axis.",
                )
            )
    missing = [face_said(axis) for axis in AXES if axis not in first]
    if missing:
        numbers = {5: "9 numbers, with no twist of its axes", 4: "6, with no cross-axis"}
        remarks.append(
            Finding(
                "warning",
                f"{' and '.join(missing)} {'was' if len(missing) == 1 else 'were'} not held.",
                f"So the fit has {numbers.get(len(used), 'fewer numbers')}, and less to check it "
                "by.",
                "Hold all six faces for the full calibration.",
            )
        )
    return remarks


def _left_out(name: str, why: str) -> Finding:
    return Finding("warning", f"“{name}” is left out.", why, "Hold that face again, and let go.")


def mg_said(g: float) -> str:
    """So many g in thousandths.

    >>> mg_said(0.0123)
    '12.3 mg'
    """
    return said(g * G, MILLI_GRAVITIES, 1)
