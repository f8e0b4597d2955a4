"""A channel of a take, raw or after any stage of its sensor's chain."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy.orm import Session

from tickstone.core.chain import Chain
from tickstone.core.families.ultrasonic_ranger import ranger_chain
from tickstone.core.lines.names import TIME_UNITS_US
from tickstone.core.signal import Signal
from tickstone.store.models import Sensor, Take
from tickstone.store.takes import Samples
from tickstone.work.catalogue import Catalogue
from tickstone.work.chains import calibration_stage, parameters_of

_STAGE_UNITS = {"echo": "µs"}


@dataclass(frozen=True, slots=True)
class ChannelChain:
    """The chain of a channel's sensor, in the air of the take. scale: µs in a unit of the channel.

    chain: None when the channel has none.
    """

    chain: Chain | None
    scale: float
    unit: str

    @property
    def stages(self) -> list[str]:
        """Names of the stages one can look behind, in order."""
        return [] if self.chain is None else list(dict.fromkeys(s.name for s in self.chain))

    def until(self, stage: str) -> Chain | None:
        """The chain up to a stage; None for raw. Raises ValueError when there is no such stage."""
        if not stage:
            return None
        if self.chain is None:
            raise ValueError("this channel has no chain; it can be seen raw")
        try:
            return self.chain.through(stage)
        except KeyError:
            raise ValueError(
                f"there is no stage “{stage}”; there are {', '.join(self.stages)}"
            ) from None

    def signal(self, samples: Samples, origin_us: int) -> Signal:
        """Samples as the chain takes them: s from the take's start, µs."""
        return Signal(
            (samples.time_us - origin_us) / 1e6, samples.values * self.scale, "µs", samples.status
        )


def chain_of_channel(
    session: Session, take: Take, number: int, catalogue: Catalogue
) -> ChannelChain:
    """The chain of one channel as its sensor is set now."""
    channel = take.channels[number]
    scale = TIME_UNITS_US.get(channel["unit"], 1.0)
    sensor_id = channel.get("sensor_id")
    sensor = session.get(Sensor, sensor_id) if sensor_id is not None else None
    family = catalogue.devices.get(sensor.family) if sensor is not None else None
    is_ranger = family is not None and family.has_chain and channel["quantity"] == "echo time"
    if sensor is None or not is_ranger:
        return ChannelChain(None, scale, channel["unit"])
    parameters, air = parameters_of(sensor), take.air
    calibration = (
        calibration_stage(sensor.calibration, air, parameters)
        if sensor.calibration is not None
        else None
    )
    return ChannelChain(ranger_chain(parameters, air, calibration), scale, channel["unit"])
