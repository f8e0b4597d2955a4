"""Windows of a recording of ten million samples, server side: cold and warm, raw and staged.

Cold: nothing in memory, but in the store what was worked out when the recording became whole.
"""

from __future__ import annotations

import time

import numpy as np
from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from bench.own_database import own_database
from tickstone.core.blocks import Block
from tickstone.demo.bramble import plant_bramble
from tickstone.store.models import Rig, Take
from tickstone.store.takes import TakeWriter
from tickstone.work.cache import Cache
from tickstone.work.catalogue import catalogue_of
from tickstone.work.takes.channel import channel_of
from tickstone.work.takes.finishing import finish_take

SAMPLES = 10_000_000
WINDOWS = 200
POINTS = 2_000


def run() -> str:
    with own_database() as (engine, _):
        return _measure(engine)


def _measure(engine: Engine) -> str:
    with Session(engine) as session:
        plant_bramble(session)
        take = _take(session)
        figures = []
        began = time.perf_counter()
        finish_take(session, take, catalogue_of(session))
        session.commit()
        ahead_s = time.perf_counter() - began
        for stage in ("", "median"):
            cold = _percentiles(session, take, stage, is_warm=False)
            warm = _percentiles(session, take, stage, is_warm=True)
            name = f"after {stage}" if stage else "raw"
            figures.append(f"{name}: p95 {cold:.0f} ms cold, {warm:.0f} ms warm")
    return (
        f"Plot windows of 10 M samples, {'; '.join(figures)} (budget 100 cold, 30 warm); "
        f"the overview after the chain is worked out ahead in {ahead_s:.1f} s"
    )


def _take(session: Session) -> Take:
    rng = np.random.default_rng(2)
    rig = session.scalars(select(Rig)).first()
    assert rig is not None
    take = Take(
        rig_id=rig.id,
        name="long",
        source_name="bench",
        sha256="",
        samples=0,
        bad_lines=0,
        channels=[
            {
                "name": "front",
                "unit": "µs",
                "quantity": "echo time",
                "sensor_id": rig.sensors[0].id,
            }
        ],
    )
    take.air = rig.air
    session.add(take)
    session.flush()
    writer = TakeWriter(session, take)
    for first in range(0, SAMPLES, 500_000):
        n = np.arange(first, first + 500_000)
        echoes = np.rint(3_000 + 1_500 * np.sin(n / 4e5) + rng.normal(0, 6, len(n)))
        writer.append(Block(n * 1_000, [echoes], [None]))
    writer.flush()
    session.commit()
    return take


def _percentiles(session: Session, take: Take, stage: str, is_warm: bool) -> float:
    """The 95th percentile, ms, over windows of all widths. Cold: nothing is kept between."""
    rng = np.random.default_rng(3)
    catalogue = catalogue_of(session)
    cache = Cache()
    if is_warm:
        channel = channel_of(session, cache, take, 0, catalogue)
        channel.draw(stage, (0.0, take.duration_s), POINTS)
    times = []
    for _ in range(WINDOWS):
        width = take.duration_s * 10 ** rng.uniform(-6, 0)
        start = rng.uniform(0, take.duration_s - width)
        channel = channel_of(session, cache if is_warm else Cache(), take, 0, catalogue)
        began = time.perf_counter()
        channel.draw(stage, (start, start + width), POINTS)
        times.append(1e3 * (time.perf_counter() - began))
    return float(np.percentile(times, 95))


if __name__ == "__main__":
    print(run())
