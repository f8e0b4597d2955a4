"""What a check of a reading is: what is asked for, and what it comes to."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, ClassVar

from tickstone.core.finding import Finding


@dataclass(frozen=True, slots=True)
class CheckResult:
    """What a reading held against something comes to.

    says: in a few words. is_good: whether it agrees; None when that cannot be told. findings: what
    may be behind it, the likeliest first.
    """

    says: str
    is_good: bool | None
    findings: tuple[Finding, ...] = ()


class CheckKind:
    """One kind of check. asks: a dataclass of described inputs. takes: the output it looks at."""

    name: ClassVar[str]
    label: ClassVar[str]
    what: ClassVar[str]
    asks: ClassVar[type]
    takes: ClassVar[str]
    caution: ClassVar[str] = ""

    def judge(self, asked: Any, value: float, u: float, parameters: Any) -> CheckResult:
        """Hold a value of the output, with its standard uncertainty, against what was asked.

        parameters: of the sensor's chain. Raises ValueError naming an input that cannot be.
        """
        raise NotImplementedError
