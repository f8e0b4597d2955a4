"""Rules over a rig and tuned loops through the API: offered, checked, replayed, kept, cracked."""

from __future__ import annotations

import copy
import time
from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.board import wait_for
from tests.kinds.loads import asked

RULES = "/api/rigs/1/rules"


def bench(client: TestClient) -> Any:
    return asked(client, "GET", RULES)


def round_of(told: Any) -> int:
    return int(next(one["id"] for one in told["takes"] if one["name"] == "round the yard"))


def in_use(told: Any) -> Any:
    return next(one for one in told["kept"] if one["is_in_use"])


def test_starting_points_look_at_what_the_rig_has(asker: TestClient) -> None:
    told = bench(asker)
    points = {one["name"]: one for one in told["starting_points"]}
    assert len(points) == 7
    names = {one["sensor_id"]: one["sensor"] for one in told["offered"]}
    for point, input_name, sensor in (
        ("stop-and-go", "front", "Front ranger"),
        ("line-keeping", "line", "Nose strip"),
        ("level-keeping", "lean", "Deck level"),
        ("wall-following", "side", "Left ranger"),
    ):
        fed = {one["name"]: one for one in points[point]["rules"]["inputs"]}
        assert names[int(fed[input_name]["sensor"])] == sensor
        assert points[point]["missing"] == []
        checked = asked(asker, "POST", f"{RULES}/check", {"rules": points[point]["rules"]})
        assert [one for one in checked["findings"] if one["severity"] == "error"] == []


def test_two_versions_are_replayed_side_by_side(asker: TestClient) -> None:
    told = bench(asker)
    versions = [one["document"] for one in told["kept"]]
    replay = asked(
        asker, "POST", f"{RULES}/replay", {"take_id": round_of(told), "versions": versions}
    )
    late, early = replay["versions"][1], replay["versions"][0]
    assert [early["error"], late["error"]] == ["", ""]
    first = {name: one["visits"]["from_s"][one["visits"]["state"].index(2)]
             for name, one in (("early", early), ("late", late))}  # fmt: skip
    # It brakes at 0.42 m before it would at 0.30 m.
    assert first["early"] < first["late"] - 1.0
    assert early["confusion"]["right"]["value"] > late["confusion"]["right"]["value"]
    assert sum(one["total_s"] for one in early["stays"]) == pytest.approx(replay["duration_s"])
    assert {one["label"] for one in replay["traces"]} == {
        "Front ranger: distance", "Nose strip: sees", "Deck level: inclination",
    }  # fmt: skip
    cuts = next(one["cuts"] for one in replay["traces"] if one["label"].startswith("Front"))
    assert cuts == pytest.approx([0.30, 0.40, 0.42, 0.52])


def test_it_says_what_it_saw_and_why(asker: TestClient) -> None:
    told = bench(asker)
    body = {"take_id": round_of(told), "rules": in_use(told)["document"], "at_s": 12.1}
    saw = asked(asker, "POST", f"{RULES}/saw", body)
    assert (saw["state"], saw["why"], saw["by"]) == ("brake", "front below 0.42 m", ["front"])
    sights = {one["name"]: one for one in saw["sights"]}
    assert sights["front"]["said"].startswith("0.41")
    assert "±" in sights["front"]["said"]
    assert sights["line"]["said"] == "line"


def test_a_recording_that_holds_not_all_of_it_says_so(asker: TestClient) -> None:
    told = bench(asker)
    other = next(one["id"] for one in told["takes"] if one["name"] == "first try, curtain")
    versions = [in_use(told)["document"]]
    replay = asked(asker, "POST", f"{RULES}/replay", {"take_id": other, "versions": versions})
    version = replay["versions"][0]
    assert version["unheard"] == ["line", "lean"]
    assert "holds nothing of Nose strip" in version["error"]
    assert version["visits"]["from_s"] == []


def test_several_put_together_say_who_decided(asker: TestClient) -> None:
    told = bench(asker)
    document = copy.deepcopy(in_use(told)["document"])
    document["inputs"] += [
        {"name": "again", "sensor": document["inputs"][0]["sensor"], "output": "distance"},
        {"name": "near", "together": "nearest", "of": ["front", "again"]},
    ]
    document["transitions"][1]["when"] = "near < 0.42 m"
    body = {"take_id": round_of(told), "rules": document, "at_s": 12.1}
    saw = asked(asker, "POST", f"{RULES}/saw", body)
    near = next(one for one in saw["sights"] if one["name"] == "near")
    assert near["who"] == "front"
    assert (saw["why"], saw["by"]) == ("near below 0.42 m", ["near by front"])


