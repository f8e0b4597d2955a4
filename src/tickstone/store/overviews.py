"""Overviews of channels after a stage of their chain, kept so that a long take opens at once."""

from __future__ import annotations

from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from tickstone.store.chunks import pack, unpack
from tickstone.store.columns import pack_overview, unpack_overview
from tickstone.store.models import StageOverview
from tickstone.store.takes import Buckets


def read_stage_overview(
    session: Session, take_id: int, channel: int, stage: str, chain: str
) -> Buckets | None:
    """What is kept; None when there is nothing, or it was worked out with another chain."""
    kept = session.get(StageOverview, (take_id, channel, stage))
    if kept is None or kept.chain != chain:
        return None
    return Buckets(unpack(kept.times), unpack_overview(kept.overview))


def keep_stage_overview(
    session: Session, take_id: int, channel: int, stage: str, chain: str, buckets: Buckets
) -> None:
    """Keep it instead of any that was kept for the same stage."""
    values = {
        "chain": chain,
        "times": pack(buckets.time_us),
        "overview": pack_overview(buckets.overview),
    }
    session.execute(
        insert(StageOverview)
        .values(take_id=take_id, channel=channel, stage=stage, **values)
        .on_conflict_do_update(index_elements=["take_id", "channel", "stage"], set_=values)
    )
