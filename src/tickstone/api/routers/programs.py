"""Programs for a rig's board: written, and run to see that they do what they say."""

from __future__ import annotations

import json

from fastapi import APIRouter

from tickstone.api.desk import CatalogueDep, RigDep, SessionDep
from tickstone.api.problems import does_not_fit
from tickstone.api.schemas.program import (
    ConstantOut,
    ConstantsOut,
    ConstantsTextOut,
    CostFigureOut,
    LeftOutOut,
    LookOverIn,
    LookOverOut,
    PartCostOut,
    ProgramColumnOut,
    ProgramFileOut,
    ProgramFindingOut,
    ProgramOut,
    ProgramsOut,
    ProgramWanted,
    ProofOut,
    SensorConstantsOut,
    TargetOut,
)
from tickstone.core.emit.terms import Kind
from tickstone.core.wiring.judging import check_wiring
from tickstone.formats.constants_json import constants_document
from tickstone.lookover.checks import look_over
from tickstone.lookover.reading import NotAProgramError, read_program
from tickstone.store.models import Rig
from tickstone.targets import TARGETS
from tickstone.targets.target import is_as_written
from tickstone.work.catalogue import Catalogue
from tickstone.work.deciding.for_board import decisions_of
from tickstone.work.looking_over import rig_facts
from tickstone.work.programs import (
    Wanted,
    Written,
    constants_of,
    keep_written,
    targets_for,
    write_program,
)
from tickstone.work.proving import prove
from tickstone.work.wiring import board_of

router = APIRouter(prefix="/api/rigs", tags=["programs"])


@router.get("/{rig_id}/programs")
def list_targets(rig: RigDep, session: SessionDep, catalogue: CatalogueDep) -> ProgramsOut:
    """The languages a program can be written in for this rig's board."""
    board = board_of(rig, catalogue)
    return ProgramsOut(
        board=board.label if board else "",
        decides=[row.name for row in decisions_of(session, rig)],
        targets=[
            TargetOut(name=one.name, label=one.label, what=one.what, chooses_baud=not one.baud)
            for one in (targets_for(board) if board else ())
        ],
    )


@router.post("/{rig_id}/programs")
def write_rig_program(
    rig: RigDep, body: ProgramWanted, session: SessionDep, catalogue: CatalogueDep
) -> ProgramOut:
    """A program for the rig’s board: one that listens, one that converts what it reads, or one that
    also decides by it.
    """
    written = _written(rig, body, session, catalogue)
    kept = keep_written(session, rig, written)
    plan = written.plan
    names = {one.device: one.label for one in plan.readings}
    said = ProgramOut(
        identity=kept.identity,
        kind=kept.kind,
        target=kept.target,
        path=written.program.path,
        text=written.program.text,
        beside=[ProgramFileOut(path=one.path, text=one.text) for one in written.beside],
        columns=[
            ProgramColumnOut(
                name=one.name,
                header=one.header,
                quantity=one.quantity,
                device=names.get(one.device, ""),
            )
            for one in written.columns
        ],
        left_out=[LeftOutOut.model_validate(one) for one in written.left_out],
        notes=list(written.notes),
        rate_hz=plan.pace.rate_hz,
        baud=plan.pace.baud,
        busy_s=plan.pace.busy_s,
        characters=plan.characters,
        wiring_errors=[
            one.message for one in check_wiring(written.wiring) if one.severity == "error"
        ],
        written_at=kept.written_at,
    )
    session.commit()
    return said


@router.post("/{rig_id}/programs/proof")
def prove_rig_program(
    rig: RigDep, body: ProgramWanted, session: SessionDep, catalogue: CatalogueDep
) -> ProofOut:
    """The same program, run here in a made-up world, and held against what it was told."""
    written = _written(rig, body, session, catalogue)
    session.rollback()  # nothing more of the store is wanted while it runs
    proof = prove(written)
    return ProofOut(
        where=proof.where,
        missing=list(proof.missing),
        too_large=list(proof.too_large),
        told=proof.told,
        differs=list(proof.differs),
        lines=list(proof.lines),
        cost=[CostFigureOut(name=name, value=value) for name, value in proof.cost.items()],
        parts=[PartCostOut.model_validate(one) for one in proof.parts],
    )


def _written(rig: Rig, body: ProgramWanted, session: SessionDep, catalogue: Catalogue) -> Written:
    try:
        return write_program(
            session,
            rig,
            catalogue,
            Wanted(body.kind, body.target, body.rate_hz, body.baud, body.is_whole),
        )
    except ValueError as error:
        field, _, _ = str(error).partition(":")
        raise does_not_fit(
            str(error), field if field in ("kind", "target", "rate_hz") else ""
        ) from error


@router.get("/{rig_id}/constants")
def read_constants(rig: RigDep, session: SessionDep, catalogue: CatalogueDep) -> ConstantsOut:
    """What calibrations, settings and decisions come to: value, unit, ± and what each rests on."""
    try:
        named = constants_of(session, rig, catalogue)
    except ValueError as error:
        raise does_not_fit(str(error)) from error
    routines = [one for _, one in named]
    document = constants_document(rig.name, routines)
    return ConstantsOut(
        identity=document["identity"],
        sensors=[
            SensorConstantsOut(
                label=label,
                constants=[
                    ConstantOut.model_validate(one)
                    for one in routine.constants
                    if one.kind is not Kind.WHOLE  # names of states are no amounts
                ],
            )
            for label, routine in named
        ],
        texts=[
            *(
                ConstantsTextOut(
                    name=target.name, label=target.label, text=target.constants(rig.name, routines)
                )
                for target in TARGETS.values()
                if target.name != "python"  # as small Python has it
            ),
            ConstantsTextOut(
                name="json",
                label="JSON",
                text=json.dumps(document, ensure_ascii=False, indent=1) + "\n",
            ),
        ],
    )


@router.post("/{rig_id}/programs/look-over")
def look_program_over(
    rig: RigDep, body: LookOverIn, session: SessionDep, catalogue: CatalogueDep
) -> LookOverOut:
    """A second pair of eyes on a program a person wrote for this rig. It is read, never run."""
    try:
        program = read_program(body.text, body.name)
    except NotAProgramError as error:
        raise does_not_fit(f"This cannot be looked over: {error}", "text") from error
    seen = look_over(program, rig_facts(session, rig, catalogue))
    return LookOverOut(
        language={"cpp": "C++", "python": "Python"}[program.language],
        as_written_here=is_as_written(body.text),
        findings=[ProgramFindingOut.model_validate(one) for one in seen.findings],
        more=seen.more,
        looked_for=list(seen.looked_for),
        not_looked_for=list(seen.not_looked_for),
    )
