"""A finding: one sentence, why, and what to do."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

SEVERITIES = ("error", "warning", "note")


@dataclass(frozen=True, slots=True)
class Finding:
    """severity: one of SEVERITIES. title: one sentence. why, remedy: one or two more."""

    severity: str
    title: str
    why: str
    remedy: str


def worst_first(findings: Iterable[Finding]) -> tuple[Finding, ...]:
    """Errors, then warnings, then notes; otherwise in the order they came.

    >>> both = [Finding("note", "b", "", ""), Finding("error", "a", "", "")]
    >>> [finding.title for finding in worst_first(both)]
    ['a', 'b']
    """
    return tuple(sorted(findings, key=lambda finding: SEVERITIES.index(finding.severity)))
