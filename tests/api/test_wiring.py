"""The wiring by the API: from nothing to a signed rig, undone, at once, and with bad input."""

from __future__ import annotations

import json
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine, select

from tickstone.store.models import Rig

PIPIT = "/api/rigs/2/wiring"


def wiring(client: TestClient, rig: int = 2) -> dict[str, Any]:
    answer = client.get(f"/api/rigs/{rig}/wiring")
    assert answer.status_code == 200, answer.text
    return answer.json()


def connections(one: dict[str, Any]) -> list[dict[str, Any]]:
    """What a PUT takes, from what a GET gives."""
    shown = ("words", "bands")
    return [
        {
            "device": device["id"],
            "lead": lead["name"],
            "to": lead["end"]["to"],
            "colour": lead["end"]["colour"],
            "is_fixed": lead["end"]["is_fixed"],
            "beads": [
                {k: v for k, v in bead.items() if k not in shown} for bead in lead["end"]["beads"]
            ],
        }
        for device in one["devices"]
        for lead in device["leads"]
        if lead["end"]
    ]


def stone(client: TestClient, sensor: int) -> dict[str, Any]:
    return client.get(f"/api/sensors/{sensor}").json()["stones"][0]


def do_by_hand(client: TestClient, rig: int = 2) -> None:
    """What nobody can tick together: looked at one by one, and measured in the middle."""
    for step in wiring(client, rig)["steps"]:
        if step["is_complete"]:
            continue
        if step["is_by_hand"]:
            how: dict[str, Any] = {"done": True, "seen": step["needs_second"]}
        elif step["low_v"] is not None and step["measured_v"] is None:
            how = {"measured_v": (step["low_v"] + step["high_v"]) / 2}
        else:
            continue
        client.put(f"/api/rigs/{rig}/wiring/steps", json={"key": step["key"], **how})


def sign(client: TestClient, rig: int = 2, **more: Any) -> Any:
    do_by_hand(client, rig)
    return client.post(
        f"/api/rigs/{rig}/wiring/sign",
        json={"wired_by": "Ada", "looked_by": "Ben", "wires": True, **more},
    )


def test_from_nothing_to_a_signed_rig_that_goes_stale(client: TestClient) -> None:
    rig = client.post("/api/rigs", json={"name": "Newt"}).json()
    address = f"/api/rigs/{rig['id']}"
    assert wiring(client, rig["id"])["board"] is None
    refused = client.post(f"{address}/wiring/proposal", json={})
    assert refused.status_code == 422
    assert "no board yet" in refused.json()["detail"]

    client.patch(address, json={"board": "three_volt_dual_core"})
    matches = client.post("/api/families/recognise", json={"labels": "VCC TRIG ECHO GND"}).json()
    assert matches[0]["is_exact"]
    family = matches[0]["family"]["name"]
    sensor = client.post(f"{address}/sensors", json={"name": "Eye", "family": family}).json()
    assert wiring(client, rig["id"])["loose"] == 4

    proposal = client.post(f"{address}/wiring/proposal", json={}).json()
    assert proposal["impossible"] == ""
    assert proposal["wiring"]["findings"] == []
    assert proposal["wiring"]["loose"] == 0

    assert sign(client, rig["id"]).status_code == 200
    assert stone(client, sensor["id"])["state"] == "ticked"

    moved = [
        {**one, "to": "GP20"} if one["lead"] == "TRIG" else one
        for one in connections(wiring(client, rig["id"]))
    ]
    client.put(f"{address}/wiring", json={"connections": moved})
    stale = stone(client, sensor["id"])
    assert stale["state"] == "stale"
    assert "TRIG went from" in stale["reason"]
    steps = {one["key"]: one for one in wiring(client, rig["id"])["steps"]}
    open_steps = [key for key, one in steps.items() if not one["is_complete"]]
    assert f"wire:{sensor['id']}:TRIG" in open_steps
    assert f"wire:{sensor['id']}:ECHO" not in open_steps


