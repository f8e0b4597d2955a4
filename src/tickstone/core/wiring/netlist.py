"""The netlist: a board, devices, and for each lead where it goes and through what."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from typing import Any, ClassVar

from tickstone.core.families.board_family import BoardFamily
from tickstone.core.families.device_family import DeviceFamily
from tickstone.core.families.figure import STRICT, check_label, check_unlike
from tickstone.core.families.part import Part
from tickstone.core.wiring.bead import Bead
from tickstone.core.wiring.colours import COLOURS
from tickstone.core.wiring.power_supply import PowerSupply

MOST_DEVICES = 60
MOST_BEADS = 6
MOST_PARTS = 150
MOST_JOINTS = 400
MOST_SUPPLIES = 12
END = tuple[str, str]
"""A lead of a device: the device's key and the lead's name."""


@dataclass(frozen=True, slots=True)
class Connection:
    """One wire. to: any place; see `Wiring`. is_fixed: the person wants it just there.

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
    """Everything the checks look at.

    A wire starts at a lead and goes to a place: a pin or a rail of the board, an end of a supply
    (`KEY+`, `KEY-`), a joint, or another device's lead (`DEVICE.LEAD`). The legs of parts go to
    places too. joints: names of places where wires and legs meet. left_open: leads that go nowhere
    on purpose. measured: volts written down, by test point.

    Raises ValueError naming the lead, part or field that does not fit: an unknown device, lead,
    place, colour or reference, a lead that goes to two places, or too much of anything.
    """

    board: BoardFamily
    devices: tuple[Device, ...] = ()
    connections: tuple[Connection, ...] = ()
    settings: Settings = Settings()
    measured: Mapping[str, float] = field(default_factory=dict, hash=False)
    supplies: tuple[PowerSupply, ...] = ()
    joints: tuple[str, ...] = ()
    parts: tuple[Part, ...] = ()
    left_open: tuple[END, ...] = ()

    def __post_init__(self) -> None:
        for what, count, most in (
            ("devices", len(self.devices), MOST_DEVICES),
            ("parts", len(self.parts), MOST_PARTS),
            ("joints", len(self.joints), MOST_JOINTS),
            ("supplies", len(self.supplies), MOST_SUPPLIES),
        ):
            if count > most:
                raise ValueError(f"{what}: a rig has {most} {what} at most, not {count}")
        known: dict[str, Device] = {}
        for device in self.devices:
            if device.key in known:
                raise ValueError(f"the device “{device.key}” stands there twice")
            known[device.key] = device
            check_device(device)
        places = self._checked_places()
        seen: set[END] = set()
        for connection in self.connections:
            _check_connection(self.board, known, connection, places)
            if connection.end in seen:
                name = known[connection.device].name
                raise ValueError(f"{name} {connection.lead} goes to two places; give it one")
            seen.add(connection.end)
        for part in self.parts:
            for leg, place in part.ends.items():
                if place not in places:
                    raise ValueError(
                        f"ends: the {leg} of {part.key} goes to “{place[:60]}”, which there is not"
                    )
        for end in self.left_open:
            _check_end(known, *end)
            if end in seen:
                name = known[end[0]].name
                raise ValueError(
                    f"left_open: {name} {end[1]} is left open on purpose, yet a wire is on it"
                )
        _check_reference(self.board, self.settings.reference)

    def _checked_places(self) -> set[str]:
        """All places there are. Raises ValueError when two have the same name."""
        for joint in self.joints:
            check_label("a joint’s name", joint)
        own = [place for one in self.supplies for place in (one.plus, one.minus)]
        board = [pin.name for pin in self.board.pins] + [rail.name for rail in self.board.rails]
        leads = [place_of(one.key, lead.name) for one in self.devices for lead in one.family.leads]
        check_unlike("the part", [part.key for part in self.parts])
        check_unlike("the place", [*board, *own, *self.joints, *leads])
        return {*board, *own, *self.joints, *leads}

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
        open_still = tuple(end for end in self.left_open if end not in {one.end for one in changed})
        return replace(self, connections=(*kept, *new.values()), left_open=open_still)


def place_of(device: str, lead: str) -> str:
    """A lead as a place.

    >>> place_of("lamp", "K")
    'lamp.K'
    """
    return f"{device}.{lead}"


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


def _check_end(known: Mapping[str, Device], key: str, lead: str) -> Device:
    """The device of a lead. Raises ValueError when there is no such lead."""
    device = known.get(key)
    if device is None:
        raise ValueError(f"device: there is no “{key[:60]}” on this rig")
    if device.family.lead(lead) is None:
        leads = ", ".join(one.name for one in device.family.leads)
        raise ValueError(f"lead: {device.name} has no lead “{lead[:60]}”; it has {leads}")
    return device


def _check_connection(
    board: BoardFamily, known: Mapping[str, Device], one: Connection, places: set[str]
) -> None:
    device = _check_end(known, one.device, one.lead)
    where = f"{device.name} {one.lead}"
    if one.to not in places:
        raise ValueError(
            f"to: {where} goes to “{one.to[:60]}”, which a {board.label} does not have, "
            "nor is it a joint, an end of a supply or a lead"
        )
    if one.to == place_of(one.device, one.lead):
        raise ValueError(f"to: {where} goes to itself")
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
