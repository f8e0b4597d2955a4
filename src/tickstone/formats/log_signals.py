"""A log of any format as the signals that feed a kind's chain, each column in its role."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from tickstone.core.blocks import Block, joined
from tickstone.core.chains.kind import ChainKind, Form, Role
from tickstone.core.lines.names import split_unit
from tickstone.core.signal import FloatArray, Signal, StatusArray
from tickstone.core.status import Status
from tickstone.formats.takes.cells import values_of
from tickstone.formats.takes.header import ChannelInfo, TakeReading

_NO_TIME = "it holds no time; say how many rows there are a second, with --rate-hz"


@dataclass(frozen=True, slots=True)
class RoleColumn:
    """Which column is which input. role: of the kind, or one of the forms of a role.

    column: its name, with its unit or without, or its number among the columns, from 1.
    """

    role: str
    column: str


@dataclass(frozen=True, slots=True)
class LogSignals:
    """What a log gives to a chain. forms: how each input comes. loses: what is lost by that.
    columns: of each input, by lane.
    """

    signals: Mapping[str, Signal]
    forms: Mapping[str, str]
    loses: tuple[str, ...]
    columns: Mapping[str, list[str]]

    @property
    def lanes(self) -> dict[str, int]:
        """In how many lanes each input comes."""
        return {name: len(one.values) for name, one in self.signals.items()}


def log_signals(reading: TakeReading, kind: ChainKind, wanted: Sequence[RoleColumn]) -> LogSignals:
    """Read a log to its end, and take the columns wanted.

    Raises ValueError for a role or column that there is none of, a role given twice, a unit that
    a role does not come in, and a log without rows.
    """
    chosen = [(*_role_of(kind, wanted, one), one) for one in wanted]
    missing = [role for role in kind.roles if role.is_needed and role not in [c[0] for c in chosen]]
    if missing:
        raise ValueError(
            f"no column is given for {missing[0].name} ({missing[0].label}); give "
            f"--input {missing[0].name}=COLUMN, one of {_columns_said(reading)}"
        )
    places = [_place_of(reading, one.column) for _, _, one in chosen]
    blocks = list(reading.blocks)
    if not blocks:
        raise ValueError("no row of it could be read")
    whole = joined(blocks)
    time_s = (whole.time_us - whole.time_us[0]) / 1e6
    if reading.asks_rate:
        time_s = _time_by_gaps(reading, whole, chosen, places)
    lanes: dict[str, list[tuple[FloatArray, StatusArray]]] = {}
    forms: dict[str, Form] = {}
    loses = []
    for (role, stated, one), place in zip(chosen, places, strict=True):
        if place is None:
            form, values, codes, scale = role.form("edges"), np.ones(len(whole)), None, 1.0
        else:
            channel = reading.header.channels[place]
            form = stated or forms.get(role.name) or _likely_form(role, channel)
            scale = _scale(role, form, channel)
            values, codes = values_of(whole, place), whole.status[place]
        status = np.zeros(len(whole), dtype=np.uint8) if codes is None else codes.copy()
        status[np.isnan(values) & (status == Status.OK)] = Status.MISSING
        lanes.setdefault(role.name, []).append((values * scale, status))
        forms[role.name] = form
        if form.loses:
            loses.append(f"“{one.column}” is {form.label}. {form.loses}")
    for name, given in lanes.items():
        if len(given) < kind.role(name).least_lanes:
            raise ValueError(
                f"the input {name} is {kind.role(name).least_lanes} columns of {kind.name}, and "
                f"{len(given)} is given; give --input {name}=COLUMN once for each"
            )
    signals = {
        name: Signal(
            time_s,
            np.stack([values for values, _ in given]),
            np.stack([status for _, status in given]),
            forms[name].in_lanes(len(given)),
        )
        for name, given in lanes.items()
    }
    columns: dict[str, list[str]] = {}
    for role, _, one in chosen:
        columns.setdefault(role.name, []).append(one.column)
    named = {name: form.name for name, form in forms.items()}
    return LogSignals(signals, named, tuple(loses), columns)


def column_signals(reading: TakeReading, columns: Sequence[str]) -> list[tuple[Signal, str]]:
    """Columns of a log as they stand there, each with its unit.

    Raises ValueError for a column that there is none of, and for a log without rows or times.
    """
    places = [_place_of(reading, one) for one in columns]
    blocks = list(reading.blocks)
    if not blocks:
        raise ValueError("no row of it could be read")
    if reading.asks_rate:
        raise ValueError(_NO_TIME)
    whole = joined(blocks)
    time_s = (whole.time_us - whole.time_us[0]) / 1e6
    found = []
    for column, place in zip(columns, places, strict=True):
        if place is None:
            raise ValueError(f"“{column[:60]}” is the time of the rows, and no reading")
        values = values_of(whole, place)
        codes = whole.status[place]
        status = np.zeros(len(whole), dtype=np.uint8) if codes is None else codes.copy()
        status[np.isnan(values) & (status == Status.OK)] = Status.MISSING
        found.append(
            (Signal.of(time_s, values, status=status), reading.header.channels[place].unit)
        )
    return found


def likely_columns(reading: TakeReading, kind: ChainKind) -> list[RoleColumn]:
    """The columns that can be nothing but inputs of this kind; none when two inputs want one."""
    found = []
    for channel in reading.header.channels:
        roles = {role.name for role, _ in kind.inputs_like(channel.quantity, channel.unit)}
        if len(roles) > 1:
            return []
        found += [RoleColumn(role, channel.name) for role in roles]
    most = {role.name: role.most_lanes for role in kind.roles}
    taken = [one.role for one in found]
    return found if all(taken.count(role) <= most[role] for role in taken) else []


def _role_of(
    kind: ChainKind, wanted: Sequence[RoleColumn], one: RoleColumn
) -> tuple[Role, Form | None]:
    """The role, and the form when that was named."""
    taken = [other.role for other in wanted]
    needed = [role for role in kind.roles if role.is_needed and role.name not in taken]
    found: tuple[Role, Form | None] | None = next(
        ((role, None) for role in kind.roles if role.name == one.role and role not in needed), None
    )
    by_form = next(
        ((role, form) for role in needed for form in role.forms if form.name == one.role), None
    )
    found = by_form or found
    if found is None:
        known = [role.name for role in kind.roles]
        known += [form.name for role in kind.roles for form in role.forms]
        raise ValueError(
            f"there is no input “{one.role[:40]}” of {kind.name}; there are "
            + ", ".join(dict.fromkeys(known))
        )
    same = [other for other in wanted if other.role == one.role]
    if len(same) > found[0].most_lanes:
        columns = " and ".join(other.column for other in same)
        raise ValueError(f"the input {one.role} is given twice, as {columns}; give one of them")
    return found


def _time_by_gaps(
    reading: TakeReading,
    whole: Block,
    chosen: Sequence[tuple[Role, Form | None, RoleColumn]],
    places: Sequence[int | None],
) -> FloatArray:
    """Times of a log that holds none, when one of its columns is the gap between two rows."""
    for (role, stated, _), place in zip(chosen, places, strict=True):
        assert place is not None
        channel = reading.header.channels[place]
        form = stated or _likely_form(role, channel)
        if form.is_events and form.quantity.unit == "s":
            gaps: FloatArray = np.nan_to_num(values_of(whole, place)) * _scale(role, form, channel)
            return np.cumsum(np.maximum(gaps, 0.0))
    raise ValueError(_NO_TIME)


def _place_of(reading: TakeReading, column: str) -> int | None:
    """The channel's place; None for the times themselves. Raises ValueError."""
    channels = reading.header.channels
    name, unit = split_unit(column)
    for wanted in (column, name):
        for place, channel in enumerate(channels):
            if channel.name == wanted and (wanted == column or channel.unit == unit):
                return place
    if column == reading.time_column or (name == reading.time_column and name):
        return None
    if column.isdigit() and 1 <= int(column) <= len(channels):
        return int(column) - 1
    raise ValueError(f"there is no column “{column[:60]}”; there are {_columns_said(reading)}")


