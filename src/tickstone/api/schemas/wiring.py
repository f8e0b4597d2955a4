"""The wiring of a rig: what goes where, what is found, what to do, and what it takes."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from pydantic import ConfigDict, Field, StringConstraints

from tickstone.api.schemas.base import Answer, Body, Name
from tickstone.api.schemas.rig import StoneOut
from tickstone.core.families.board_family import Ability, PinUse, RailKind
from tickstone.core.families.device_family import DeviceKind, Role
from tickstone.core.families.part import Part, PartKind
from tickstone.core.wiring.bead import Bead, BeadKind
from tickstone.core.wiring.netlist import (
    MOST_BEADS,
    MOST_JOINTS,
    MOST_PARTS,
    MOST_SUPPLIES,
    Connection,
    Settings,
)
from tickstone.core.wiring.power_supply import Chemistry, PowerSupply
from tickstone.core.wiring.steps import Phase

Short = Annotated[str, StringConstraints(max_length=120, pattern=r"^[^\x00-\x1f\x7f]*$")]
Revision = Annotated[int | None, Field(default=None, ge=0)]


class BeadIn(Body):
    """A part on a wire, in order from the device to the board."""

    kind: BeadKind
    ohm: float | None = None
    farad: float | None = None
    rail: Short = ""
    tolerance: float = 0.05
    power_w: float = 0.25

    def bead(self) -> Bead:
        """As the core takes it. Raises ValueError naming the field."""
        return Bead(**self.model_dump())


class ConnectionIn(Body):
    """Where a lead goes. device: number of the sensor."""

    device: int = Field(ge=1)
    lead: Short
    to: Short
    beads: list[BeadIn] = Field(default_factory=list, max_length=MOST_BEADS)
    colour: Short = ""
    is_fixed: bool = False

    def connection(self) -> Connection:
        """As the core takes it."""
        beads = tuple(bead.bead() for bead in self.beads)
        return Connection(str(self.device), self.lead, self.to, beads, self.colour, self.is_fixed)


class SettingsIn(Body):
    """What the rig as a whole decides; see the core's Settings."""

    reference: Short = ""
    bus_hz: float = 100_000.0
    wire_m: float = 0.3
    vin_v: float | None = None
    fires_in_turn: bool = False

    def settings(self) -> Settings:
        """As the core takes it. Raises ValueError naming the field."""
        return Settings(**self.model_dump())


class PartIn(Body):
    """A part with legs of its own; see the core's Part. ends: what each of its legs goes to."""

    key: Name
    kind: PartKind
    ends: dict[Short, Short] = Field(max_length=3)
    ohm: float | None = None
    farad: float | None = None
    tolerance: float = 0.05
    power_w: float | None = None
    forward_v: float | None = None
    max_a: float | None = None
    gain: float | None = None
    threshold_v: float | None = None
    least_ohm: float | None = None
    most_ohm: float | None = None
    output_v: float | None = None
    dropout_v: float | None = None

    def part(self) -> Part:
        """As the core takes it. Raises ValueError naming the field."""
        return Part(**self.model_dump())


class PowerSupplyIn(Body):
    """A supply of the person's own; see the core's PowerSupply."""

    key: Name
    name: Short = ""
    least_v: float | None = None
    usual_v: float | None = None
    greatest_v: float | None = None
    cells: int | None = None
    chemistry: Chemistry | None = None
    limit_a: float | None = None
    inner_ohm: float | None = None
    has_common_ground: bool = True

    def supply(self) -> PowerSupply:
        """As the core takes it. Raises ValueError naming the field."""
        return PowerSupply(**self.model_dump())


class OpenLeadIn(Body):
    """A lead that is left open on purpose. device: number of the sensor."""

    device: int = Field(ge=1)
    lead: Short


class WiringIn(Body):
    """The whole wiring. revision: of the wiring it replaces; refused when that has moved on.

    supplies, joints, parts, left_open: left out, they stay. Places of leads are called by the
    number of their sensor, such as `12.OUT`.
    """

    model_config = ConfigDict(
        json_schema_extra={
            "examples": [{"connections": [{"device": 1, "lead": "VCC", "to": "5V"}]}]
        }
    )

    revision: Revision
    connections: list[ConnectionIn] = Field(max_length=5_000)
    settings: SettingsIn | None = None
    supplies: list[PowerSupplyIn] | None = Field(default=None, max_length=MOST_SUPPLIES)
    joints: list[Name] | None = Field(default=None, max_length=MOST_JOINTS)
    parts: list[PartIn] | None = Field(default=None, max_length=MOST_PARTS)
    left_open: list[OpenLeadIn] | None = Field(default=None, max_length=5_000)


