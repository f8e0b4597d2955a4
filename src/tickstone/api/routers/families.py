"""Families of boards and devices: those that come along, and people's own."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter
from fastapi.responses import JSONResponse
from sqlalchemy import select

from tickstone.api.desk import CatalogueDep, SessionDep
from tickstone.api.problems import ProblemError, does_not_fit, not_found
from tickstone.api.schemas.family import (
    FamilyIn,
    FamilyOut,
    FamilySummary,
    Kind,
    LabelsIn,
    MatchOut,
    RenamedOut,
)
from tickstone.core.families.board_family import BoardFamily
from tickstone.core.families.device_family import DeviceFamily
from tickstone.core.families.recognising import recognise, split_labels
from tickstone.formats.family_file import BOARD_FILES, DEVICE_FILES
from tickstone.store.models import OwnFamily, utc_now
from tickstone.work.catalogue import Catalogue, catalogue_of

router = APIRouter(prefix="/api/families", tags=["families"])


def _summary(family: BoardFamily | DeviceFamily, catalogue: Catalogue) -> FamilySummary:
    is_board = isinstance(family, BoardFamily)
    kind: Kind = "board" if is_board else "device"
    return FamilySummary(
        kind=kind,
        name=family.name,
        label=family.label,
        what=family.what,
        recognise=family.recognise,
        group="board" if isinstance(family, BoardFamily) else family.kind.value,
        leads=[pin.name for pin in family.pins]
        if isinstance(family, BoardFamily)
        else [lead.labels[0] for lead in family.leads],
        is_own=(kind, family.name) in catalogue.own,
        has_chain=isinstance(family, DeviceFamily) and family.has_chain,
    )


def _family(kind: Kind, name: str, catalogue: Catalogue) -> BoardFamily | DeviceFamily:
    found = (catalogue.boards if kind == "board" else catalogue.devices).get(name)
    if found is None:
        raise not_found(f"{kind} family")
    return found


def _family_out(kind: Kind, name: str, catalogue: Catalogue) -> FamilyOut:
    family = _family(kind, name, catalogue)
    return FamilyOut(**_summary(family, catalogue).model_dump(), document=_document(family))


def _document(family: BoardFamily | DeviceFamily) -> dict[str, Any]:
    if isinstance(family, BoardFamily):
        return BOARD_FILES.document(family)
    return DEVICE_FILES.document(family)


def _read(kind: Kind, text: str) -> BoardFamily | DeviceFamily:
    try:
        return BOARD_FILES.read(text) if kind == "board" else DEVICE_FILES.read(text)
    except ValueError as error:
        raise does_not_fit(str(error), "text") from error


@router.get("")
def list_families(catalogue: CatalogueDep) -> list[FamilySummary]:
    """Every family one can choose from, own ones first."""
    boards = [_summary(family, catalogue) for family in catalogue.offered_boards()]
    return boards + [_summary(family, catalogue) for family in catalogue.offered_devices()]


@router.get("/schemas/{kind}")
def read_family_schema(kind: Kind) -> dict[str, Any]:
    """The JSON Schema a family's file keeps to."""
    return BOARD_FILES.schema() if kind == "board" else DEVICE_FILES.schema()


@router.post("/recognise")
def recognise_labels(body: LabelsIn, catalogue: CatalogueDep) -> list[MatchOut]:
    """Which devices have these labels printed beside their pins, the likeliest first."""
    try:
        labels = split_labels(body.labels)
    except ValueError as error:
        raise does_not_fit(str(error), "labels") from error
    return [
        MatchOut(
            family=_summary(match.family, catalogue),
            is_exact=match.is_exact,
            missing=list(match.missing),
            strange=list(match.strange),
            renamed=[RenamedOut(label=label, lead=lead) for label, lead in match.renamed],
            score=match.score,
        )
        for match in recognise(labels, catalogue.offered_devices())
    ]


@router.post("/{kind}", status_code=201)
def add_family(kind: Kind, body: FamilyIn, session: SessionDep) -> FamilyOut:
    """Add a family of one's own: described here, cloned, or from a file."""
    family = _read(kind, body.text)
    catalogue = catalogue_of(session)
    known = catalogue.boards if kind == "board" else catalogue.devices
    row = _own(session, kind, family.name)
    if family.name in known and (row is None or row.deleted_at is None):
        raise does_not_fit(
            f"name: there is already a {kind} family “{family.name}”; give this one another name",
            "text",
        )
    if row is None:
        row = OwnFamily(kind=kind, name=family.name, document={})
        session.add(row)
    row.document, row.deleted_at = _document(family), None
    session.commit()
    return _family_out(kind, family.name, catalogue_of(session))


@router.get("/{kind}/{name}")
def read_family(kind: Kind, name: str, catalogue: CatalogueDep) -> FamilyOut:
    """A family with its whole description."""
    return _family_out(kind, name, catalogue)


@router.get("/{kind}/{name}/file", response_class=JSONResponse)
def read_family_file(kind: Kind, name: str, catalogue: CatalogueDep) -> JSONResponse:
    """A family as a file to share."""
    family = _family(kind, name, catalogue)
    return JSONResponse(
        _document(family),
        headers={"content-disposition": f'attachment; filename="{family.name}.json"'},
    )


@router.put("/{kind}/{name}")
def change_family(kind: Kind, name: str, body: FamilyIn, session: SessionDep) -> FamilyOut:
    """Change a family of one's own; rigs that use it are checked anew."""
    row = _own_or_problem(session, kind, name)
    family = _read(kind, body.text)
    if family.name != name:
        raise does_not_fit(f"name: it is “{name}” and stays so; clone it for another name", "text")
    row.document = _document(family)
    session.commit()
    return _family_out(kind, name, catalogue_of(session))


@router.delete("/{kind}/{name}", status_code=204)
def delete_family(kind: Kind, name: str, session: SessionDep) -> None:
    """Put a family of one's own away. What uses it keeps it; `restore` offers it again."""
    _own_or_problem(session, kind, name).deleted_at = utc_now()
    session.commit()


@router.post("/{kind}/{name}/restore")
def restore_family(kind: Kind, name: str, session: SessionDep) -> FamilyOut:
    """Offer a family again that was put away."""
    row = _own(session, kind, name)
    if row is None:
        raise not_found(f"{kind} family of your own")
    row.deleted_at = None
    session.commit()
    return _family_out(kind, name, catalogue_of(session))


def _own(session: SessionDep, kind: Kind, name: str) -> OwnFamily | None:
    asked = select(OwnFamily).where(OwnFamily.kind == kind, OwnFamily.name == name)
    return session.scalars(asked).first()


def _own_or_problem(session: SessionDep, kind: Kind, name: str) -> OwnFamily:
    row = _own(session, kind, name)
    if row is None or row.deleted_at is not None:
        catalogue = catalogue_of(session)
        if name in (catalogue.boards if kind == "board" else catalogue.devices):
            raise ProblemError(
                409,
                "Not yours",
                "This family comes with Tick Stone; clone it and change the clone.",
            )
        raise not_found(f"{kind} family")
    return row
