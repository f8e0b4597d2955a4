"""Lines that were put aside, a page at a time."""

from __future__ import annotations

from typing import Annotated

from fastapi import Query
from sqlalchemy.orm import Session

from tickstone.api.schemas.recording import BadLineOut, BadLinesOut
from tickstone.store.models import Take
from tickstone.store.takes import read_bad_lines

First = Annotated[int, Query(ge=0, le=2**40)]
Count = Annotated[int, Query(ge=1, le=500)]


def bad_lines_out(session: Session, take: Take, first: int, count: int) -> BadLinesOut:
    """Bad lines number first, first + 1, … of a take."""
    return BadLinesOut(
        total=take.bad_lines,
        lines=[
            BadLineOut(line=line, text=text, reason=reason)
            for line, text, reason in read_bad_lines(session, take.id, first, count)
        ],
    )