class ProposeIn(Body):
    """again: choose anew for everything that is not fixed."""

    model_config = ConfigDict(json_schema_extra={"examples": [{"again": False}]})

    revision: Revision
    again: bool = False


class RepairIn(Body):
    """key: of the finding to mend; `*` for all that can be. remedy: which of those it offers."""

    model_config = ConfigDict(json_schema_extra={"examples": [{"key": "*"}]})

    revision: Revision
    key: Annotated[str, StringConstraints(min_length=1, max_length=4_000)]
    remedy: int = Field(default=0, ge=0, le=100)


class TickIn(Body):
    """How far a step of the list is. Left-out fields stay."""

    model_config = ConfigDict(json_schema_extra={"examples": [{"key": "off", "done": True}]})

    key: Annotated[str, StringConstraints(min_length=1, max_length=300)]
    done: bool | None = None
    seen: bool | None = None
    measured_v: float | None = Field(default=None, ge=-100, le=100)
    skipped_why: Annotated[str, StringConstraints(strip_whitespace=True, max_length=200)] | None = (
        None
    )


class SignIn(Body):
    """Who wired it, and who looked it over; or one person alone, with a note that says so."""

    model_config = ConfigDict(
        json_schema_extra={"examples": [{"wired_by": "Ada", "looked_by": "Ben", "wires": True}]}
    )

    wired_by: Name
    looked_by: Name | None = None
    alone_why: Annotated[str, StringConstraints(strip_whitespace=True, max_length=200)] = Field(
        default="", description="Why nobody else looked it over, when nobody did."
    )
    wires: bool = Field(
        default=False,
        description="Tick the wires that are left as done and seen. What only a person at the "
        "bench can vouch for, and what is measured, is never ticked with others.",
    )


class WiringFileIn(Body):
    """A wiring as JSON, or a netlist as CSV, as text."""

    model_config = ConfigDict(
        json_schema_extra={"examples": [{"text": "device,lead,to\r\nFront ranger,VCC,5V\r\n"}]}
    )

    text: Annotated[str, StringConstraints(min_length=1, max_length=4_000_000)]


class BeadOut(BeadIn, Answer):
    """A part with its words and, for a resistor, its bands."""

    model_config = ConfigDict(
        from_attributes=True, json_schema_serialization_defaults_required=True, extra="ignore"
    )

    words: str
    bands: list[str] = Field(default_factory=list)


class EndOut(Answer):
    """Where a lead goes. colour: as chosen; shown_colour: the usual one when none was."""

    to: str
    beads: list[BeadOut]
    colour: str
    shown_colour: str
    is_fixed: bool


class LeadOut(Answer):
    """A lead. wants: what its pin has to be able to do; empty for one that goes to a rail."""

    name: str
    labels: list[str]
    role: Role
    role_words: str
    wants: list[Ability]
    is_optional: bool
    end: EndOut | None


class WiredDeviceOut(Answer):
    """A device with its leads, what was said of it, and its Wired stone.

    asks: what of address, pulses, full charge and facing matters for it.
    """

    id: int
    name: str
    family: str
    family_label: str
    kind: DeviceKind
    place: str
    leads: list[LeadOut]
    asks: list[str]
    addresses: list[int]
    address: int | None
    pulse_hz: float | None
    full_charge_v: float | None
    facing_rad: float | None
    wired: StoneOut


class PinStateOut(Answer):
    """Volts and amps at a pin in one state. when: in words. amps: what the pin drives, signed out.

    low_v, usual_v, high_v: null where nothing holds the pin.
    """

    when: str
    low_v: float | None
    usual_v: float | None
    high_v: float | None
    amps: float | None


class PinOut(Answer):
    """A pin of the board, who ends on it, and its volts in every state."""

    name: str
    abilities: list[Ability]
    use: PinUse
    caution: str
    used_by: list[str]
    states: list[PinStateOut]