def _columns_said(reading: TakeReading) -> str:
    names = [channel.name for channel in reading.header.channels]
    if reading.time_column:
        names.append(f"{reading.time_column} (its time)")
    return ", ".join(names)


def _likely_form(role: Role, channel: ChannelInfo) -> Form:
    """How a column most likely comes: by what it is guessed to be, then by its unit."""
    for form in role.forms:
        if form.may_be(channel.quantity, channel.unit) and form.scale_of(channel.unit) is not None:
            return form
    for form in role.forms:
        if channel.unit and form.scale_of(channel.unit) is not None:
            return form
    if channel.unit:
        known = sorted({unit for form in role.forms for unit in form.units if unit})
        raise ValueError(
            f"“{channel.name}” is in {channel.unit}, which {role.label} never comes in; it comes "
            f"in {', '.join(known)}, or without a unit"
        )
    return role.forms[0]


def _scale(role: Role, form: Form, channel: ChannelInfo) -> float:
    scale = form.scale_of(channel.unit)
    if scale is not None:
        return scale
    if not channel.unit:
        return next(iter(form.units.values()))
    raise ValueError(
        f"“{channel.name}” is in {channel.unit}; {role.label} as {form.label} comes in "
        + (", ".join(unit for unit in form.units if unit) or "no unit")
    )
