"""A recording as a signal: the raw echoes of one sensor."""

from __future__ import annotations

from sqlalchemy.orm import Session

from tickstone.core.lines.names import TIME_UNITS_US
from tickstone.core.signal import Signal
from tickstone.store.models import Recording
from tickstone.store.takes import read_samples


def read_echo_signal(session: Session, recording: Recording) -> Signal:
    """The recording's raw echoes: times in s from the take's first reading, values in µs.

    A channel without a unit of time is taken to be in µs already.
    """
    samples = read_samples(session, recording.take_id, recording.channel)
    channel = recording.take.channels[recording.channel]
    values = samples.values * TIME_UNITS_US.get(channel["unit"], 1.0)
    times = (samples.time_us - recording.take.first_time_us) / 1e6
    return Signal(times, values, "µs", samples.status)
