"""Decisions as they are kept: immutable, dated, one of each slot in use."""

from __future__ import annotations

from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from tickstone.store.models import Decision, DecisionInUse, Rig
from tickstone.work.deciding.grounds import basis_of

RULES = "rules"
TUNING = "tuning "
"""Before the name of what is steered."""


def keep(
    session: Session, rig: Rig, slot: str, name: str, document: dict[str, Any],
    sensor_ids: list[int], note: str,
) -> Decision:  # fmt: skip
    """Keep a decision and go by it from now on, without committing."""
    row = Decision(
        rig_id=rig.id,
        slot=slot,
        name=name,
        document=document,
        basis=basis_of(session, rig, sensor_ids),
        note=note,
    )
    session.add(row)
    session.flush()
    use(session, row)
    return row


def use(session: Session, row: Decision) -> None:
    """Go by a decision from now on, a new one or an earlier, without committing."""
    in_use = session.get(DecisionInUse, (row.rig_id, row.slot))
    if in_use is None:
        session.add(DecisionInUse(rig_id=row.rig_id, slot=row.slot, decision_id=row.id))
    else:
        in_use.decision_id = row.id
        session.flush()
        session.refresh(in_use)


def kept_of(session: Session, rig: Rig, slot: str = "") -> list[Decision]:
    """All that were kept, the newest first; of one slot, or of every."""
    query = select(Decision).where(Decision.rig_id == rig.id)
    if slot:
        query = query.where(Decision.slot == slot)
    return list(session.scalars(query.order_by(Decision.made_at.desc(), Decision.id.desc())))


def in_use_of(session: Session, rig: Rig) -> dict[str, Decision]:
    """The decision in use of every slot."""
    rows = session.scalars(select(DecisionInUse).where(DecisionInUse.rig_id == rig.id))
    return {row.slot: row.decision for row in rows}
