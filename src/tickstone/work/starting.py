"""What a new sensor is set to before anybody has said anything."""

from __future__ import annotations

from typing import Any

from tickstone.core.chains import CHAINS
from tickstone.core.families.board_family import BoardFamily
from tickstone.core.families.device_family import DeviceFamily
from tickstone.core.inputs import inputs_of


def starts_with(family: DeviceFamily, board: BoardFamily | None) -> dict[str, Any]:
    """Parameters that follow from the board: what its converter compares with when none is chosen.

    Only what differs from what the kind starts with.
    """
    kind = CHAINS.get(family.chain)
    if kind is None or board is None or board.converter is None:
        return {}
    reference_v = board.converter.references[0].volts.value
    asked = {one.name: one.default for one in inputs_of(kind.parameters)}
    if asked.get("reference_v", reference_v) == reference_v:
        return {}
    return {"reference_v": reference_v}
