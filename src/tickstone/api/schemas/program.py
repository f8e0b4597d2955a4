"""Programs written for a rig's board."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from pydantic import ConfigDict, Field

from tickstone.api.schemas.base import Answer, Body
from tickstone.core.listening.plan import USUAL_BAUD, USUAL_HZ

ProgramKind = Literal["listen", "convert", "rules"]


class ProgramWanted(Body):
    """What is wanted of a program. target: empty for the one that suits the board."""

    model_config = ConfigDict(
        json_schema_extra={"examples": [{"kind": "listen", "rate_hz": 10.0, "baud": 115200}]}
    )

    kind: ProgramKind = "listen"
    target: str = Field("", max_length=40)
    rate_hz: float = Field(USUAL_HZ, description="Lines a second.")
    baud: int = Field(USUAL_BAUD, ge=300, le=4_000_000, description="The least of the line.")
    is_whole: bool = Field(False, description="Chains in whole numbers, where that can be.")


class TargetOut(Answer):
    """A language for this board."""

    name: str
    label: str
    what: str
    chooses_baud: bool


class ProgramColumnOut(Answer):
    """One value of a line. device: whose it is; empty for the board's time."""

    name: str
    header: str
    quantity: str
    device: str


class LeftOutOut(Answer):
    """A device that the program does not read. why: half a sentence. next_best: what to do."""

    label: str
    why: str
    next_best: str


class ProgramFileOut(Answer):
    """A file of a program. path: where it goes, with the folder it wants."""

    path: str
    text: str


class ProgramOut(Answer):
    """A program as text, and what it does. path: where it goes, with the folder it wants.
    beside: files that go there too.

    reads: how each device is read, by its name. wiring_errors: what the check says against the
    wiring as it is; a program for it is not to be loaded before that is mended.
    """

    identity: str
    kind: str
    target: str
    path: str
    text: str
    beside: list[ProgramFileOut]
    columns: list[ProgramColumnOut]
    left_out: list[LeftOutOut]
    notes: list[str]
    rate_hz: float
    baud: int
    busy_s: float
    characters: int
    wiring_errors: list[str]
    written_at: datetime


class ProgramsOut(Answer):
    """What can be written for a rig's board. board: its label, empty when none is chosen.
    decides: names of the rules and controllers in use.
    """

    board: str
    decides: list[str]
    targets: list[TargetOut]


class CostFigureOut(Answer):
    """One figure of what a program costs on its board."""

    name: str
    value: str


class PartCostOut(Answer):
    """What one chain or decision costs as if it were alone, with all that it calls. us: of one step
    at most.
    """

    name: str
    us: float
    program_bytes: int
    memory_bytes: int


class ProofOut(Answer):
    """What running a program showed. missing: what this machine lacks; then nothing was run.
    too_large: what the board has no room for.
    """

    where: str
    missing: list[str]
    too_large: list[str]
    told: int
    differs: list[str]
    lines: list[str]
    cost: list[CostFigureOut]
    parts: list[PartCostOut]


class ConstantOut(Answer):
    """A named number. u: its standard uncertainty, null where nothing is known of it."""

    name: str
    value: float
    unit: str
    u: float | None
    rests_on: str


class SensorConstantsOut(Answer):
    """Those of one sensor."""

    label: str
    constants: list[ConstantOut]


class ConstantsTextOut(Answer):
    """All of them in one language."""

    name: str
    label: str
    text: str


class ConstantsOut(Answer):
    """A rig's constants. identity: another value of any of them would change it."""

    identity: str
    sensors: list[SensorConstantsOut]
    texts: list[ConstantsTextOut]


class LookOverIn(Body):
    """A person's program to be looked over. name: of its file, if there is one."""

    model_config = ConfigDict(
        json_schema_extra={"examples": [{"text": "void loop() { delay(500); }"}]}
    )

    text: str = Field(max_length=600_000)
    name: str = Field("", max_length=200)


class ProgramFindingOut(Answer):
    """What stands out. line: from 1. code: that line."""

    id: str
    line: int
    code: str
    message: str
    why: str
    repair: str


class LookOverOut(Answer):
    """more: findings beyond those told. looked_for: what was looked for; no finding is a claim
    about these alone. as_written_here: whether it is a program of this record to the last sign;
    null when it does not say so.
    """

    language: str
    as_written_here: bool | None
    findings: list[ProgramFindingOut]
    more: int
    looked_for: list[str]
    not_looked_for: list[str]