def test_one_press_mends_and_a_put_takes_it_back(client: TestClient) -> None:
    before = wiring(client)
    (error,) = [one for one in before["findings"] if one["severity"] == "error"]
    after = client.post(f"{PIPIT}/repair", json={"key": error["key"]}).json()
    echo = next(lead for lead in after["devices"][0]["leads"] if lead["name"] == "ECHO")
    assert [bead["words"] for bead in echo["end"]["beads"]] == [
        "1.8 kΩ in the wire",
        "3.3 kΩ down to ground",
    ]
    assert echo["end"]["beads"][0]["bands"] == ["brown", "grey", "red", "gold"]
    assert error["key"] not in {one["key"] for one in after["findings"]}
    again = client.post(f"{PIPIT}/repair", json={"key": error["key"]})
    assert again.status_code == 422
    client.put(PIPIT, json={"connections": connections(before), "revision": after["revision"]})
    assert wiring(client)["findings"] == before["findings"]


def test_signing_needs_two_people_no_error_and_the_list(client: TestClient) -> None:
    alone = client.post(f"{PIPIT}/sign", json={"wired_by": "Ada", "looked_by": "ada "})
    assert "another person" in alone.json()["detail"]
    assert "a check says no" in sign(client).json()["detail"].lower()
    client.post(f"{PIPIT}/repair", json={"key": "*"})
    early = client.post(f"{PIPIT}/sign", json={"wired_by": "Ada", "looked_by": "Ben"})
    assert "steps are open" in early.json()["detail"]
    assert sign(client).status_code == 200
    assert wiring(client)["unsigned"] == 0
    (signature,) = wiring(client)["signatures"]
    assert signature["note"] == "wired by Ada, looked over by Ben"
    assert signature["devices"] == [one["name"] for one in wiring(client)["devices"]]


def test_what_only_a_person_can_vouch_for_is_never_ticked_with_others(client: TestClient) -> None:
    client.post(f"{PIPIT}/repair", json={"key": "*"})
    address = f"{PIPIT}/sign"
    body = {"wired_by": "Ada", "looked_by": "Ben", "wires": True}
    for open_step in ("off", "look:shorts", "power:on"):
        do_by_hand(client)
        client.put(f"{PIPIT}/steps", json={"key": open_step, "done": False})
        refused = client.post(address, json=body)
        assert refused.status_code == 422
        assert "One step is not done" in refused.json()["detail"]
    do_by_hand(client)
    client.put(f"{PIPIT}/steps", json={"key": "measure:5V", "measured_v": None})
    assert "neither measured nor skipped" in client.post(address, json=body).json()["detail"]
    skipped = {"key": "measure:5V", "skipped_why": "  no meter here "}
    said = client.put(f"{PIPIT}/steps", json=skipped).json()
    step = next(one for one in said["steps"] if one["key"] == "measure:5V")
    assert (step["is_complete"], step["skipped_why"]) == (True, "no meter here")
    assert client.post(address, json=body).status_code == 200
    # What is measured after all takes the place of the reason.
    said = client.put(f"{PIPIT}/steps", json={"key": "measure:5V", "measured_v": 1.0}).json()
    step = next(one for one in said["steps"] if one["key"] == "measure:5V")
    assert (step["is_complete"], step["skipped_why"]) == (False, "")


def test_one_person_alone_says_so(client: TestClient) -> None:
    client.post(f"{PIPIT}/repair", json={"key": "*"})
    for odd in ("a\x00b", "\ud800"):
        body = json.dumps({"key": "off", "skipped_why": odd})
        said = client.put(f"{PIPIT}/steps", content=body)
        assert said.status_code == 422
    assert "when there is none" in sign(client, looked_by=None).json()["detail"]
    assert sign(client, looked_by=None, alone_why="nobody else was in").status_code == 200
    assert "nobody else was in" in wiring(client)["signatures"][0]["note"]


def test_nobody_notes_a_wire_as_right_while_a_check_says_no(client: TestClient) -> None:
    ranger = wiring(client)["devices"][0]
    assert ranger["wired"]["state"] == "failing"
    assert ranger["wired"] == stone(client, ranger["id"])
    address = f"/api/sensors/{ranger['id']}/sign-offs"
    right = {"stage": "wired", "is_right": True}
    refused = client.post(address, json=right)
    assert refused.status_code == 422
    assert "ECHO puts 5 V on GP3" in refused.json()["detail"]
    client.post(f"{PIPIT}/repair", json={"key": "*"})
    assert client.post(address, json=right).status_code == 201
    assert stone(client, ranger["id"])["state"] == "ticked"
    client.post(address, json={"stage": "wired", "is_right": False, "note": "it smells"})
    assert "it smells" in wiring(client)["devices"][0]["wired"]["reason"]


