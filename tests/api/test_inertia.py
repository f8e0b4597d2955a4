"""Inertia through the API: schedule, faces held hands free, zero and read, filters, constants."""

from __future__ import annotations

import json
from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.api.test_light import read_to_end
from tests.board import wait_for
from tests.kinds.loads import asked
from tickstone.demo.logs import DECK_FACES, log_path

LINE = "/api/rigs/1/line"


def deck_of(client: TestClient) -> dict[str, Any]:
    rig = asked(client, "GET", "/api/rigs/1")
    row = next(one for one in rig["sensors"] if one["name"] == "Deck level")
    return asked(client, "GET", f"/api/sensors/{row['id']}")


@pytest.fixture
def faces(client: TestClient) -> tuple[int, int]:
    """The deck unit, and the take in which its faces were held."""
    deck = deck_of(client)
    sent = client.post(
        "/api/rigs/1/files", params={"source_name": "faces.csv"},
        content=log_path(DECK_FACES).read_bytes(),
    )  # fmt: skip
    columns = [{"number": n, "sensor_id": deck["id"]} for n in range(6)]
    key = sent.json()["key"]
    asked(client, "POST", f"/api/files/{key}/read", {"name": "faces", "columns": columns})
    recording = read_to_end(client, key)[str(deck["id"])]
    again = asked(client, "GET", f"/api/sensors/{deck['id']}")
    take = next(one["take_id"] for one in again["recordings"] if one["id"] == recording)
    return deck["id"], take


def test_the_schedule_says_what_is_made_what_is_left_and_what_is_old(client: TestClient) -> None:
    due = {one["kind"]: one for one in deck_of(client)["schedule"]}
    assert due["six-face"]["state"] == "hollow"
    assert due["rest-bias"]["state"] == "stale"
    assert due["level-zero"]["short"] == "if you like"


def test_faces_are_held_hands_free_and_become_a_calibration(
    client: TestClient, faces: tuple[int, int]
) -> None:
    sensor, take = faces
    guide = f"/api/sensors/{sensor}/guides/six-face"
    assert client.get(guide).status_code == 409
    asked(client, "POST", f"{LINE}/replay", {"take_id": take, "pace": 12})
    wait_for(lambda: client.get(LINE).json()["rows"] > 3)
    asked(client, "POST", f"{LINE}/record", {"name": "held"})
    seen = wait_for(lambda: one if (one := client.get(guide).json())["is_done"] else None)
    assert {one["name"] for one in seen["done"]} == {
        "x up", "x down", "y up", "y down", "z up", "z down",
    }  # fmt: skip
    assert seen["says"] == "All held"
    assert client.get(f"/api/sensors/{sensor}/guides/turn-scale").status_code == 422
    made = asked(client, "POST", guide, {"from_axis_s": 0.0})
    assert made["marks"] == 6
    recording = made["recording_id"]
    fit = asked(client, "POST", f"/api/recordings/{recording}/fit", {"kind": "six-face"})
    assert fit["problem"] == ""
    assert fit["statistics"]["residual_mg"] < 5.0
    assert fit["reads"]["small"]["metric"]["unit"] == "mg"
    kept = asked(client, "POST", f"/api/recordings/{recording}/calibrations", {"kind": "six-face"})
    taken = client.get(f"/api/calibrations/{kept['id']}/constants")
    assert "attachment" in taken.headers["content-disposition"]
    document = taken.json()
    assert document["kind"] == "six-face"
    assert len(document["parameters"]["matrix"]) == 3
    assert document["residual_mg"] == pytest.approx(fit["statistics"]["residual_mg"])
    assert client.get("/api/calibrations/999999/constants").status_code == 404


def test_a_turn_is_zeroed_and_read(client: TestClient, faces: tuple[int, int]) -> None:
    sensor, take = faces
    path = f"/api/sensors/{sensor}/readings/turned"
    asked(client, "POST", f"{LINE}/replay", {"take_id": take, "pace": 30})
    wait_for(lambda: client.get(LINE).json()["axis_s"] > 30.0)
    whole = asked(client, "GET", path)
    late = asked(client, "GET", f"{path}?from_axis_s={whole['axis_s'] - 0.5}")
    assert abs(late["step"]["value"]) < abs(whole["step"]["value"])
    assert late["step"]["u"] < whole["step"]["u"]
    assert client.get(f"/api/sensors/{sensor}/readings/nothing").status_code == 409


