"""A whole wiring as JSON: board, devices, connections, settings. Stands by itself."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Literal, TypeVar

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError

from tickstone.core.families.board_family import BoardFamily
from tickstone.core.families.device_family import DeviceFamily
from tickstone.core.families.part import Part
from tickstone.core.wiring.netlist import (
    MOST_DEVICES,
    MOST_JOINTS,
    MOST_PARTS,
    MOST_SUPPLIES,
    Connection,
    Device,
    Settings,
    Wiring,
)
from tickstone.core.wiring.power_supply import PowerSupply
from tickstone.formats.family_file import BOARD_FILES, DEVICE_FILES, check_no_controls, said

Kind = TypeVar("Kind", BoardFamily, DeviceFamily)
LARGEST_BYTES = 4 * 1024 * 1024
FORMAT = "tickstone-wiring"


class DeviceEntry(BaseModel):
    """A device in a file. family: the name of a known one, or the whole description.

    SI: Hz, V, rad.
    """

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    key: str = Field(min_length=1, max_length=120)
    name: str = Field(default="", max_length=120)
    family: str | DeviceFamily
    address: int | None = None
    pulse_hz: float | None = None
    full_charge_v: float | None = None
    facing_rad: float | None = None


class LeadEntry(BaseModel):
    """A lead of a device in the file."""

    model_config = ConfigDict(extra="forbid")

    device: str
    lead: str


class WiringDocument(BaseModel):
    """The file. board: the name of a known board family, or the whole description.

    Version 2 has supplies, joints, parts and leads left open besides; version 1 none of them.
    """

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False, title="Tick Stone wiring")

    format: Literal["tickstone-wiring"] = "tickstone-wiring"
    version: Literal[1, 2] = 1
    name: str = Field(default="", max_length=120)
    board: str | BoardFamily
    devices: list[DeviceEntry] = Field(default_factory=list, max_length=MOST_DEVICES)
    connections: list[Connection] = Field(default_factory=list, max_length=5_000)
    settings: Settings = Settings()
    measured: dict[str, float] = Field(default_factory=dict)
    supplies: list[PowerSupply] = Field(default_factory=list, max_length=MOST_SUPPLIES)
    joints: list[str] = Field(default_factory=list, max_length=MOST_JOINTS)
    parts: list[Part] = Field(default_factory=list, max_length=MOST_PARTS)
    left_open: list[LeadEntry] = Field(default_factory=list, max_length=5_000)


def read_wiring(
    raw: str | bytes,
    boards: Mapping[str, BoardFamily],
    devices: Mapping[str, DeviceFamily],
) -> Wiring:
    """The wiring a file describes; families it only names are looked up in `boards`, `devices`.

    Raises ValueError naming the field or lead that does not do.
    """
    if len(raw) > LARGEST_BYTES:
        raise ValueError(f"a wiring of over {LARGEST_BYTES // 1024 // 1024} MB is none")
    check_no_controls(raw)
    try:
        document = WiringDocument.model_validate_json(raw)
    except ValidationError as error:
        raise ValueError(_plainer(said(error))) from error
    board = document.board
    if isinstance(board, str):
        board = _known(boards, board, "board", "board family")
    return Wiring(
        board,
        tuple(_device(entry, devices, place) for place, entry in enumerate(document.devices)),
        tuple(document.connections),
        document.settings,
        document.measured,
        tuple(document.supplies),
        tuple(document.joints),
        tuple(document.parts),
        tuple((one.device, one.lead) for one in document.left_open),
    )


def _device(entry: DeviceEntry, known: Mapping[str, DeviceFamily], place: int) -> Device:
    family = entry.family
    if isinstance(family, str):
        family = _known(known, family, f"devices[{place}].family", "device family")
    return Device(
        entry.key,
        entry.name or entry.key,
        family,
        entry.address,
        entry.pulse_hz,
        entry.full_charge_v,
        entry.facing_rad,
    )


def _known(known: Mapping[str, Kind], name: str, where: str, word: str) -> Kind:
    if name not in known:
        raise ValueError(f"{where}: there is no {word} “{name[:60]}”; known: {', '.join(known)}")
    return known[name]


def _plainer(text: str) -> str:
    """Without the names of the alternatives a field was tried as."""
    return text.replace(".str: ", ": ").replace(".BoardFamily", "").replace(".DeviceFamily", "")


def wiring_document(wiring: Wiring, name: str, shipped: frozenset[str]) -> dict[str, Any]:
    """The wiring as JSON values. shipped: names of families that need not be written out."""
    board: Any = BOARD_FILES.document(wiring.board)
    connections = TypeAdapter(tuple[Connection, ...])
    settings = TypeAdapter(Settings)
    circuit = circuit_document(wiring)
    return {
        "format": FORMAT,
        "version": 2 if circuit else 1,
        "name": name,
        "board": wiring.board.name if wiring.board.name in shipped else board,
        "devices": [_entry(device, shipped) for device in wiring.devices],
        "connections": connections.dump_python(
            wiring.connections, mode="json", exclude_defaults=True
        ),
        "settings": settings.dump_python(wiring.settings, mode="json", exclude_defaults=True),
        "measured": dict(wiring.measured),
        **circuit,
    }


def circuit_document(wiring: Wiring) -> dict[str, Any]:
    """What a wiring has besides wires from leads to the board, as JSON values; empty for none."""
    supplies = TypeAdapter(tuple[PowerSupply, ...])
    parts = TypeAdapter(tuple[Part, ...])
    found: dict[str, Any] = {
        "supplies": supplies.dump_python(wiring.supplies, mode="json", exclude_defaults=True),
        "joints": list(wiring.joints),
        "parts": parts.dump_python(wiring.parts, mode="json", exclude_defaults=True),
        "left_open": [{"device": one, "lead": lead} for one, lead in wiring.left_open],
    }
    return {name: value for name, value in found.items() if value}


def _entry(device: Device, shipped: frozenset[str]) -> dict[str, Any]:
    family: Any = device.family.name
    if device.family.name not in shipped:
        family = DEVICE_FILES.document(device.family)
    entry = {
        "key": device.key,
        "name": device.name,
        "family": family,
        "address": device.address,
        "pulse_hz": device.pulse_hz,
        "full_charge_v": device.full_charge_v,
        "facing_rad": device.facing_rad,
    }
    return {name: value for name, value in entry.items() if value is not None}


def wiring_schema() -> dict[str, Any]:
    """The JSON Schema of the file."""
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        **WiringDocument.model_json_schema(),
    }