def test_taking_every_wire_off_a_signed_rig_is_not_overlooked(client: TestClient) -> None:
    client.post(f"{PIPIT}/repair", json={"key": "*"})
    assert sign(client).status_code == 200
    client.put(PIPIT, json={"connections": []})
    for device in wiring(client)["devices"]:
        assert device["wired"]["state"] == "failing"


def test_a_rail_on_the_reference_pin_is_a_wire_that_can_change(client: TestClient) -> None:
    rig = client.post("/api/rigs", json={"name": "Ref", "board": "five_volt_8bit"}).json()["id"]
    address = f"/api/rigs/{rig}"
    for name, family in (("Eye", "infrared_ranger"), ("Lamp", "indicator_led")):
        client.post(f"{address}/sensors", json={"name": name, "family": family})
    client.post(f"{address}/wiring/proposal", json={})
    assert sign(client, rig).status_code == 200
    before = wiring(client, rig)
    settings = {**before["settings"], "reference": "3V3 on the reference pin"}
    body = {"connections": connections(before), "settings": settings}
    assert client.put(f"{address}/wiring", json=body).status_code == 200
    eye, lamp = (one["wired"] for one in wiring(client, rig)["devices"])
    assert (eye["state"], lamp["state"]) == ("stale", "ticked")
    assert "reference pin went from nothing to 3V3" in eye["reason"]
    assert sign(client, rig).status_code == 200
    assert {one["wired"]["state"] for one in wiring(client, rig)["devices"]} == {"ticked"}


def test_a_wrong_measurement_stands_against_signing(client: TestClient) -> None:
    client.post(f"{PIPIT}/repair", json={"key": "*"})
    said = client.put(f"{PIPIT}/steps", json={"key": "measure:5V", "measured_v": 3.1}).json()
    step = next(one for one in said["steps"] if one["key"] == "measure:5V")
    assert step["passes"] is False
    assert "5V" in sign(client).json()["detail"]
    client.put(f"{PIPIT}/steps", json={"key": "measure:5V", "measured_v": 5.02})
    assert sign(client).status_code == 200


def test_what_was_measured_counts_only_while_its_wire_is_the_same(client: TestClient) -> None:
    """A bare pair, its emitter and detector swapped by the volts; then the wire is moved."""
    rig = client.post("/api/rigs", json={"name": "Eft"}).json()["id"]
    address = f"/api/rigs/{rig}"
    client.patch(address, json={"board": "five_volt_8bit"})
    pair = {"name": "Eye", "family": "reflective_pair_collector_load"}
    eye = client.post(f"{address}/sensors", json=pair).json()["id"]
    client.post(f"{address}/wiring/proposal", json={})

    def found() -> set[str]:
        return {one["id"] for one in wiring(client, rig)["findings"]}

    for lead, volts in (("A", 4.9), ("C", 1.2)):
        step = {"key": f"measure:{eye}.{lead}", "measured_v": volts}
        client.put(f"{address}/wiring/steps", json=step)
    assert "emitter-swapped" in found()
    now = connections(wiring(client, rig))
    moved = [{**one, "to": "A3"} if one["lead"] == "C" else one for one in now]
    client.put(f"{address}/wiring", json={"connections": moved})
    assert "emitter-swapped" not in found()
    client.put(f"{address}/wiring", json={"connections": now})
    assert "emitter-swapped" in found()


def test_reading_never_waits_for_a_change_under_way(client: TestClient, engine: Engine) -> None:
    with ThreadPoolExecutor() as threads, engine.connect() as other:
        other.execute(select(Rig.id).where(Rig.id == 2).with_for_update())
        for name in ("", "/file", "/netlist.csv", "/bill.csv"):
            answer = threads.submit(client.get, f"{PIPIT}{name}").result(timeout=60)
            assert answer.status_code == 200, name


