"""Any wiring at all: right, wrong and foolish."""

from __future__ import annotations

from hypothesis import strategies as st
from tests.core.wiring.rigs import BOARDS, DEVICES

from tickstone.core.families.board_family import BoardFamily
from tickstone.core.wiring.bead import Bead, BeadKind
from tickstone.core.wiring.colours import COLOURS
from tickstone.core.wiring.netlist import Connection, Device, Settings, Wiring

OHMS = (10.0, 150.0, 330.0, 1_800.0, 3_300.0, 4_700.0, 10_000.0, 47_000.0, 1e6)


def parts(board: BoardFamily) -> st.SearchStrategy[Bead]:
    rails = st.sampled_from(["", *(rail.name for rail in board.rails if rail.volts.value > 0.0)])
    ohms = st.sampled_from(OHMS)
    return st.one_of(
        st.builds(lambda ohm: Bead(BeadKind.SERIES, ohm), ohms),
        st.builds(lambda ohm: Bead(BeadKind.PULL_DOWN, ohm), ohms),
        st.builds(lambda ohm, rail: Bead(BeadKind.PULL_UP, ohm, rail=rail), ohms, rails),
        st.just(Bead(BeadKind.CAPACITOR, farad=1e-7, tolerance=0.2)),
        st.just(Bead(BeadKind.PIN_PULL_UP)),
    )


@st.composite
def devices(draw: st.DrawFn, place: int) -> Device:
    family = DEVICES[draw(st.sampled_from(sorted(DEVICES)))]
    address = None
    if family.i2c is not None:
        address = draw(st.sampled_from([None, *family.i2c.addresses]))
    return Device(
        f"d{place}",
        f"device {place}",
        family,
        address,
        draw(st.sampled_from([None, 0.5, 40.0, 5_000.0])),
        draw(st.sampled_from([None, 6.4, 12.6])),
        draw(st.sampled_from([None, 0.0, 0.3, 2.0])),
    )


@st.composite
def wirings(draw: st.DrawFn, most_devices: int = 4) -> Wiring:
    """Each lead goes nowhere, or to any pin or rail, through anything."""
    board = BOARDS[draw(st.sampled_from(sorted(BOARDS)))]
    count = draw(st.integers(1, most_devices))
    chosen = [draw(devices(place)) for place in range(count)]
    ends = [pin.name for pin in board.pins] + [rail.name for rail in board.rails] * 4
    connections = []
    for device in chosen:
        for lead in device.family.leads:
            if draw(st.booleans()):
                connections.append(
                    Connection(
                        device.key,
                        lead.name,
                        draw(st.sampled_from(ends)),
                        tuple(draw(st.lists(parts(board), max_size=3))),
                        draw(st.sampled_from(["", *COLOURS])),
                        draw(st.booleans()),
                    )
                )
    references = [one.name for one in board.converter.references] if board.converter else []
    settings = Settings(
        reference=draw(st.sampled_from(["", *references])),
        bus_hz=draw(st.sampled_from([1e5, 4e5, 2e6])),
        wire_m=draw(st.sampled_from([0.1, 0.5, 4.0])),
        vin_v=draw(st.sampled_from([None, 5.0, 9.0])),
        fires_in_turn=draw(st.booleans()),
        loop_s=draw(st.sampled_from([0.001, 0.05, 1.0])),
    )
    return Wiring(board, tuple(chosen), tuple(connections), settings)