@pytest.mark.parametrize(
    ("path", "value", "field", "says"),
    [
        (("transitions", 0, "when"), "tilt > 3", "rules.transitions 1, when", "no input “tilt”"),
        (("inputs", 0, "sensor"), "99", "rules.inputs 1, sensor", "no such sensor"),
        (("inputs", 0, "output"), "colour", "rules.inputs 1, output", "tells no “colour”"),
        (("states", 0, "stay_s"), -1, "rules.states 1 (stopped), stay_s", "has to lie"),
        (("states",), 5, "rules.states", "has to be a list"),
        (("inputs",), "x", "rules", "list"),
        (("inputs", 0), {"name": "x", "together": "nearest", "of": 3}, "rules", "has to be a list"),
    ],
)
def test_rules_that_cannot_be_are_named_by_their_place(
    asker: TestClient, path: tuple[Any, ...], value: Any, field: str, says: str
) -> None:
    document = copy.deepcopy(in_use(bench(asker))["document"])
    at: Any = document
    for step in path[:-1]:
        at = at[step]
    at[path[-1]] = value
    for address, body in (
        ("/check", {"rules": document}),
        ("", {"rules": document}),
    ):
        answer = asker.post(f"{RULES}{address}", json=body)
        assert answer.status_code == 422, answer.text
        problem = answer.json()
        assert problem["kept"] == "Nothing was changed."
        assert says in problem["detail"]
        assert problem["fields"][0]["field"].startswith(field)


def test_rules_are_kept_gone_back_to_and_cracked(client: TestClient) -> None:
    before = bench(client)
    was = in_use(before)
    document = {**was["document"], "speed_m_per_s": 0.3}
    kept = asked(client, "POST", RULES, {"rules": document, "note": "slower"})
    assert kept["is_in_use"]
    assert kept["cracks"] == []
    again = asked(client, "POST", f"/api/rigs/1/decisions/{was['id']}/use")
    assert again["is_in_use"]
    assert next(one["id"] for one in bench(client)["kept"]) == kept["id"]
    assert in_use(bench(client))["id"] == was["id"]
    assert client.post("/api/rigs/2/decisions/1/use").status_code == 404
    # Another way of mounting the ranger is another ground to stand on.
    client.patch("/api/sensors/1", json={"parameters": {"mount_m": 0.05}})
    cracks = in_use(bench(client))["cracks"]
    assert any("Front ranger" in one for one in cracks)


def test_a_calibration_that_was_replaced_cracks_what_rests_on_it(client: TestClient) -> None:
    left = asked(client, "GET", "/api/sensors/2")
    point = next(one for one in bench(client)["starting_points"] if one["name"] == "wall-following")
    asked(client, "POST", RULES, {"rules": point["rules"], "note": ""})
    recording = left["recordings"][0]["id"]
    fitted = {"kind": "offset-scale", "draft": {}}
    answer = client.post(f"/api/recordings/{recording}/calibrations", json=fitted)
    assert answer.status_code == 201, answer.text
    cracks = in_use(bench(client))["cracks"]
    assert any(one.startswith("The calibration of Left ranger was replaced") for one in cracks)


def test_kept_decisions_cannot_be_changed_in_the_store(client: TestClient) -> None:
    from sqlalchemy import text
    from sqlalchemy.exc import DBAPIError

    engine = client.app.state.desk.engine  # type: ignore[attr-defined]
    with engine.connect() as connection, pytest.raises(DBAPIError):
        connection.execute(text("UPDATE decision SET note = 'forged'"))


def test_rules_run_on_the_open_line(client: TestClient) -> None:
    document = next(
        one["rules"] for one in bench(client)["starting_points"] if one["name"] == "stop-and-go"
    )
    quiet = asked(client, "POST", f"{RULES}/live", {"rules": document})
    assert (quiet["is_open"], quiet["state"]) == (False, "")
    take = round_of(bench(client))
    asked(client, "POST", "/api/rigs/1/line/replay", {"take_id": take, "pace": 10})
    wait_for(lambda: client.get("/api/rigs/1/line").json()["rows"] > 3)
    seen, said = set(), ""
    deadline = time.monotonic() + 30
    while time.monotonic() < deadline and not ({"drive", "stopped"} <= seen and "±" in said):
        live = live_of(client, document)
        # At any one moment it may be without an echo.
        said += "".join(one["said"] for one in live["sights"])
        seen |= {live["states"][one] for one in live["visits"]["state"]}
        if live["state"] == "stopped":
            last = live["entered"][0]
            assert (last["state"], last["by"]) == ("stopped", ["front"])
            assert "front below" in last["why"]
        time.sleep(0.05)
    assert {"drive", "stopped"} <= seen
    assert live["restarts"] == 0
    assert "±" in said
    # What is put together says whose it is, on the line too.
    several = {
        **document,
        "inputs": [
            *document["inputs"],
            {**document["inputs"][0], "name": "again"},
            {"name": "near", "together": "nearest", "of": [document["inputs"][0]["name"], "again"]},
        ],
    }
    wait_for(lambda: "near" in sights_of(live_of(client, several)))
    # What came to its end is no line that is open.
    wait_for(lambda: not live_of(client, document)["is_open"], 60)
    client.delete("/api/rigs/1/line")


