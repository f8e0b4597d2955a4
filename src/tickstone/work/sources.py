"""What feeds a chain: which channels of a take are which inputs, and their samples as signals."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from sqlalchemy.orm import Session

from tickstone.core.chains.kind import ChainKind, Form, Role
from tickstone.core.signal import Signal
from tickstone.store.models import Recording, RecordingInput, Take
from tickstone.store.takes import Samples, read_samples


@dataclass(frozen=True, slots=True)
class RoleSource:
    """The channels of one role, a lane each. scales: `form.quantity.unit` in one of the channel."""

    role: str
    form: Form
    channels: tuple[int, ...]
    scales: tuple[float, ...]


@dataclass(frozen=True, slots=True)
class Source:
    """Everything a chain is fed with from one take."""

    take_id: int
    origin_us: int
    end_us: int
    samples: int
    is_open: bool
    roles: tuple[RoleSource, ...]

    @property
    def key(self) -> str:
        """What tells it from other sources of the same take."""
        return " ".join(
            f"{one.role}.{one.form.name}:" + ",".join(map(str, one.channels)) for one in self.roles
        )

    @property
    def forms(self) -> dict[str, str]:
        """How each role comes."""
        return {one.role: one.form.name for one in self.roles}

    @property
    def lanes(self) -> dict[str, int]:
        """In how many lanes each role comes."""
        return {one.role: len(one.channels) for one in self.roles}

    @property
    def channels(self) -> tuple[int, ...]:
        """All channels that it takes."""
        return tuple(channel for one in self.roles for channel in one.channels)

    def read(
        self, session: Session, from_us: int = -(2**62), to_us: int = 2**62
    ) -> dict[str, Signal]:
        """The samples of every role from `from_us` to `to_us`, both inclusive; s from the start."""
        until_s = (min(to_us, self.end_us) - self.origin_us) / 1e6
        signals = {}
        for one in self.roles:
            lanes = [
                read_samples(session, self.take_id, channel, from_us, to_us)
                for channel in one.channels
            ]
            signals[one.role] = signal_of(one, lanes, self.origin_us, until_s)
        return signals


def signal_of(
    source: RoleSource, lanes: Sequence[Samples], origin_us: int, until_s: float
) -> Signal:
    """Samples of the channels of a role as its signal."""
    return Signal(
        (lanes[0].time_us - origin_us) / 1e6,
        np.stack([one.values * scale for one, scale in zip(lanes, source.scales, strict=True)]),
        np.stack([one.status for one in lanes]),
        source.form.in_lanes(len(lanes)),
        until_s,
    )


def source_of(recording: Recording, kind: ChainKind) -> Source:
    """What feeds the chain of a recording's sensor."""
    return _source(recording.take, roles_of(kind, recording.inputs, recording.take.channels))


def source_of_channel(take: Take, number: int, kind: ChainKind) -> Source | None:
    """What feeds the chain of the sensor that a channel belongs to; None when it is no input.

    A take that is still recorded has no recordings yet: its channels are taken as they most likely
    are.
    """
    sensor_id = take.channels[number].get("sensor_id")
    for recording in take.recordings:
        if recording.sensor_id == sensor_id and recording.deleted_at is None:
            source = source_of(recording, kind)
            return source if number in source.channels else None
    inputs = likely_inputs(kind, take.channels, sensor_id)
    if not any(one.channel == number for one in inputs):
        return None
    return _source(take, roles_of(kind, inputs, take.channels))


def likely_inputs(
    kind: ChainKind, channels: Sequence[Mapping[str, Any]], sensor_id: int
) -> list[RecordingInput]:
    """Which of a sensor's channels most likely are which of its inputs, by lane; whole ones."""
    found: list[RecordingInput] = []
    taken: dict[str, str] = {}
    for number, channel in enumerate(channels):
        if channel.get("sensor_id") != sensor_id:
            continue
        for role, form in _said_or_likely(kind, channel):
            lane = sum(one.role == role.name for one in found)
            if lane < role.most_lanes and taken.get(role.name, form.name) == form.name:
                taken[role.name] = form.name
                found.append(
                    RecordingInput(role=role.name, lane=lane, channel=number, form=form.name)
                )
                break
    lanes = Counter(one.role for one in found)
    return [one for one in found if lanes[one.role] >= kind.role(one.role).least_lanes]


def _said_or_likely(kind: ChainKind, channel: Mapping[str, Any]) -> list[tuple[Role, Form]]:
    """The input that a person said a channel is, or those that it may be."""
    said = channel.get("role")
    if said and said in {role.name for role in kind.roles}:
        role = kind.role(said)
        form = {one.name: one for one in role.forms}.get(channel.get("form", ""))
        if form is not None:
            return [(role, form)]
    return kind.inputs_like(channel["quantity"], channel["unit"])


def _source(take: Take, roles: tuple[RoleSource, ...]) -> Source:
    return Source(
        take.id, take.first_time_us, take.last_time_us, take.samples, take.state == "open", roles
    )


def roles_of(
    kind: ChainKind, inputs: Sequence[RecordingInput], channels: Sequence[Mapping[str, Any]]
) -> tuple[RoleSource, ...]:
    """Inputs as they feed a chain, in the order of the kind's roles."""
    roles = []
    for role in kind.roles:
        lanes = sorted((one for one in inputs if one.role == role.name), key=lambda one: one.lane)
        if lanes:
            form = role.form(lanes[0].form)
            roles.append(_role_source(role, form, lanes, channels))
    return tuple(roles)


def _role_source(
    role: Role,
    form: Form,
    lanes: Sequence[RecordingInput],
    channels: Sequence[Mapping[str, Any]],
) -> RoleSource:
    scales = [form.scale_of(channels[one.channel]["unit"]) for one in lanes]
    return RoleSource(
        role.name,
        form,
        tuple(one.channel for one in lanes),
        tuple(1.0 if scale is None else scale for scale in scales),
    )