def test_ticks_are_kept_and_untick_the_second_look_with_them(client: TestClient) -> None:
    key = next(one["key"] for one in wiring(client)["steps"] if one["needs_second"])
    client.put(f"{PIPIT}/steps", json={"key": key, "done": True})
    client.put(f"{PIPIT}/steps", json={"key": key, "seen": True})

    def now() -> dict[str, Any]:
        return next(one for one in wiring(client)["steps"] if one["key"] == key)

    assert (now()["done"], now()["seen"], now()["is_complete"]) == (True, True, True)
    client.put(f"{PIPIT}/steps", json={"key": key, "done": False})
    assert (now()["done"], now()["seen"]) == (False, False)
    gone = client.put(f"{PIPIT}/steps", json={"key": "wire:99:X", "done": True})
    assert gone.status_code == 422


def test_of_two_at_once_the_second_is_told(client: TestClient) -> None:
    one = wiring(client)
    body = {"connections": connections(one), "revision": one["revision"]}
    assert client.put(PIPIT, json=body).status_code == 200
    late = client.put(PIPIT, json={**body, "connections": []})
    assert late.status_code == 409
    assert len(connections(wiring(client))) == len(connections(one))


def test_of_many_at_the_same_moment_one_wins_whole(client: TestClient) -> None:
    one = wiring(client)
    sent = connections(one)
    bodies = [
        {"connections": sent[:count], "revision": one["revision"]} for count in range(len(sent))
    ]
    with ThreadPoolExecutor(len(bodies)) as threads:
        answers = list(threads.map(lambda body: client.put(PIPIT, json=body), bodies))
    codes = [answer.status_code for answer in answers]
    assert sorted(codes) == [200] + [409] * (len(bodies) - 1)
    assert connections(wiring(client)) == bodies[codes.index(200)]["connections"]


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"lead": "ECO"}, "Side ranger has no lead “ECO”"),
        ({"to": "D99"}, "Side ranger VCC goes to “D99”"),
        ({"device": 1}, "device 1 is not on this rig"),
        ({"beads": [{"kind": "series", "ohm": -1}]}, "ohm: -1 Ω is outside"),
        ({"beads": [{"kind": "series"}]}, "ohm: a resistor needs it"),
        ({"beads": [{"kind": "spring", "ohm": 1}]}, "kind"),
        ({"colour": "plaid"}, "colour: Side ranger VCC is “plaid”"),
    ],
)
def test_a_bad_wire_is_refused_by_name_and_the_last_good_wiring_kept(
    client: TestClient, change: dict[str, Any], words: str
) -> None:
    before = wiring(client)
    sent = connections(before)
    sent[0] = {**sent[0], **change}
    answer = client.put(PIPIT, json={"connections": sent})
    assert answer.status_code == 422
    assert words.lower() in answer.json()["detail"].lower()
    assert wiring(client) == before


def test_files_out_and_in_again(client: TestClient) -> None:
    document = client.get(f"{PIPIT}/file").json()
    rig = client.post("/api/rigs", json={"name": "Twin"}).json()["id"]
    taken = client.post(f"/api/rigs/{rig}/wiring/import", json={"text": json.dumps(document)})
    assert taken.status_code == 200, taken.text
    assert [one["name"] for one in taken.json()["devices"]] == [
        one["name"] for one in wiring(client)["devices"]
    ]
    again = client.get(f"/api/rigs/{rig}/wiring/file").json()
    assert {**again, "name": ""} == {**document, "name": ""}
    netlist = client.get(f"/api/rigs/{rig}/wiring/netlist.csv")
    assert netlist.headers["content-type"].startswith("text/csv")
    less = "\r\n".join(netlist.text.splitlines()[:3])
    cut = client.post(f"/api/rigs/{rig}/wiring/import", json={"text": less}).json()
    assert len(connections(cut)) == 2
    assert "resistor" in client.get(f"/api/rigs/{rig}/wiring/bill.csv").text or cut["bill"]


