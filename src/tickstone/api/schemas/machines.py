"""Rules over a rig: what they may look at, what is found amiss, and what became of them."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from pydantic import ConfigDict, Field

from tickstone.api.schemas.base import Answer, Body, Seconds, Words
from tickstone.api.schemas.bench import OutputOut
from tickstone.api.schemas.finding import FindingOut

Document = dict[str, Any]
_EXAMPLE: Document = {
    "name": "Stop and go",
    "inputs": [{"name": "front", "sensor": "1", "output": "distance", "longest_s": 0.5}],
    "start": "drive",
    "states": [{"name": "drive", "moves": True}, {"name": "stopped"}],
    "transitions": [
        {"leaves": "drive", "to": "stopped", "when": "front < 0.42 m"},
        {"leaves": "stopped", "to": "drive", "when": "front > 0.5 m", "for_s": 0.2},
    ],
    "when_blind": {"how": "hold", "hold_s": 0.3, "go_to": "stopped"},
}


class RulesIn(Body):
    """Rules as in a file."""

    model_config = ConfigDict(json_schema_extra={"examples": [{"rules": _EXAMPLE}]})

    rules: Document


class KeepRulesIn(Body):
    """Rules to go by from now on, and why."""

    model_config = ConfigDict(
        json_schema_extra={"examples": [{"rules": _EXAMPLE, "note": "first try"}]}
    )

    rules: Document
    note: Words = ""


class ReplayRulesIn(Body):
    """Up to four versions of rules over one recording. restless_s: a shorter visit that leads back
    is chatter.
    """

    model_config = ConfigDict(
        json_schema_extra={"examples": [{"take_id": 1, "versions": [_EXAMPLE]}]}
    )

    take_id: int = Field(ge=1, le=2**63 - 1)
    versions: list[Document] = Field(min_length=1, max_length=4)
    from_s: Seconds | None = None
    to_s: Seconds | None = None
    restless_s: float = Field(default=0.3, ge=0.0, le=3600.0)


class SawIn(Body):
    """What a version saw at a time of a recording, s from its start."""

    model_config = ConfigDict(
        json_schema_extra={"examples": [{"take_id": 1, "rules": _EXAMPLE, "at_s": 1.0}]}
    )

    take_id: int = Field(ge=1, le=2**63 - 1)
    rules: Document
    at_s: Seconds


class OfferedOut(Answer):
    """An output of a sensor that rules may look at. is_set: whether it is told as things stand."""

    sensor_id: int
    sensor: str
    kind: str
    output: OutputOut
    is_set: bool


class StartingPointOut(Answer):
    """Rules to begin with. missing: what they need that nothing on this rig tells."""

    name: str
    label: str
    what: str
    rules: Document
    missing: list[str]


class KeptOut(Answer):
    """A decision as kept. cracks: what it rests on that is no more as it was."""

    id: int
    slot: str
    name: str
    note: str
    made_at: datetime
    is_in_use: bool
    cracks: list[str]
    document: Document


class TakeOfferedOut(Answer):
    """A recording that rules can be replayed on. sensors: whose readings it holds."""

    id: int
    name: str
    recorded_at: datetime
    duration_s: float
    samples: int
    sensors: list[int]


class WordOut(Answer):
    """A word that may be chosen, and what it means."""

    name: str
    label: str


class RulesBenchOut(Answer):
    """All there is for the bench of rules of a rig."""

    offered: list[OfferedOut]
    starting_points: list[StartingPointOut]
    kept: list[KeptOut]
    takes: list[TakeOfferedOut]
    blind_words: list[WordOut]
    together_words: list[WordOut]
    statuses: list[WordOut]
    caution: str


class TransitionOut(Answer):
    """A transition with its condition said in full."""

    leaves: str
    to: str
    said: str
    inputs: list[str]


class CheckedOut(Answer):
    """Rules that hold together: their conditions in words, and what is found amiss. from_blind:
    states that blindness can end. blind_distance_m: how far it may go without looking.
    """

    states: list[str]
    transitions: list[TransitionOut]
    from_blind: list[str]
    findings: list[FindingOut]
    blind_distance_m: float | None


class RateOut(Answer):
    """So many of so many, with the interval that holds the true rate, 95 %."""

    hits: int
    of: int
    value: float | None
    low: float | None
    high: float | None


class StayOut(Answer):
    """How often in a state, and for how long."""

    state: str
    visits: int
    total_s: float
    share: float
    mean_s: float | None
    shortest_s: float | None
    longest_s: float | None
    chatter: int


class HeldOut(Answer):
    """A state against the truth; see `core.machines.measures.Held`."""

    state: str
    precision: RateOut
    recall: RateOut
    precision_visits: RateOut
    recall_stretches: RateOut
    reaction_median_s: float | None
    reaction_longest_s: float | None
    missed_s: list[float]


class WrongOut(Answer):
    """A stretch in which it was wrong."""

    from_s: float
    to_s: float
    true: str
    told: str


class ConfusionOut(Answer):
    """Told against true: a row for each true state, a column for each told."""

    states: list[str]
    samples: list[list[int]]
    seconds: list[list[float]]
    right: RateOut
    held: list[HeldOut]
    worst: list[WrongOut]


class VisitsOut(Answer):
    """Visits in columns. many: how many each stands for, where there are more than can be shown.
    why: number of `VersionOut.causes`.
    """

    from_s: list[float]
    to_s: list[float]
    state: list[int]
    why: list[int]
    many: list[int]


class VersionOut(Answer):
    """What became of one version. error: why it was not run, with the place in the rules."""

    name: str
    error: str
    where: str
    unheard: list[str]
    states: list[str]
    alarms: list[str]
    causes: list[str]
    visits: VisitsOut
    transitions: int
    stays: list[StayOut]
    confusion: ConfusionOut | None


class TruthOut(Answer):
    """A stretch marked with the state that would have been right."""

    state: str
    from_s: float
    to_s: float


class TraceOut(Answer):
    """What an input said over the window: an amount as a line, a decision as stretches."""

    name: str
    label: str
    sensor: str
    output: OutputOut
    time_s: list[float]
    low: list[float | None]
    high: list[float | None]
    cuts: list[float]


class ReplayOut(Answer):
    """Versions over a recording, with the traces they looked at."""

    take_id: int
    duration_s: float
    from_s: float
    to_s: float
    versions: list[VersionOut]
    traces: list[TraceOut]
    truths: list[TruthOut]


class SightOut(Answer):
    """What an input said last. said: as a person reads it, with its ±."""

    name: str
    said: str
    status: str
    age_s: float | None
    who: str


class SawOut(Answer):
    """What a version saw at a time, which state it was in, since when and why. by: the inputs that
    made that condition true.
    """

    at_s: float
    state: str
    since_s: float
    until_s: float
    why: str
    by: list[str]
    sights: list[SightOut]


class EnteredOut(Answer):
    """A state that was entered on the line, when and why. by: the inputs that decided."""

    at_s: float
    state: str
    why: str
    by: list[str]


class LiveRulesOut(Answer):
    """Rules on the open line. is_open: whether one is. state: now; empty while nothing is known.
    restarts: how often it had to begin anew because nobody looked for too long. silent_s: how long
    the line has said nothing, where that is longer than usual. entered: the newest first.
    """

    is_open: bool
    unheard: list[str]
    silent_s: float
    state: str
    until_s: float
    restarts: int
    visits: VisitsOut
    states: list[str]
    causes: list[str]
    entered: list[EnteredOut]
    sights: list[SightOut]
