"""Repairs judged by the same checks: one that mends its finding and starts nothing as bad."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

from tickstone.core.finding import SEVERITIES
from tickstone.core.wiring.checks import found_in
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.finding import Repair, WiringFinding
from tickstone.core.wiring.netlist import Wiring

MOST_JUDGED, USUAL_DEVICES, USUAL_WORK = 40, 20, 5_000
"""So many repairs are tried out at once on a rig of usual size, fewer where each takes longer; the
worst findings' first, the rest when those are mended. The work: states times parts, of all nets."""
MOST_STEPS = 4
"""So many steps may follow from one repair, such as the pull-up that a lead on a pin wants."""
_REMEMBERED = 32
Findings = Sequence[WiringFinding]


@dataclass(frozen=True, slots=True)
class Mended:
    """A repair that does, the wiring after it, and what is found there."""

    repair: Repair
    wiring: Wiring
    findings: tuple[WiringFinding, ...]


@lru_cache(maxsize=_REMEMBERED)
def check_wiring(wiring: Wiring) -> tuple[WiringFinding, ...]:
    """Everything the checks find, worst first, each with the repairs that do mend it.

    What can destroy comes before what does not work, and that before what misreads. Whoever asks
    for a stone, a page or a picture of a line asks for this; a wiring changes far less often.
    """
    circuit = Circuit(wiring)
    found = found_in(circuit)
    work = sum(len(one.states) * len(one.pieces) for one in circuit.solved.islands)
    share = min(1.0, USUAL_DEVICES / max(1, len(wiring.devices)), USUAL_WORK / max(1, work))
    most = int(MOST_JUDGED * share)
    # The first repair of every finding before the second of any.
    every = sorted(
        (rank, place) for place, one in enumerate(found) for rank in range(len(one.repairs))
    )
    kept: dict[int, dict[str, Repair]] = {}
    for rank, place in every[:most]:
        mended = mends(wiring, found, found[place], found[place].repairs[rank])
        if mended is not None:
            kept.setdefault(place, {})[mended.repair.text] = mended.repair
    return tuple(
        replace(one, repairs=tuple(kept.get(place, {}).values())) for place, one in enumerate(found)
    )


def mends(wiring: Wiring, found: Findings, finding: WiringFinding, repair: Repair) -> Mended | None:
    """The repair, with what has to follow from it; None where it does not mend.

    It mends when its finding is gone and no finding as severe or worse is new. What is left of it,
    or new because of it, is mended along with it, where that can be.
    """
    for _ in range(MOST_STEPS):
        try:
            new = repair.applied(wiring)
        except ValueError:
            return None  # more parts than a wire can take, say
        after = found_in(Circuit(new))
        left = [one for one in after if one.is_same(finding)]
        if left and len(left[0].places) >= len(finding.places):
            return None
        worse = left or fresh_among(found, after, finding.severity)
        if not worse:
            return Mended(repair, new, after)
        if not worse[0].repairs:
            return None
        repair = repair.then(worse[0].repairs[0])
    return None


def fresh_among(before: Findings, after: Findings, severity: str) -> list[WiringFinding]:
    """Findings at least so severe that were not there before."""
    severe = SEVERITIES.index(severity)
    return [
        one
        for one in after
        if SEVERITIES.index(one.severity) <= severe
        and not any(one.is_same(other) for other in before)
    ]