def test_filters_are_compared_on_an_output_and_on_a_channel(client: TestClient) -> None:
    deck = deck_of(client)
    recording = deck["recordings"][0]
    body = {
        "output": "force", "lane": 1, "speed_m_per_s": 0.5,
        "filters": [{"words": "median:n=5"}, {"words": "kalman:q=1e-4,r=1e-3"},
                    {"words": "mean:n=9", "is_hindsight": True}],
    }  # fmt: skip
    told = asked(client, "POST", f"/api/recordings/{recording['id']}/filters", body)
    assert [one["words"] for one in told["rows"]] == [
        "none", "median:n=5", "kalman:q=1e-4,r=1e-3", "mean:n=9",
    ]  # fmt: skip
    assert told["can_take"]
    assert told["rows"][1]["noise"] < told["noise"]
    assert told["rows"][2]["innovations"]["says"]
    assert len(told["rows"][3]["hz"]) == len(told["rows"][3]["density"]) > 20
    level = asked(client, "POST", f"/api/recordings/{recording['id']}/filters", {"output": "level"})
    assert (level["can_take"], level["filtered"]) == (False, "Felt")
    raw = asked(
        client, "POST", f"/api/takes/{recording['take_id']}/channels/0/filters",
        {"filters": [{"words": "slew:per_s=100"}]},
    )  # fmt: skip
    assert raw["quantity"]["name"] == "acceleration"
    assert {one["name"] for one in asked(client, "GET", "/api/filters")} >= {"median", "kalman"}


@pytest.mark.parametrize(
    ("body", "says"),
    [
        ({"filters": [{"words": "magic"}]}, "there is no filter"),
        ({"filters": [{"words": "median:n=4"}]}, "odd"),
        ({"output": "nothing"}, "here is no output"),
        ({"output": "level", "lane": 7}, "lanes"),
        ({"from_s": 5.0, "to_s": 5.1}, "20 at least"),
        ({"filters": [{"words": "slew"}] * 7}, ""),
    ],
)
def test_what_cannot_be_filtered_is_refused(asker: TestClient, body: dict, says: str) -> None:
    recording = deck_of(asker)["recordings"][0]["id"]
    answer = asker.post(f"/api/recordings/{recording}/filters", json=body)
    assert answer.status_code == 422
    assert says in answer.text


def test_a_filter_stands_in_the_chain_once_it_is_used(client: TestClient) -> None:
    deck = deck_of(client)
    parameters = {**deck["parameters"], "smooth": "low-pass:hz=2"}
    asked(client, "PATCH", f"/api/sensors/{deck['id']}", {"parameters": parameters})
    recording = deck["recordings"][0]["id"]
    look = asked(client, "POST", f"/api/recordings/{recording}/look", {"outputs": ["level"]})
    assert "smooth" in [step["stage"] for step in look["outputs"][0]["working"]]
    wrong = client.patch(
        f"/api/sensors/{deck['id']}", json={"parameters": {**parameters, "smooth": "magic"}}
    )
    assert wrong.status_code == 422
    assert "there is no filter" in wrong.text


def test_braking_is_handed_to_the_rangers_of_the_rig(client: TestClient) -> None:
    deck = deck_of(client)
    recording = deck["recordings"][0]["id"]
    told = asked(client, "POST", f"/api/recordings/{recording}/digests/braking", {})
    (braking,) = [one for one in told["stretches"][0]["figures"] if one["name"] == "braking"]
    assert braking["value"] > 1.0
    feeds = {(one["sensor"], one["rule"]) for one in braking["feeds"]}
    assert ("Front ranger", "stop-and-go") in feeds
    assert all(one["u_input"] == "deceleration_u" for one in braking["feeds"])


