"""What Tick Stone thinks."""

from __future__ import annotations

from typing import Literal

from tickstone.api.schemas.base import Answer
from tickstone.core.finding import Finding


class FindingOut(Answer):
    """What Tick Stone thinks."""

    severity: Literal["error", "warning", "note"]
    title: str
    why: str
    remedy: str

    @classmethod
    def of(cls, finding: Finding) -> FindingOut:
        return cls.model_validate(finding)
