"""Other sensors that were recorded in the same take, to hold a recording against."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from tickstone.core.signal import Signal
from tickstone.core.stages.align import Align
from tickstone.core.surroundings import Surroundings
from tickstone.store.models import Recording
from tickstone.work.cache import Cache
from tickstone.work.catalogue import Catalogue
from tickstone.work.look import results_of
from tickstone.work.sensing import kind_of, sensing_of

# Older than this, what the other said is no longer about the same scene.
_LONGEST_S = 0.2


def others_giving(
    session: Session, catalogue: Catalogue, recording: Recording, output: str
) -> list[Recording]:
    """Recordings of other sensors in its take whose kind gives an output of that name."""
    rows = session.scalars(
        select(Recording)
        .where(
            Recording.take_id == recording.take_id,
            Recording.id != recording.id,
            Recording.deleted_at.is_(None),
        )
        .order_by(Recording.id)
    ).all()
    return [one for one in rows if _gives(one, catalogue, output)]


def seen_beside(
    session: Session,
    cache: Cache,
    catalogue: Catalogue,
    other: Recording,
    output: str,
    at: Signal,
) -> Signal:
    """What another sensor's own working said last at the times of `at`, as it is saved now.

    Raises ValueError when its recording holds too little for that output.
    """
    kind = kind_of(other.sensor, catalogue)
    if kind is None:
        raise ValueError(f"{other.sensor.name} has no working")
    sensing = sensing_of(session, other.sensor, kind, Surroundings(other.air), with_rules=False)
    results = results_of(session, cache, other, sensing)
    node = dict(results.chain.outputs).get(output)
    if node is None:
        raise ValueError(f"what {other.sensor.name} said holds too little for its {output}")
    stage = Align(_LONGEST_S, 0.0)
    held, _ = stage.run(stage.begin(), at, results.whole(node))
    return held


def _gives(recording: Recording, catalogue: Catalogue, output: str) -> bool:
    sensor = recording.sensor
    kind = None if sensor.deleted_at is not None else kind_of(sensor, catalogue)
    return kind is not None and any(one.name == output for one in kind.outputs)