@pytest.mark.parametrize("text", ["{", "nonsense", '{"board": "x"}', "device,lead,to\nX,Y,Z\n"])
def test_a_bad_file_changes_nothing(client: TestClient, text: str) -> None:
    before = wiring(client)
    answer = client.post(f"{PIPIT}/import", json={"text": text})
    assert answer.status_code == 422
    assert answer.json()["kept"] == "Nothing was changed."
    assert wiring(client) == before


def test_another_board_takes_off_what_it_does_not_have_and_brings_it_back(
    client: TestClient,
) -> None:
    before = connections(wiring(client))
    client.patch("/api/rigs/2", json={"board": "five_volt_8bit"})
    kept = connections(wiring(client))
    assert {one["to"] for one in kept} == {"5V", "3V3", "GND"}
    client.patch("/api/rigs/2", json={"board": "three_volt_dual_core"})
    assert connections(wiring(client)) == before
    unknown = client.patch("/api/rigs/2", json={"board": "abacus"})
    assert unknown.status_code == 422


def test_what_was_wired_to_the_old_board_outlives_changes_on_the_new(client: TestClient) -> None:
    before = connections(wiring(client))
    client.patch("/api/rigs/2", json={"board": "five_volt_8bit"})
    axle = next(one for one in before if one["to"] == "GP6")
    kept = connections(wiring(client))
    client.put(PIPIT, json={"connections": [*kept, {**axle, "to": "D3"}]})
    client.patch("/api/rigs/2", json={"board": "three_volt_dual_core"})
    now = connections(wiring(client))
    assert now == [one for one in before if one != axle]


def test_the_time_budget_feeds_the_stopping_distance(client: TestClient) -> None:
    asked = {"kind": "stop-and-go", "evidence": {"speed_m_per_s": 0.5}}
    woven = client.post("/api/sensors/1/suggestion", json=asked).json()
    client.put("/api/rigs/1/time-budget", json={"is_interleaved": False, "delay_s": 0.1})
    budget = client.get("/api/rigs/1/time-budget").json()
    waiting = client.post("/api/sensors/1/suggestion", json=asked).json()
    assert waiting["taken"]["loop_s"] == budget["loop_s"]
    assert waiting["needed"] > woven["needed"]
    assert "time budget" in waiting["note"]
    assert waiting["taken"]["sample_s"] == woven["taken"]["sample_s"], "what was recorded stands"
    assert "gives one every" in waiting["note"]
    bad = client.put("/api/rigs/1/time-budget", json={"baud": 1})
    assert bad.status_code == 422
    assert bad.json()["fields"][0]["field"] == "baud"


def test_without_a_recording_the_time_budget_says_how_often_it_reads(client: TestClient) -> None:
    asked = {"kind": "stop-and-go", "evidence": {"speed_m_per_s": 0.5}}
    client.put("/api/rigs/2/time-budget", json={"is_interleaved": False, "delay_s": 0.2})
    periods = client.get("/api/rigs/2/time-budget").json()["periods"]
    ranger = next(one for one in periods if one["device"] == "Side ranger")
    sensor = wiring(client)["devices"][0]["id"]
    worked = client.post(f"/api/sensors/{sensor}/suggestion", json=asked).json()
    assert worked["taken"]["sample_s"] == ranger["seconds"] > 0.2
    assert "no recording yet" in worked["note"]


def test_a_loop_too_slow_for_polling_is_what_the_pulse_check_uses(client: TestClient) -> None:
    body = {"name": "Slow", "family": "slotted_encoder", "fitting": {"pulse_hz": 4.0}}
    sensor = client.post("/api/rigs/1/sensors", json=body).json()["id"]
    one = wiring(client, 1)
    wires = connections(one)
    for lead, to in (("VCC", "5V"), ("GND", "GND"), ("OUT", "D10")):
        wires.append({"device": sensor, "lead": lead, "to": to})
    client.put("/api/rigs/1/wiring", json={"connections": wires})
    ids = {finding["id"] for finding in wiring(client, 1)["findings"]}
    assert "pin-change-cost" not in ids
    client.put("/api/rigs/1/time-budget", json={"is_interleaved": False})
    ids = {finding["id"] for finding in wiring(client, 1)["findings"]}
    assert "pin-change-cost" in ids


