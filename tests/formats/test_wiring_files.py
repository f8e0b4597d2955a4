"""Wirings as JSON and CSV: out and back the same, and bad files that name what is wrong."""

from __future__ import annotations

import csv
import io
import json
from typing import Any

import jsonschema
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scripts.update_schemas import FOLDER

from tickstone.core.wiring.bead import Bead, BeadKind
from tickstone.core.wiring.bill import bill_of_materials
from tickstone.core.wiring.netlist import Wiring
from tickstone.demo.wirings import DEMO_WIRINGS, wiring_text
from tickstone.formats.bill_csv import bill_csv
from tickstone.formats.family_file import shipped_boards, shipped_devices
from tickstone.formats.netlist_csv import bead_text, netlist_csv, read_beads, read_netlist_csv
from tickstone.formats.safe_csv import guarded, unguarded
from tickstone.formats.wiring_file import read_wiring, wiring_document

BOARDS, DEVICES = shipped_boards(), shipped_devices()
SHIPPED = frozenset([*BOARDS, *DEVICES])


def demo(name: str = "bramble") -> Wiring:
    return read_wiring(wiring_text(name), BOARDS, DEVICES)


@pytest.mark.parametrize("name", DEMO_WIRINGS)
@pytest.mark.parametrize("known", [SHIPPED, frozenset()], ids=["by name", "written out"])
def test_json_out_and_back_is_the_same(name: str, known: frozenset[str]) -> None:
    document = wiring_document(demo(name), name, known)
    schema = json.loads((FOLDER / "wiring.schema.json").read_text(encoding="utf-8"))
    jsonschema.validate(document, schema, cls=jsonschema.Draft202012Validator)
    boards, devices = (BOARDS, DEVICES) if known else ({}, {})
    assert read_wiring(json.dumps(document), boards, devices) == demo(name)


@pytest.mark.parametrize("name", DEMO_WIRINGS)
def test_csv_out_and_back_is_the_same(name: str) -> None:
    assert read_netlist_csv(netlist_csv(demo(name)), demo(name)) == demo(name).connections


beads = st.one_of(
    st.builds(
        lambda kind, ohm, percent, power: Bead(kind, ohm, tolerance=percent / 100, power_w=power),
        st.sampled_from([BeadKind.SERIES, BeadKind.PULL_DOWN]),
        st.sampled_from([0.5, 47.0, 1_800.0, 4_700.0, 2.2e6]),
        st.sampled_from([1, 5, 10]),
        st.sampled_from([0.125, 0.25, 2.0]),
    ),
    st.builds(
        lambda rail, ohm: Bead(BeadKind.PULL_UP, ohm, rail=rail),
        st.sampled_from(["", "3V3", "AUX 5 V", "12V; raw", "the cat's", 'say "hey"', "to", "5%"]),
        st.floats(0.1, 1e8),
    ),
    st.builds(
        lambda farad: Bead(BeadKind.CAPACITOR, farad=farad, tolerance=0.2),
        st.one_of(st.sampled_from([1e-12, 1e-7, 4.7e-6]), st.floats(1e-13, 0.1)),
    ),
    st.just(Bead(BeadKind.PIN_PULL_UP)),
)


@given(st.lists(beads, max_size=6))
def test_any_parts_read_back_from_their_words(parts: list[Bead]) -> None:
    assert read_beads("; ".join(bead_text(bead) for bead in parts)) == tuple(parts)


@given(st.text(max_size=30))
def test_no_cell_runs_as_a_formula_and_all_come_back(text: str) -> None:
    assert not guarded(text).startswith(("=", "+", "-", "@", "\t", "\r"))
    assert unguarded(guarded(text)) == text


def test_the_bill_is_a_table() -> None:
    rows = list(csv.DictReader(io.StringIO(bill_csv(bill_of_materials(demo())))))
    assert sum(int(row["count"]) for row in rows if row["what"].startswith("resistor")) == 3
    assert any(row["bands"] == "yellow violet red gold" for row in rows)


def changed(**fields: Any) -> str:
    return json.dumps({**json.loads(wiring_text("pipit")), **fields})


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "invalid JSON"),
        ("[]", "input should be an object"),
        (changed(board="mainframe"), "board: there is no board family “mainframe”"),
        (changed(version=3), "version: input should be 1 or 2"),
        (changed(extra=1), "extra: extra inputs"),
        (
            changed(devices=[{"key": "x", "family": "abacus"}], connections=[]),
            r"devices\[0\].family: there is no device family “abacus”",
        ),
        (
            changed(connections=[{"device": "Side ranger", "lead": "ECO", "to": "GP3"}]),
            "lead: Side ranger has no lead “ECO”",
        ),
        (
            changed(connections=[{"device": "Side ranger", "lead": "ECHO", "to": "D3"}]),
            "to: Side ranger ECHO goes to “D3”",
        ),
        (
            changed(
                connections=[
                    {
                        "device": "Side ranger",
                        "lead": "ECHO",
                        "to": "GP3",
                        "beads": [{"kind": "series", "ohm": "lots"}],
                    }
                ]
            ),
            r"connections\[0\].beads\[0\].ohm",
        ),
        (changed(settings={"bus_hz": 1e12}), "settings: bus_hz: 1e\\+12 is outside"),
        (changed(settings={"reference": "moon"}), "reference: “moon” is not this board’s"),
    ],
)
def test_a_wiring_that_will_not_do_says_where_and_why(text: str, words: str) -> None:
    with pytest.raises(ValueError, match=words):
        read_wiring(text, BOARDS, DEVICES)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "line 1: there is no column “device”"),
        ("device,lead\r\nx,y\r\n", "line 1: there is no column “to”"),
        ("device,lead,to\r\nNobody,VCC,5V\r\n", "line 2: there is no device “Nobody”"),
        ("device,lead,to\r\nBattery\r\n", "line 2: 1 cells, but the header has 3"),
        (
            "device,lead,to,parts\r\nBattery,BAT+,A7,series\r\n",
            "line 2: parts: “series” needs a value",
        ),
        (
            "device,lead,to,parts\r\nBattery,BAT+,A7,gearbox 4k7\r\n",
            "line 2: parts: “gearbox 4k7” is no part",
        ),
        (
            "device,lead,to,parts\r\nBattery,BAT+,A7,series 4k7 5x\r\n",
            "line 2: parts: “5x” does not belong",
        ),
        (
            "device,lead,to,parts\r\nBattery,BAT+,A7,pull_up 4k7 to 'AUX\r\n",
            "line 2: parts: “pull_up 4k7 to 'AUX” has a quote that is not closed",
        ),
        (
            "device,lead,to,parts\r\nBattery,BAT+,A7," + "series 1k;" * 7 + "\r\n",
            "line 2: parts: 7 parts on one wire; 6 at most",
        ),
        (
            "device,lead,to,parts\r\nBattery,BAT+,A7,series 1k five%\r\n",
            "line 2: parts: “five” is no number",
        ),
        (
            "device,lead,to,parts\r\nBattery,BAT+,A7,series 1k 90%\r\n",
            "line 2: parts: tolerance: a fraction",
        ),
    ],
)
def test_a_netlist_that_will_not_do_names_its_line(text: str, words: str) -> None:
    with pytest.raises(ValueError, match=words.replace("+", r"\+")):
        read_netlist_csv(text, demo())


@given(st.text(max_size=300))
def test_any_text_is_a_netlist_or_a_clear_refusal(text: str) -> None:
    try:
        read_netlist_csv(text, demo())
    except ValueError as error:
        assert str(error)  # noqa: PT017