def test_every_decision_of_the_deck_is_suggested_kept_and_replayed(client: TestClient) -> None:
    deck = deck_of(client)
    path = f"/api/sensors/{deck['id']}"
    recording = deck["recordings"][0]["id"]
    for rule in ("lean-limit", "level-band", "turned-by", "bump"):
        told = asked(client, "POST", f"{path}/suggestion", {"kind": rule})
        assert told["parts"], rule
        usual = {
            one["name"]: one["default"]
            for kind in deck["bench"]["rules"] if kind["name"] == rule
            for one in kind["parameters"]
        } | told["parameters"]  # fmt: skip
        asked(client, "POST", f"{path}/rules", {"kind": rule, "parameters": usual})
    look = asked(client, "POST", f"/api/recordings/{recording}/look", {})
    decided = {one["name"] for one in look["outputs"] if one["quantity"]["states"]}
    assert decided == {"stand", "levelness", "turning", "bump"}
    assert json.dumps(look).count("NaN") == 0


def test_marks_of_faces_that_will_not_do_are_said_and_nothing_is_lost(
    client: TestClient, faces: tuple[int, int]
) -> None:
    sensor, _ = faces
    detail = asked(client, "GET", f"/api/sensors/{sensor}")
    recording = max(one["id"] for one in detail["recordings"])
    mark = {"calibration": "six-face", "pose": "any face", "start_s": 0.5, "end_s": 3.0}
    asked(client, "POST", f"/api/recordings/{recording}/marks", mark)
    fit = asked(client, "POST", f"/api/recordings/{recording}/fit", {"kind": "six-face"})
    assert "4 at least" in fit["problem"]
    refused = client.post(f"/api/recordings/{recording}/calibrations", json={"kind": "six-face"})
    assert refused.status_code == 422
    before = [one for one in detail["calibrations"] if one["is_in_use"]]
    after = asked(client, "GET", f"/api/sensors/{sensor}")["calibrations"]
    assert [one["id"] for one in before] == [one["id"] for one in after if one["is_in_use"]]


def test_ways_to_fuse_are_held_against_angles_that_were_marked(client: TestClient) -> None:
    deck = deck_of(client)
    recording = next(one for one in deck["recordings"] if "ramp" in one["name"])
    marks = f"/api/takes/{recording['take_id']}/marks"
    path = f"/api/recordings/{recording['id']}/digests/fusions"

    def off() -> dict[str, float]:
        told = asked(client, "POST", path, {})
        return {
            one["name"]: one["value"] for one in told["stretches"][0]["figures"]
            if one["name"].endswith("_off_marked")
        }  # fmt: skip

    assert off() == {}
    # In another unit it says nothing that can be relied on.
    wrong = {"name": "true pitch", "start_s": 8.0, "end_s": 9.0, "value": -8.5, "unit": "°"}
    asked(client, "POST", marks, wrong)
    assert off() == {}
    made = asked(client, "POST", marks, {**wrong, "value": -0.14835, "unit": "rad"})
    near = off()
    assert set(near) == {
        f"{one}_off_marked"
        for one in ("complementary", "kalman", "madgwick", "mahony", "accelerometer")
    }
    assert max(near.values()) < 0.02
    asked(client, "PUT", f"/api/marks/{made['id']}", {**wrong, "value": 0.2, "unit": "rad"})
    assert min(off().values()) > 0.3


def test_a_new_sensor_compares_with_what_its_board_does(client: TestClient) -> None:
    def reference_v(rig: int, family: str) -> float:
        body = {"name": "one more", "family": family}
        return float(
            asked(client, "POST", f"/api/rigs/{rig}/sensors", body)["parameters"]["reference_v"]
        )

    for family in ("accelerometer_analogue_bare", "battery_divider"):
        assert reference_v(1, family) == 5.0
        assert reference_v(2, family) == 3.3