class DrawOut(Answer):
    """One consumer of a rail, A."""

    name: str
    usual_a: float
    peak_a: float


class RailOut(Answer):
    """A rail and what is drawn from it, A."""

    name: str
    kind: RailKind
    volts: float
    limit_a: float | None
    usual_a: float
    peak_a: float
    draws: list[DrawOut]


class NumberOut(Answer):
    """A number a finding rests on. text: as a person reads it."""

    name: str
    value: float
    unit: str
    text: str


class SpotOut(Answer):
    """A place in the wiring. device: number of the sensor. part: key of a part or supply."""

    device: int | None
    lead: str
    pin: str
    part: str


class WiringFindingOut(Answer):
    """What a check found. happens: what comes of it. repair: what one press would do, or null.

    remedies: all that one press each would do, the best first. buy: what to get where none does.
    """

    key: str
    id: str
    severity: str
    happens: str
    where: str
    message: str
    why: str
    source: str
    numbers: list[NumberOut]
    spots: list[SpotOut]
    repair: str | None
    remedies: list[str]
    buy: str


class TrialOut(Answer):
    """What another wiring would come to. fresh: findings that are new. gone: those that would not
    stand any more, in words.
    """

    fresh: list[WiringFindingOut]
    gone: list[str]
    pins: list[PinOut]


class WiringStepOut(Answer):
    """A line of the wiring list. low_v, high_v: what has to be measured, for a test point."""

    key: str
    phase: Phase
    heading: str
    text: str
    device: int | None
    lead: str
    colour: str
    caution: str
    needs_second: bool
    is_by_hand: bool
    low_v: float | None
    high_v: float | None
    done: bool
    seen: bool
    measured_v: float | None
    skipped_why: str
    passes: bool | None
    is_complete: bool


class BillLineOut(Answer):
    """A line of the bill of materials."""

    count: int
    what: str
    detail: str
    bands: list[str]
    used_at: list[str]


class BoardOut(Answer):
    """The rig's board."""

    name: str
    label: str
    what: str
    logic_v: float
    references: list[str]


class WiringSignatureOut(Answer):
    """Whose word a wiring rests on. devices: by name, those it holds for."""

    note: str
    at: datetime
    devices: list[str]


class PartOut(PartIn, Answer):
    """A part with its words."""

    model_config = ConfigDict(
        from_attributes=True, json_schema_serialization_defaults_required=True, extra="ignore"
    )

    words: str


class PowerSupplyOut(PowerSupplyIn, Answer):
    """A supply with its words, its ends as places, and its volts."""

    model_config = ConfigDict(
        from_attributes=True, json_schema_serialization_defaults_required=True, extra="ignore"
    )

    words: str
    plus: str
    minus: str
    volts: list[float]


class PlaceOut(Answer):
    """A place a wire or a leg can go to. words: as a person calls it. group: what kind it is."""

    name: str
    words: str
    group: str


class ProgramNamesOut(Answer):
    """The pins of one device as a program names them, such as `TRIG = 7, ECHO = 8`."""

    device: str
    line: str


class ProgramLinesOut(Answer):
    """What a program has to know of the wiring. switches: what to switch on or say.

    cautions: what it must not do.
    """

    names: list[ProgramNamesOut]
    switches: list[str]
    cautions: list[str]


class WiringOut(Answer):
    """Everything about a rig's wiring. board: null until one is chosen."""

    rig_id: int
    rig_name: str
    revision: int
    board: BoardOut | None
    settings: SettingsIn
    pins: list[PinOut]
    rails: list[RailOut]
    devices: list[WiredDeviceOut]
    findings: list[WiringFindingOut]
    steps: list[WiringStepOut]
    bill: list[BillLineOut]
    colours: list[str]
    supplies: list[PowerSupplyOut]
    joints: list[str]
    parts: list[PartOut]
    left_open: list[OpenLeadIn]
    places: list[PlaceOut]
    program: ProgramLinesOut
    loose: int
    unsigned: int
    signatures: list[WiringSignatureOut]


class ProposalOut(Answer):
    """The wiring as proposed and saved. impossible: why some leads got no pin, or empty."""

    wiring: WiringOut
    impossible: str
