"""Which families have these labels printed beside their pins."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from tickstone.core.families.device_family import DeviceFamily

MOST_LABELS = 40


@dataclass(frozen=True, slots=True)
class Match:
    """How well a family fits. missing: leads no label was typed for. strange: labels it has not.

    renamed: label typed → the family's own name of that lead, where they differ.
    """

    family: DeviceFamily
    missing: tuple[str, ...]
    strange: tuple[str, ...]
    renamed: tuple[tuple[str, str], ...]
    score: float

    @property
    def is_exact(self) -> bool:
        """Every label has its lead, and every lead its label."""
        return not self.missing and not self.strange


def split_labels(text: str) -> tuple[str, ...]:
    """Labels as typed, parted by blanks, commas, slashes or bars.

    Raises ValueError when there are none or too many.

    >>> split_labels("vcc, trig / echo | gnd")
    ('VCC', 'TRIG', 'ECHO', 'GND')
    >>> split_labels("vcc i/o gnd")
    ('VCC', 'IO', 'GND')
    """
    joined = re.sub(r"\bI/O\b", "IO", text.upper())  # the one label with a slash in it
    labels = tuple(word for word in re.split(r"[\s,;/|]+", joined) if word)
    if not labels:
        raise ValueError("type the labels printed beside the pins, such as VCC TRIG ECHO GND")
    if len(labels) > MOST_LABELS:
        raise ValueError(f"{len(labels)} labels; {MOST_LABELS} at most")
    return labels


def recognise(labels: Iterable[str], families: Iterable[DeviceFamily]) -> tuple[Match, ...]:
    """Families these labels may belong to, the likeliest first.

    Each label goes to at most one lead (an assignment); the usual label of a lead weighs more than
    a rarer one. Families that share less than half their labels are left out, and those that have
    nothing to wire: no label can be theirs.
    """
    typed = tuple(label.upper() for label in labels)
    wired = (family for family in families if family.is_wired)
    matches = [match for family in wired if (match := _match(typed, family)) is not None]
    return tuple(sorted(matches, key=lambda one: (-one.score, one.family.label)))


def _match(typed: tuple[str, ...], family: DeviceFamily) -> Match | None:
    gain = np.zeros((len(typed), len(family.leads)))
    for row, label in enumerate(typed):
        for column, lead in enumerate(family.leads):
            names = [one.upper() for one in lead.labels]
            if label in names:
                gain[row, column] = 1.0 - 0.02 * names.index(label)
    from scipy.optimize import linear_sum_assignment  # half a second, and seldom needed

    rows, columns = linear_sum_assignment(-gain)
    pairs = [(r, c) for r, c in zip(rows, columns, strict=True) if gain[r, c] > 0.0]
    missing = tuple(
        lead.name
        for column, lead in enumerate(family.leads)
        if not lead.is_optional and column not in {c for _, c in pairs}
    )
    strange = tuple(label for row, label in enumerate(typed) if row not in {r for r, _ in pairs})
    total = float(sum(gain[r, c] for r, c in pairs))
    score = total / (len(typed) + len(missing))
    if score < 0.5:
        return None
    renamed = tuple(
        (typed[r], family.leads[c].name) for r, c in pairs if typed[r] != family.leads[c].name
    )
    return Match(family, missing, strange, renamed, score)
