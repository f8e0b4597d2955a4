"""What has to hold for any wiring at all."""

from __future__ import annotations

import json
from collections import Counter

from hypothesis import HealthCheck, given, settings
from tests.core.wiring.rigs import BOARDS, DEVICES
from tests.core.wiring.strategies import wirings

from tickstone.core.finding import SEVERITIES
from tickstone.core.wiring.bead import BeadKind
from tickstone.core.wiring.bill import bill_of_materials
from tickstone.core.wiring.checks import found_in
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.currents import rail_budgets
from tickstone.core.wiring.judging import check_wiring, fresh_among
from tickstone.core.wiring.netlist import Wiring
from tickstone.core.wiring.proposal import mended, propose
from tickstone.core.wiring.steps import Phase, wiring_steps
from tickstone.formats.netlist_csv import netlist_csv, read_netlist_csv
from tickstone.formats.wiring_file import read_wiring, wiring_document

many = settings(max_examples=60, suppress_health_check=[HealthCheck.too_slow])
few = settings(max_examples=12, suppress_health_check=[HealthCheck.too_slow])


@many
@given(wirings())
def test_every_finding_is_whole_and_says_where(wiring: Wiring) -> None:
    keys = {device.key for device in wiring.devices} | {""}
    for finding in found_in(Circuit(wiring)):
        assert finding.severity in SEVERITIES
        assert finding.message
        assert finding.why
        assert finding.source
        assert finding.where
        assert finding.spots
        assert all(spot.device in keys for spot in finding.spots)
        assert all(number.value == number.value for number in finding.numbers), "no NaN"


@few
@given(wirings(2))
def test_every_repair_clears_its_finding_and_starts_nothing_as_bad(wiring: Wiring) -> None:
    before = check_wiring(wiring)
    for finding in before:
        for repair in finding.repairs:
            after = found_in(Circuit(repair.applied(wiring)))
            assert not any(one.is_same(finding) for one in after), (finding.id, repair.text)
            assert not fresh_among(before, after, finding.severity), (finding.id, repair.text)


@few
@given(wirings(3))
def test_mending_ends_and_never_makes_it_worse(wiring: Wiring) -> None:
    better = mended(wiring)
    weights = [
        [sum(f.severity == severe for f in found_in(Circuit(one))) for severe in SEVERITIES]
        for one in (better, wiring)
    ]
    assert weights[0] <= weights[1]
    assert mended(better) == better


@few
@given(wirings(3))
def test_a_proposal_keeps_every_wire_there_was(wiring: Wiring) -> None:
    proposed = propose(wiring).wiring
    for one in wiring.connections:
        assert proposed.at(*one.end) == one


@many
@given(wirings())
def test_the_list_names_every_wire_once_and_in_a_safe_order(wiring: Wiring) -> None:
    steps = wiring_steps(wiring)
    keys = [step.key for step in steps]
    assert len(set(keys)) == len(keys)
    wires = {f"wire:{one.device}:{one.lead}" for one in wiring.connections}
    assert {key for key in keys if key.startswith("wire:")} == wires
    order = [list(Phase).index(step.phase) for step in steps]
    assert order == sorted(order)
    for step in steps:
        if step.expected is not None:
            assert step.expected.low_v <= step.expected.high_v


@many
@given(wirings())
def test_the_bill_holds_every_part_and_every_wire(wiring: Wiring) -> None:
    lines = bill_of_materials(wiring)
    parts = sum(
        bead.kind is not BeadKind.PIN_PULL_UP for one in wiring.connections for bead in one.beads
    )
    counted = Counter()
    for line in lines:
        counted[line.what.split(" ")[0].rstrip(",")] += line.count
    assert counted["resistor"] + counted["capacitor"] == parts
    to_reference = any(step.key == "reference" for step in wiring_steps(wiring))
    assert counted["wire"] == len(wiring.connections) + to_reference


@many
@given(wirings())
def test_files_bring_back_what_went_out(wiring: Wiring) -> None:
    assert read_netlist_csv(netlist_csv(wiring), wiring) == wiring.connections
    document = wiring_document(wiring, "any", frozenset([*BOARDS, *DEVICES]))
    assert read_wiring(json.dumps(document), BOARDS, DEVICES) == wiring


@many
@given(wirings())
def test_currents_are_never_below_nothing_and_peaks_never_below_use(wiring: Wiring) -> None:
    for budget in rail_budgets(Circuit(wiring)):
        assert budget.usual_a >= 0.0
        assert budget.peak_a >= budget.usual_a
