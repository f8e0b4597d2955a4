"""What the rig's own thermometer said of the air while a take was recorded."""

from __future__ import annotations

import numpy as np
from sqlalchemy.orm import Session

from tickstone.core.air.heard import celsius_of
from tickstone.core.status import Status
from tickstone.store.models import Sensor, Take
from tickstone.store.takes import read_samples
from tickstone.work.catalogue import Catalogue

_LOOKED_AT_S = 60.0


def air_heard(session: Session, take: Take, catalogue: Catalogue) -> float | None:
    """Median of a minute in the middle, °C; None where no thermometer of the air was recorded."""
    middle_us = (take.first_time_us + take.last_time_us) // 2
    half_us = round(_LOOKED_AT_S / 2.0 * 1e6)
    for number, channel in enumerate(take.channels):
        if not tells_air(session, channel, catalogue):
            continue
        samples = read_samples(session, take.id, number, middle_us - half_us, middle_us + half_us)
        good = samples.values[samples.status == Status.OK]
        good = good[~np.isnan(good)]
        if good.size:
            return celsius_of(float(np.median(good)), channel["unit"])
    return None


def tells_air(session: Session, channel: dict[str, object], catalogue: Catalogue) -> bool:
    """Whether a channel is the temperature of a thermometer that hangs in the air."""
    if channel.get("quantity") != "temperature" or channel.get("sensor_id") is None:
        return False
    sensor = session.get(Sensor, channel["sensor_id"])
    family = catalogue.devices.get(sensor.family) if sensor is not None else None
    return family is not None and family.tells_air