def live_of(client: TestClient, document: Any) -> Any:
    return asked(client, "POST", f"{RULES}/live", {"rules": document})


def sights_of(live: dict[str, Any]) -> dict[str, Any]:
    return {one["name"]: one for one in live["sights"]}


FITTED = {"plant": "fitted", "plant_inputs": {"gain": 2.0, "lag_s": 1.5, "delay_s": 0.2}}


def test_four_settings_side_by_side(asker: TestClient) -> None:
    settings = [
        {"kp": 1.0, "ki": 0.0},
        {"kp": 1.875, "ki": 1.25},
        {"kp": 9.0},
        {"kp": 1.5, "whole_numbers": True},
    ]
    told = asked(asker, "POST", "/api/control/run", {**FITTED, "settings": settings})
    alone, both, wild, whole = told["runs"]
    assert abs(both["measures"]["offset"]) < 0.02 < alone["measures"]["offset"]
    assert not wild["margins"]["is_stable"]
    assert "Not stable" in wild["says"][0]
    assert "P of 1.5 is 1" in whole["says"][0]
    assert told["adds_s"] == pytest.approx(0.025)


def test_known_ways_and_advice(asker: TestClient) -> None:
    quick = {**FITTED, "rig_inputs": {"sample_s": 0.001}}
    told = asked(asker, "POST", "/api/control/tune", {**quick, "rule": "simc", "terms": "pi"})
    assert told["kp"] == pytest.approx(1.5 / (2.0 * 0.401), rel=1e-6)
    assert "Skogestad" in told["source"]
    advice = asked(
        asker, "POST", "/api/control/advise", {**FITTED, "settings": {"kp": 1.0, "ki": 1.0}}
    )
    assert "Take them out" in advice["do"]
    ball = {"plant": "ball-beam", "settings": {"kp": 0.5, "ki": 0.0, "kd": 0.0}}
    assert asked(asker, "POST", "/api/control/advise", ball)["stage"] == "d"


@pytest.mark.parametrize(
    ("address", "body", "says"),
    [
        ("run", {"plant": "rocket", "settings": [{}]}, "no plant “rocket”"),
        ("run", {**FITTED, "settings": [{"kp": "x"}]}, "has to be a number"),
        ("run", {**FITTED, "settings": [{"low": 5, "high": 1}]}, "above the other end"),
        ("run", {**FITTED, "settings": [{}] * 5}, "at most 4"),
        ("run", {**FITTED, "settings": [{}], "rig_inputs": {"sample_s": 1e-4, "lasts_s": 20_000}},
         "20000000 at most"),
        ("run", {"plant": "fitted", "plant_inputs": {"gain": 0}, "settings": [{}]}, "gain"),
        ("run", {"plant": "fitted", "plant_inputs": {"delay_s": 1000.0}, "settings": [{}],
                 "rig_inputs": {"sample_s": 1e-4, "lasts_s": 1.0}}, "delay_s: 1000 s"),
        ("run", {"plant": "fitted", "plant_inputs": {"delay_s": 1000.0}, "settings": [{}]},
         "readings late; 800 at most"),
        ("tune", {"plant": "fitted", "plant_inputs": {"delay_s": 0.0}, "rule": "relay",
                  "rig_inputs": {"sample_s": 1e-4}}, "too short, or too long"),
        ("tune", {**FITTED, "rule": "guess"}, "no way “guess”"),
        ("tune", {**FITTED, "rule": "simc", "terms": "p"}, "no table for “p”"),
        ("advise", {**FITTED, "settings": {}, "stage": "z"}, "stage"),
    ],
)  # fmt: skip
def test_loops_that_cannot_be_are_named(
    asker: TestClient, address: str, body: Any, says: str
) -> None:
    answer = asker.post(f"/api/control/{address}", json=body)
    assert answer.status_code == 422, answer.text
    assert says in answer.text


def take_named(client: TestClient, name: str) -> int:
    return int(next(one["id"] for one in bench(client)["takes"] if name in one["name"]))


