"""What the stones of a sensor say as findings."""

from __future__ import annotations

from collections.abc import Sequence

from tickstone.core.finding import Finding
from tickstone.core.stones.stone import Stone, StoneState, WorkStage

_WORK = {
    WorkStage.WIRED: "wiring",
    WorkStage.HEARD: "recording",
    WorkStage.CALIBRATED: "calibration",
    WorkStage.TUNED: "tuning",
    WorkStage.DRIVEN: "drive",
}
_VERDICT = {StoneState.FAILING: "does not do", StoneState.STALE: "may no longer hold"}


def stone_findings(stones: Sequence[Stone]) -> list[Finding]:
    """One finding for each stone that went bad, but for those the recording's own findings tell."""
    severity = {StoneState.FAILING: "error", StoneState.STALE: "warning"}
    return [
        Finding(
            severity[stone.state],
            f"The {_WORK[stone.stage]} {_VERDICT[stone.state]}: {stone.short}.",
            stone.reason,
            "",
        )
        for stone in stones
        if stone.state in severity
        and stone.short != "follows"
        and (stone.stage, stone.state) != (WorkStage.HEARD, StoneState.FAILING)
    ]