def test_supplies_parts_and_open_leads_are_kept_and_come_back(client: TestClient) -> None:
    rig = client.get("/api/rigs").json()[1]["id"]
    wiring = client.get(f"/api/rigs/{rig}/wiring").json()
    wires = [
        {"device": one["id"], "lead": lead["name"], "to": lead["end"]["to"]}
        for one in wiring["devices"]
        for lead in one["leads"]
        if lead["end"]
    ]
    first = wires.pop()
    body = {
        "connections": wires,
        "supplies": [{"key": "Pack", "cells": 4, "chemistry": "alkaline"}],
        "joints": ["J1"],
        "parts": [
            {"key": "R1", "kind": "resistor", "ends": {"a": "Pack+", "b": "J1"}, "ohm": 330.0},
            {"key": "W1", "kind": "wire", "ends": {"a": "J1", "b": f"{first['device']}.GND"}},
        ],
        "left_open": [{"device": first["device"], "lead": first["lead"]}],
    }
    answer = client.put(f"/api/rigs/{rig}/wiring", json=body)
    assert answer.status_code == 200, answer.text
    for said in (answer.json(), client.get(f"/api/rigs/{rig}/wiring").json()):
        assert [one["key"] for one in said["supplies"]] == ["Pack"]
        assert said["supplies"][0]["volts"] == [3.6, 6.0, 6.4]
        assert [one["words"] for one in said["parts"]] == ["330 Ω", "wire"]
        assert said["left_open"] == body["left_open"]
        assert {"Pack+", "J1"} <= {one["name"] for one in said["places"]}
    file = client.get(f"/api/rigs/{rig}/wiring/file").json()
    assert file["version"] == 2
    again = client.post(f"/api/rigs/{rig}/wiring/import", json={"text": json.dumps(file)})
    assert again.status_code == 200, again.text
    assert [one["words"] for one in again.json()["parts"]] == ["330 Ω", "wire"]
    kept = client.put(
        f"/api/rigs/{rig}/wiring", json={"connections": [*wires, first], "settings": None}
    ).json()
    assert kept["left_open"] == [], "a lead that gets a wire is no longer left open"
    assert [one["key"] for one in kept["parts"]] == ["R1", "W1"]


def test_pins_in_use_tell_their_volts_in_every_state(client: TestClient) -> None:
    rig = client.get("/api/rigs").json()[1]["id"]
    pins = {one["name"]: one for one in client.get(f"/api/rigs/{rig}/wiring").json()["pins"]}
    states = {one["when"]: one for one in pins["GP3"]["states"]}
    assert states["Side ranger ECHO low"]["usual_v"] == pytest.approx(0.0, abs=0.01)
    assert states["Side ranger ECHO high"]["usual_v"] > 3.6
    assert pins["GP22"]["states"] == []
    driven = {one["when"]: one for one in pins["GP2"]["states"]}
    assert driven["GP2 high"]["usual_v"] == pytest.approx(3.3, abs=0.05)


def test_a_trial_tells_what_would_come_of_a_wiring_and_keeps_nothing(client: TestClient) -> None:
    made = client.post("/api/rigs", json={"name": "Thorn", "board": "five_volt_8bit_small"})
    rig = made.json()["id"]
    named = {"name": "Wheel", "family": "hall_switch_unipolar"}
    device = client.post(f"/api/rigs/{rig}/sensors", json=named).json()["id"]
    path = f"/api/rigs/{rig}/wiring"
    before = wiring(client, rig)
    wires = [
        {"device": device, "lead": lead, "to": to}
        for lead, to in (("VCC", "5V"), ("GND", "GND"), ("OUT", "D2"))
    ]
    tried = client.post(f"{path}/trial", json={"connections": wires}).json()
    assert [one["id"] for one in tried["fresh"]] == ["missing-pull-up"]
    assert any("goes nowhere" in message for message in tried["gone"])
    states = next(pin["states"] for pin in tried["pins"] if pin["name"] == "D2")
    assert [state["usual_v"] for state in states] == [None, pytest.approx(0.0, abs=0.01)]
    assert client.get(path).json() == before
    bad = client.post(f"{path}/trial", json={"connections": [{**wires[0], "to": "nowhere"}]})
    assert bad.status_code == 422
