"""The netlist: a board, devices, and for each lead where it goes and through what."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from typing import Any, ClassVar

from tickstone.core.families.board_family import BoardFamily
from tickstone.core.families.device_family import DeviceFamily
from tickstone.core.families.figure import STRICT
from tickstone.core.wiring.bead import Bead
from tickstone.core.wiring.colours import COLOURS

MOST_DEVICES = 60
MOST_BEADS = 6
END = tuple[str, str]
"""A lead of a device: the device's key and the lead's name."""


@dataclass(frozen=True, slots=True)
class Connection:
    """One wire. to: a pin or a rail of the board. is_fixed: the person wants it just there.

    colour: one of COLOURS, or empty for the usual one.
    """

    __pydantic_config__: ClassVar[dict[str, Any]] = STRICT

    device: str
    lead: str
    to: str
    beads: tuple[Bead, ...] = ()
    colour: str = ""
    is_fixed: bool = False

    @property
    def end(self) -> END:
        """The lead it starts from."""
        return (self.device, self.lead)

    @property
    def words(self) -> str:
        """Where it goes and through what: what a sign-off rests on."""
        return ", ".join((self.to, *(bead.words for bead in self.beads)))


@dataclass(frozen=True, slots=True)
class Device:
    """One device on the rig. key: short and its own. name: as the person calls it.

    address: on the I²C bus, when not the family's first. pulse_hz: fastest it will pulse.
    full_charge_v: of the battery a divider measures. facing_rad: where it looks, 0 ahead, left
    positive.
    """

    key: str
    name: str
    family: DeviceFamily
    address: int | None = None
    pulse_hz: float | None = None
    full_charge_v: float | None = None
    facing_rad: float | None = None


@dataclass(frozen=True, slots=True)
class Settings:
    """What the rig as a whole decides.

    reference: name of the converter's, empty for its first. bus_hz: the I²C clock. wire_m: usual
    length of a wire. vin_v: what feeds the rail the person feeds. fires_in_turn: rangers never
    ping at once. loop_s: one turn of the program, for what is polled.
    """

    __pydantic_config__: ClassVar[dict[str, Any]] = STRICT

    reference: str = ""
    bus_hz: float = 100_000.0
    wire_m: float = 0.3
    vin_v: float | None = None
    fires_in_turn: bool = False
    loop_s: float = 0.05

    def __post_init__(self) -> None:
        for what, value, low, high in (
            ("bus_hz", self.bus_hz, 1_000.0, 5e6),
            ("wire_m", self.wire_m, 0.0, 20.0),
            ("vin_v", self.vin_v, 0.5, 60.0),
            ("loop_s", self.loop_s, 1e-5, 60.0),
        ):
            if value is not None and not low <= value <= high:
                raise ValueError(f"{what}: {value:g} is outside {low:g} to {high:g}")


@dataclass(frozen=True, slots=True)
class Wiring:
    """Everything the checks look at. measured: volts written down, by test point.

    Raises ValueError naming the lead or field that does not fit: an unknown device, lead, pin,
    rail, colour or reference, or a lead that goes to two places.
    """

    board: BoardFamily
    devices: tuple[Device, ...] = ()
    connections: tuple[Connection, ...] = ()
    settings: Settings = Settings()
    measured: Mapping[str, float] = field(default_factory=dict)

    def __post_init__(self) -> None:
        if len(self.devices) > MOST_DEVICES:
            raise ValueError(f"a rig has {MOST_DEVICES} devices at most, not {len(self.devices)}")
        known: dict[str, Device] = {}
        for device in self.devices:
            if device.key in known:
                raise ValueError(f"the device “{device.key}” stands there twice")
            known[device.key] = device
            check_device(device)
        seen: set[END] = set()
        for connection in self.connections:
            _check_connection(self.board, known, connection)
            if connection.end in seen:
                name = known[connection.device].name
                raise ValueError(f"{name} {connection.lead} goes to two places; give it one")
            seen.add(connection.end)
        _check_reference(self.board, self.settings.reference)

    def at(self, device: str, lead: str) -> Connection | None:
        """The connection of a lead, or None."""
        return next((one for one in self.connections if one.end == (device, lead)), None)

    def with_connections(
        self, changed: Iterable[Connection], without: Iterable[END] = ()
    ) -> Wiring:
        """The same with some leads going elsewhere, and some nowhere."""
        new = {one.end: one for one in changed}
        gone = {*without} - {*new}
        kept = [new.pop(one.end, one) for one in self.connections if one.end not in gone]
        return replace(self, connections=(*kept, *new.values()))


def check_device(device: Device) -> None:
    """Raises ValueError naming what was said of a device that cannot be."""
    family, name = device.family, device.name
    if not device.key or len(device.key) > 120:
        raise ValueError(f"the key of “{name[:60]}” needs 1 to 120 characters")
    if device.address is not None:
        if family.i2c is None:
            raise ValueError(f"address: {name} is not on an I²C bus")
        if device.address not in family.i2c.addresses:
            possible = ", ".join(f"{one:#04x}" for one in family.i2c.addresses)
            raise ValueError(f"address: {name} can be {possible}, not {device.address:#04x}")
    for what, value, low, high in (
        ("pulse_hz", device.pulse_hz, 0.0, 1e7),
        ("full_charge_v", device.full_charge_v, 0.5, 60.0),
        ("facing_rad", device.facing_rad, -6.3, 6.3),
    ):
        if value is not None and not low <= value <= high:
            raise ValueError(f"{what}: {value:g} of {name} is outside {low:g} to {high:g}")


def _check_connection(board: BoardFamily, known: dict[str, Device], one: Connection) -> None:
    device = known.get(one.device)
    if device is None:
        raise ValueError(f"device: there is no “{one.device[:60]}” on this rig")
    if device.family.lead(one.lead) is None:
        leads = ", ".join(lead.name for lead in device.family.leads)
        raise ValueError(f"lead: {device.name} has no lead “{one.lead[:60]}”; it has {leads}")
    where = f"{device.name} {one.lead}"
    if board.pin(one.to) is None and board.rail(one.to) is None:
        raise ValueError(
            f"to: {where} goes to “{one.to[:60]}”, which a {board.label} does not have"
        )
    if len(one.beads) > MOST_BEADS:
        raise ValueError(f"beads: {where} has {len(one.beads)} parts; {MOST_BEADS} at most")
    for bead in one.beads:
        if bead.rail and board.rail(bead.rail) is None:
            raise ValueError(
                f"rail: a part of {where} goes to “{bead.rail[:60]}”, no rail of this board"
            )
    if one.colour and one.colour not in COLOURS:
        raise ValueError(f"colour: {where} is “{one.colour[:60]}”; known: {', '.join(COLOURS)}")


def _check_reference(board: BoardFamily, name: str) -> None:
    if not name:
        return
    known = [one.name for one in board.converter.references] if board.converter else []
    if name not in known:
        raise ValueError(
            f"reference: “{name[:60]}” is not this board’s ({', '.join(known) or 'it has none'})"
        )