def test_a_step_of_ones_own_is_fitted_and_what_is_none_refused(asker: TestClient) -> None:
    step = {"take_id": take_named(asker, "power 30"), "measured": 1, "output": 0}
    fit = asked(asker, "POST", "/api/rigs/1/control/fit", step)
    # The demo's axle: 4.1 turns a second at full power, 0.27 s, 0.055 s.
    for name, true in (("gain", 4.1), ("lag_s", 0.27), ("delay_s", 0.055)):
        assert abs(fit[name] - true) < 4.0 * fit[f"u_{name}"]
    refused = asker.post("/api/rigs/1/control/fit", json={**step, "output": 1, "measured": 0})
    assert refused.status_code == 422
    assert "Nothing was changed." in refused.text


def test_a_loop_that_the_rig_ran_is_read_by_the_same_measures(asker: TestClient) -> None:
    body = {"take_id": take_named(asker, "the loop"), "wanted": 0, "measured": 1, "output": 2}
    told = asked(asker, "POST", "/api/rigs/1/control/read", body)
    assert 0.3 < told["measures"]["rise_s"] < 1.0
    assert told["relay"] is None
    without = asked(asker, "POST", "/api/rigs/1/control/read", {**body, "wanted": None})
    assert without["why_not"] == "no column is the set point"


def test_how_a_sensor_really_delivers(asker: TestClient) -> None:
    body = {"take_id": round_of(bench(asker)), "sensor_id": 1, "output": "distance"}
    heard = asked(asker, "POST", "/api/rigs/1/control/heard", body)
    assert heard["sample_s"] == pytest.approx(0.04)
    assert 0.0 < heard["noise_u"] < 0.01
    assert heard["zeros"] > 0.5


def test_a_controller_is_kept_for_what_it_steers(client: TestClient) -> None:
    body = {
        "plant": "wheel-speed", "name": "wheel", "settings": {"kp": 0.4, "ki": 1.5},
        "sensor_ids": [4], "note": "livelier",
    }  # fmt: skip
    kept = asked(client, "POST", "/api/rigs/1/tunings", body)
    told = asked(client, "GET", "/api/rigs/1/control")
    assert [one["is_in_use"] for one in told["kept"]] == [True, False]
    assert kept["document"]["settings"]["kp"] == 0.4
    # It rests on how the wheel is set: with five magnets instead of four it is another loop.
    client.patch("/api/sensors/4", json={"parameters": {"per_turn": 5}})
    cracks = asked(client, "GET", "/api/rigs/1/control")["kept"][0]["cracks"]
    assert any("Rear wheel" in one for one in cracks), cracks
    bad = client.post("/api/rigs/1/tunings", json={**body, "sensor_ids": [99]})
    assert bad.status_code == 422


def test_a_run_bears_a_drive_out(client: TestClient) -> None:
    rule = {
        "kind": "stop-and-go", "parameters": {"stop_m": 0.42, "go_m": 0.5},
        "evidence": {"speed_m_per_s": 0.18, "deceleration_m_per_s2": 0.2},
    }  # fmt: skip
    asked(client, "POST", "/api/sensors/1/rules", rule)
    recordings = asked(client, "GET", "/api/sensors/1")["recordings"]
    run = next(one["id"] for one in recordings if one["name"] == "round the yard")
    told = asked(client, "GET", f"/api/sensors/1/runs/{run}")
    came = [one for one in told["figures"] if one["label"] == "came at"]
    assert came[0]["measured"] == pytest.approx(0.12, abs=0.07)
    assert all(one["at_s"] > 10.0 for one in came)
    noted = asked(
        client, "POST", "/api/sensors/1/sign-offs",
        {"stage": "driven", "is_right": True, "note": "", "recording_id": run})  # fmt: skip
    assert noted["run"] == "“round the yard”"
    other = asked(client, "GET", "/api/sensors/2")["recordings"][0]["id"]
    refused = client.post(
        "/api/sensors/1/sign-offs",
        json={"stage": "driven", "is_right": True, "note": "", "recording_id": other},
    )
    assert refused.status_code == 422


def test_the_stopping_curve_is_told_with_the_sum(asker: TestClient) -> None:
    body = {
        "kind": "stop-and-go", "evidence": {"speed_m_per_s": 0.5, "skid_m": 0.1, "slope_rad": 0.05},
        "tried": {"stop_m": 0.3, "go_m": 0.4}, "draft": {},
    }  # fmt: skip
    told = asked(asker, "POST", "/api/sensors/2/suggestion", body)
    curve = told["curve"]
    assert curve["at_x"] == 0.3
    assert sorted(curve["y"]) == curve["y"]
    # A skid of 0.1 m from 0.5 m/s brakes at 1.25 m/s² on the level, and less downhill.
    braking = next(one["value"] for one in told["parts"] if one["label"] == "braking")
    assert braking > 0.1