def test_the_karts_part_feels_one_g_as_it_is_planted(client: TestClient) -> None:
    rig = asked(client, "GET", "/api/rigs/2")
    row = next(one for one in rig["sensors"] if one["name"] == "G meter")
    meter = asked(client, "GET", f"/api/sensors/{row['id']}")
    assert meter["parameters"]["reference_v"] == 3.3
    assert len(meter["recordings"]) == 2
    for recording in meter["recordings"]:
        # Held upright at first: as the stand-in board is, which reads against the same 3.3 V.
        body = {"from_s": 0.0, "to_s": 0.25}
        look = asked(client, "POST", f"/api/recordings/{recording['id']}/look", body)
        size = next(one for one in look["outputs"] if one["name"] == "size")
        felt = [one for one in size["lines"][0]["low"] if one is not None]
        assert sum(felt) / len(felt) == pytest.approx(9.81, rel=0.12), recording["name"]


def test_rows_of_filters_stand_as_they_are_asked_for(asker: TestClient) -> None:
    recording = deck_of(asker)["recordings"][0]["id"]
    filters = [
        {"words": "mean:n=9", "is_hindsight": True},
        {"words": "kalman:q=1e-4,r=1e-3"},
        {"words": "kalman:q=1e-4,r=1e-3", "is_hindsight": True},
    ]
    body = {"output": "force", "filters": filters}
    told = asked(asker, "POST", f"/api/recordings/{recording}/filters", body)
    rows = [(one["words"], one["is_hindsight"]) for one in told["rows"]]
    assert rows == [("none", False), *((f["words"], bool(f.get("is_hindsight"))) for f in filters)]
    live, behind = told["rows"][2:]
    assert behind["delay_s"] < live["delay_s"]
    part = asked(
        asker, "POST", f"/api/recordings/{recording}/filters",
        {**body, "from_s": 1.0, "to_s": 3.0},
    )  # fmt: skip
    assert part["samples"] == part["of"] < told["samples"]


@pytest.mark.parametrize(
    ("path", "says"),
    [
        ("/api/takes/{take}/channels/99/filters", "there is no channel 99"),
        ("/api/takes/999999/channels/0/filters", ""),
        ("/api/recordings/999999/filters", ""),
    ],
)
def test_what_is_not_there_cannot_be_filtered(asker: TestClient, path: str, says: str) -> None:
    take = deck_of(asker)["recordings"][0]["take_id"]
    answer = asker.post(path.format(take=take), json={"filters": [{"words": "slew"}]})
    assert answer.status_code == (422 if says else 404)
    assert says in answer.text


@pytest.mark.parametrize(
    ("path", "status", "says"),
    [
        ("guides/six-face", 409, "No line is open"),
        ("guides/magic", 409, "No line is open"),
        ("readings/turned", 409, "No line is open"),
        ("guides/six-face?from_axis_s=-1", 422, "from_axis_s"),
    ],
)
def test_without_a_line_nothing_is_held(
    asker: TestClient, path: str, status: int, says: str
) -> None:
    answer = asker.get(f"/api/sensors/{deck_of(asker)['id']}/{path}")
    assert answer.status_code == status
    assert says in answer.text


def test_suggested_gains_are_tried_without_being_kept(asker: TestClient) -> None:
    deck = deck_of(asker)
    recording = next(one for one in deck["recordings"] if "ramp" in one["name"])["id"]
    path = f"/api/recordings/{recording}/digests/fusions"
    first = asked(asker, "POST", path, {})["stretches"][0]["figures"]
    offered = {one["name"]: one["sets"] for one in first if one["sets"]}
    assert set(offered) == {"tau", "tilt", "kp", "beta"}
    for sets in offered.values():
        draft = {"parameters": {**deck["parameters"], **sets}}
        look = asked(
            asker, "POST", f"/api/recordings/{recording}/look",
            {"outputs": ["attitude"], "draft": draft},
        )  # fmt: skip
        label = look["outputs"][0]["working"][-1]["label"].lower()
        assert label.startswith(str(sets["fusion"]))
        again = asked(asker, "POST", path, {"draft": draft})["stretches"][0]["figures"]
        # What is suggested rests on the noise, not on what is set.
        assert {one["name"]: one["sets"] for one in again if one["sets"]} == offered
    assert deck_of(asker)["parameters"] == deck["parameters"]
    table = asker.get(f"{path}/csv").text.splitlines()
    assert table[0].startswith("lap,from_s,to_s,complementary_off,u_complementary_off")
    assert len(table) == 2
