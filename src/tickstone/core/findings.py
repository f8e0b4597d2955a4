"""What Tick Stone thinks of a recording, its air, its budget and its stones. Pure rules."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from tickstone.core.air import cramer
from tickstone.core.air.conditions import AirConditions
from tickstone.core.air.sound_speed import SoundSpeed
from tickstone.core.chain import Step
from tickstone.core.finding import Finding
from tickstone.core.reading_units import small_length, sound_speed, temperature, typed_length
from tickstone.core.signal import Signal
from tickstone.core.status import Status
from tickstone.core.stones.stone import Stone, StoneState, WorkStage
from tickstone.core.uncertainty import combined, expanded

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


def signal_findings(signal: Signal) -> list[Finding]:
    """What the flagged samples and the spacing of a measured signal say."""
    findings = []
    count = len(signal)
    if count == 0:
        return [Finding("error", "The recording is empty.", "No line of it could be read.", "")]
    silent = (signal.status == Status.NO_ECHO) | (signal.status == Status.TIMED_OUT)
    if silent.any():
        number = int(silent.sum())
        findings.append(
            Finding(
                "error" if number > 0.2 * count else "warning",
                f"{number} reading{'s have' if number > 1 else ' has'} no echo.",
                f"That is {_percent(number, count)}, {_where(signal, silent)}. A soft, slanted or "
                "far target does that. They stay in place, never used as a distance.",
                "Look at what stood there; square the target to the sensor or use a hard one.",
            )
        )
    for status, cause in (
        (Status.TOO_NEAR, "Closer than the stated range, the sensor hears its own pulse."),
        (Status.TOO_FAR, "Beyond the stated range an echo is weak and often another thing’s."),
    ):
        number = int((signal.status == status).sum())
        if number:
            findings.append(
                Finding(
                    "note",
                    f"{number} reading{'s are' if number > 1 else ' is'} {status.word}.",
                    cause,
                    "They are flagged, not used.",
                )
            )
    findings += _gap_findings(signal)
    return findings


def _gap_findings(signal: Signal) -> list[Finding]:
    if len(signal) < 3:
        return []
    steps = np.diff(signal.time_s)
    usual = float(np.median(steps))
    gaps = steps > max(5.0 * usual, 1e-6)
    if usual <= 0.0 or not gaps.any():
        return []
    longest = int(np.argmax(steps))
    return [
        Finding(
            "warning",
            f"Nothing was logged for {steps[longest]:.1f} s.",
            f"Readings come every {usual * 1000:.0f} ms, but after {signal.time_s[longest]:.1f} s "
            f"there is a gap{', and others' if gaps.sum() > 1 else ''}.",
            "Check the cable and what the program did at that time.",
        )
    ]


def air_findings(sound: SoundSpeed, air: AirConditions, reads_the_air: bool) -> list[Finding]:
    """How far a fixed speed of sound is off in this air."""
    if reads_the_air:
        return []
    true = cramer.speed_of_sound(air)
    off_m = sound.value / true - 1.0
    severity = "warning" if abs(off_m) >= 0.005 else "note"
    return [
        Finding(
            severity,
            f"The fixed speed of sound puts {typed_length(1.0)} {small_length(abs(off_m), 0)} too "
            f"{'far' if off_m > 0 else 'near'}.",
            f"It stands at {sound_speed(sound.value, 1)}; in air of "
            f"{temperature(air.temperature_c, 1)} sound does {sound_speed(true, 1)}.",
            "Let the chain use the air instead.",
        )
    ]


def budget_findings(step: Step) -> list[Finding]:
    """What would help most: the component that weighs heaviest, when one does."""
    if not step.components or not np.isfinite(step.value):
        return []
    heaviest = max(step.components, key=lambda part: abs(part.contribution))
    total = combined(step.components)
    if total <= 0.0 or heaviest.contribution**2 < 0.5 * total**2:
        return []
    rest = combined(part for part in step.components if part is not heaviest)
    quarter = (rest**2 + (heaviest.contribution / 4.0) ** 2) ** 0.5
    remedies = {
        "echo detection": "A harder, squarer target, or the mean of several readings,",
        "thermometer": "A thermometer four times as good, or a calibration against a ruler,",
        "air not asked": "Letting the chain use today’s air",
        "calibration": "More marks, farther apart and better placed,",
    }
    remedy = remedies.get(heaviest.name, f"Knowing the {heaviest.name} four times better")
    return [
        Finding(
            "note",
            f"Most of the doubt is the {heaviest.name}.",
            f"It makes up {100 * heaviest.contribution**2 / total**2:.0f} % of the variance.",
            f"{remedy} would bring ± {small_length(expanded(total), 1)} to "
            f"± {small_length(expanded(quarter), 1)}.",
        )
    ]


def _where(signal: Signal, mask: npt.NDArray[np.bool_]) -> str:
    """Where in time the set samples are: in one stretch, or all over."""
    places = np.flatnonzero(mask)
    if places.size == len(signal):
        return "all there is"
    breaks = np.flatnonzero(np.diff(places) > 3)
    starts = np.concatenate(([0], breaks + 1))
    ends = np.concatenate((breaks, [places.size - 1]))
    longest = int(np.argmax(ends - starts))
    first, last = int(starts[longest]), int(ends[longest])
    if last - first + 1 < 0.5 * places.size:
        return "spread over the recording"
    middle = signal.time_s[places[(first + last) // 2]]
    return f"most of it near {middle:.1f} s"


def _percent(part: int, whole: int) -> str:
    share = 100.0 * part / whole
    return f"{share:.0f} %" if share >= 1 else "under 1 %"
