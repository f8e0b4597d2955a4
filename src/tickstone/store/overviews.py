"""Results of chains kept thinned, with the states on the way, so that a long take opens at once."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from tickstone.core.chain import Kept
from tickstone.store.chunks import pack, pack_text, unpack, unpack_text
from tickstone.store.columns import pack_overview, unpack_overview
from tickstone.store.models import ResultOverview
from tickstone.store.takes import Buckets


@dataclass(frozen=True, slots=True)
class KeptResult:
    """The result of a node over a whole take: an overview of each lane, and states on the way."""

    lanes: tuple[Buckets, ...]
    kept: tuple[Kept, ...]


def read_result(
    session: Session, take_id: int, source: str, node: str, chain: str
) -> KeptResult | None:
    """What is kept; None when there is nothing, or it was worked out with another chain."""
    row = session.get(ResultOverview, (take_id, source, node))
    if row is None or row.chain != chain:
        return None
    times = unpack(row.times)
    packed, lanes = row.overview, []
    while packed:
        size = int.from_bytes(packed[:4], "little")
        lanes.append(Buckets(times, unpack_overview(packed[4 : 4 + size])))
        packed = packed[4 + size :]
    kept = [
        Kept(first, until_s, {name: _frozen(state) for name, state in states.items()})
        for first, until_s, states in json.loads(unpack_text(row.states))
    ]
    return KeptResult(tuple(lanes), tuple(kept))


def keep_result(
    session: Session, take_id: int, source: str, node: str, chain: str, result: KeptResult
) -> None:
    """Keep it instead of any that was kept for the same node."""
    states = [[one.first, one.until_s, dict(one.states)] for one in result.kept]
    values = {
        "chain": chain,
        "times": pack(result.lanes[0].time_us),
        "overview": b"".join(_sized(pack_overview(lane.overview)) for lane in result.lanes),
        "states": pack_text(json.dumps(states)),
    }
    session.execute(
        insert(ResultOverview)
        .values(take_id=take_id, source=source, node=node, **values)
        .on_conflict_do_update(index_elements=["take_id", "source", "node"], set_=values)
    )


def _sized(packed: bytes) -> bytes:
    return len(packed).to_bytes(4, "little") + packed


def _frozen(state: Any) -> Any:
    """Lists become tuples again, as stages have them."""
    if isinstance(state, Sequence) and not isinstance(state, str):
        return tuple(_frozen(one) for one in state)
    return state
