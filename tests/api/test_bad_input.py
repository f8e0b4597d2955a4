"""Bad input gets a clear 4xx that says what, where and what was kept; nothing is lost."""

from __future__ import annotations

import concurrent.futures
import errno
import json

import pytest
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.api.conftest import FILES, READ_RULER, RULER

REQUESTS = [
    ("PATCH", "/api/rigs/1", {"air": {"temperature_c": 400}}, "air.temperature_c"),
    ("PATCH", "/api/rigs/1", {"air": {"temperature_c": "warm"}}, "air.temperature_c"),
    ("PATCH", "/api/rigs/1", {"colour": "red"}, "colour"),
    ("PATCH", "/api/rigs/1", {"name": "   "}, "name"),
    ("PATCH", "/api/rigs/1", {"name": "a\u0000b"}, "name"),
    ("POST", "/api/rigs", {}, "name"),
    ("POST", "/api/rigs/1/sensors", {"name": "x", "family": "nose"}, "family"),
    ("PATCH", "/api/sensors/1", {"parameters": {"median_n": 4}}, "parameters"),
    ("PATCH", "/api/sensors/1", {"parameters": {"min_m": 3, "max_m": 2}}, "parameters"),
    ("PATCH", "/api/sensors/1", {"parameters": {"air_model": "guess"}}, "parameters"),
    ("PATCH", "/api/sensors/1", {"parameters": {"colour": 3}}, "parameters"),
    ("PATCH", "/api/sensors/1", {"parameters": {"median_n": True}}, "parameters"),
    ("PATCH", "/api/sensors/1", {"parameters": {"mount_m": "far"}}, "parameters"),
    ("PUT", "/api/sensors/1/calibrations/offset-scale", {"calibration_id": 999}, "calibration_id"),
    ("PUT", "/api/sensors/1/calibrations/nothing", {"calibration_id": None}, "kind"),
    ("POST", "/api/sensors/1/rules",
     {"kind": "stop-and-go", "parameters": {"stop_m": 0.5, "go_m": 0.4}}, "parameters.go_m"),
    ("POST", "/api/sensors/1/rules", {"kind": "guess", "parameters": {}}, "kind"),
    ("POST", "/api/sensors/1/suggestion",
     {"kind": "stop-and-go", "evidence": {"deceleration_m_per_s2": 0}},
     "evidence.deceleration_m_per_s2"),
    ("POST", "/api/sensors/1/sign-offs", {"stage": "heard", "is_right": True}, "stage"),
    ("POST", "/api/recordings/1/marks", {"name": "x", "start_s": 5, "end_s": 2, "value": 1},
     "end_s"),
    ("POST", "/api/recordings/1/marks", {"name": "x", "start_s": 1e6, "end_s": 2e6, "value": 1},
     "start_s"),
    ("POST", "/api/recordings/1/marks", {"name": "x", "start_s": 1, "end_s": 2, "value": -1},
     "value"),
    ("POST", "/api/recordings/1/marks",
     {"name": "x", "start_s": 1, "end_s": 2, "value": 1, "unit": "V"}, "unit"),
    ("POST", "/api/recordings/1/marks",
     {"start_s": 1, "end_s": 2, "value": 1, "calibration": "x"}, "calibration"),
    ("POST", "/api/recordings/1/look",
     {"draft": {"rule": {"kind": "stop-and-go", "parameters": {"stop_m": 2, "go_m": 1}}}}, "rule"),
    ("POST", "/api/recordings/1/look", {"points": 10**9}, "points"),
    ("POST", "/api/recordings/1/look", {"outputs": ["depth"]}, "outputs"),
    ("POST", "/api/recordings/1/look", {"from_s": 3, "to_s": 1}, "to_s"),
    ("POST", "/api/recordings/1/look",
     {"draft": {"calibrations": {"offset-scale": "fit"}}}, "calibrations"),
    ("POST", "/api/recordings/1/look",
     {"draft": {"calibrations": {"six-face": "fit"}}}, "calibrations"),
    ("POST", "/api/recordings/1/fit", {"kind": "nothing"}, "kind"),
]  # fmt: skip


@pytest.mark.parametrize(("method", "path", "body", "field"), REQUESTS)
def test_a_bad_field_is_named(
    asker: TestClient, method: str, path: str, body: dict, field: str
) -> None:
    before = asker.get("/api/rigs/1").json()
    answer = asker.request(method, path, json=body)
    assert answer.status_code == 422, answer.text
    assert answer.headers["content-type"] == "application/problem+json"
    problem = answer.json()
    assert field in [one["field"] for one in problem["fields"]]
    assert problem["detail"]
    assert problem["kept"] == "Nothing was changed."
    assert asker.get("/api/rigs/1").json() == before


@pytest.mark.parametrize("text", ['{"air": {"temperature_c": NaN}}', '{"air": 1e999}', "{", "[]"])
def test_broken_json_is_refused(asker: TestClient, text: str) -> None:
    answer = asker.patch("/api/rigs/1", content=text, headers={"content-type": "application/json"})
    assert answer.status_code == 422
    assert answer.headers["content-type"] == "application/problem+json"


@pytest.mark.parametrize(
    "path",
    ["/api/rigs/99", "/api/sensors/0", "/api/recordings/99999999999999999999", "/api/nowhere",
     "/api/files/nothing", "/api/examples/..%2f..%2fetc%2fpasswd", "/api/marks/abc"],
)  # fmt: skip
def test_what_is_not_there_is_said(asker: TestClient, path: str) -> None:
    answer = asker.get(path)
    assert answer.status_code in (404, 405, 422)
    assert answer.headers["content-type"] == "application/problem+json"


def test_a_sensor_without_a_bench_says_so(client: TestClient) -> None:
    made = client.post("/api/rigs/1/sensors", json={"name": "Lamp", "family": "indicator_led"})
    path = f"/api/sensors/{made.json()['id']}/suggestion"
    answer = client.post(path, json={"kind": "stop-and-go"})
    assert answer.status_code == 422
    assert "LED" in answer.json()["detail"]


def test_a_decision_of_another_kind_is_refused_with_those_there_are(asker: TestClient) -> None:
    answer = asker.post("/api/sensors/5/suggestion", json={"kind": "stop-and-go"})
    assert answer.status_code == 422
    assert "known: lean-limit" in answer.json()["detail"]


@pytest.mark.parametrize(
    ("data", "said"),
    [(b"", "empty"), (b"\x00\x01", "not text"), ("t,e\n1,2".encode("utf-16"), "UTF-16")],
)
def test_files_that_are_no_logs_are_refused(client: TestClient, data: bytes, said: str) -> None:
    answer = client.post(FILES, content=data)
    assert answer.status_code == 422
    assert said in answer.json()["detail"]


def test_the_same_file_twice_is_noticed(client: TestClient, bring_in) -> None:
    first = bring_in()
    sent = client.post(FILES, content=RULER).json()
    assert [same["take_id"] for same in sent["same_file"]] == [first["take_id"]]
    refused = client.post(f"/api/files/{sent['key']}/read", json=READ_RULER)
    assert refused.status_code == 409
    assert "ruler by the bench" in refused.json()["detail"]
    meant = client.post(f"/api/files/{sent['key']}/read", json={**READ_RULER, "again": True})
    assert meant.status_code == 202


def test_reading_one_file_many_times_at_once_gives_one_recording(client: TestClient) -> None:
    key = client.post(FILES, content=RULER).json()["key"]
    with concurrent.futures.ThreadPoolExecutor(6) as pool:
        codes = sorted(
            pool.map(
                lambda _: client.post(f"/api/files/{key}/read", json=READ_RULER).status_code,
                range(6),
            )
        )
    assert codes == [202, 409, 409, 409, 409, 409]


def test_bad_lines_are_listed_with_their_numbers(client: TestClient, ruler: int) -> None:
    listed = client.get(f"/api/recordings/{ruler}/bad-lines").json()
    assert listed["total"] == 1
    assert [line["line"] for line in listed["lines"]] == [290]


def test_the_first_lines_come_back_with_what_was_understood(client: TestClient) -> None:
    sent = client.post(FILES, content=RULER).json()
    banner, header, first = sent["lines"][:3]
    assert (banner["verdict"], header["verdict"], first["verdict"]) == ("text", "header", "read")
    taken = {part["column"]: first["text"][part["start"] : part["end"]] for part in first["parts"]}
    assert [taken[column] for column in (-1, 0, 1)] == first["text"].split(",")
    assert [row["line"] for row in sent["aside"]] == [290]
    assert (sent["columns"][0]["role"], sent["columns"][0]["form"]) == ("echo", "time")


def test_a_cancelled_file_leaves_nothing(client: TestClient) -> None:
    before = client.get("/api/sensors/1").json()["recordings"]
    key = client.post(FILES, content=RULER).json()["key"]
    assert client.delete(f"/api/files/{key}").json()["state"] == "cancelled"
    assert client.post(f"/api/files/{key}/read", json=READ_RULER).status_code == 409
    assert client.get("/api/sensors/1").json()["recordings"] == before


def test_a_file_can_be_looked_at_in_another_way(client: TestClient) -> None:
    rows = b"".join(b"%d,5;%d;7\n" % (n, n % 3) for n in range(9))
    key = client.post(FILES, content=rows).json()["key"]
    look = f"/api/files/{key}/look"
    again = client.post(look, json={"separator": "comma", "decimal": "point"}).json()
    assert again["separator"] == "comma"
    assert again["columns"] == []
    assert client.post(look, json={"separator": "x"}).status_code == 422
    both = client.post(look, json={"separator": "comma", "decimal": "comma"})
    assert both.status_code == 422
    assert "both" in both.json()["detail"]
    gone = client.post(look, json={"time": "moon"})
    assert gone.status_code == 422
    assert "no column" in gone.json()["detail"]
    assert client.get(f"/api/files/{key}").json()["separator"] == "comma"


@pytest.mark.parametrize(
    ("columns", "said"),
    [
        ([{"number": 9, "sensor_id": 1}], "no column 10"),
        ([{"number": 0, "sensor_id": 9}], "not on this rig"),
        ([{"number": 0, "sensor_id": 1, "role": "nose", "form": "time"}], "no input"),
        ([{"number": 0, "sensor_id": 1, "role": "echo", "form": "song"}], "no input"),
        ([{"number": 0, "sensor_id": 1, "role": "echo", "form": "time", "unit": "kg"}], "no unit"),
        ([{"number": n, "sensor_id": 1, "role": "echo", "form": "time"} for n in (0, 1)],
         "cannot both be Echo"),
    ],
)  # fmt: skip
def test_columns_that_cannot_be_are_refused_with_the_reason(
    asker: TestClient, columns: list[dict], said: str
) -> None:
    key = asker.post(FILES, content=RULER).json()["key"]
    refused = asker.post(f"/api/files/{key}/read", json={"name": "x", "columns": columns})
    assert refused.status_code == 422
    assert said in refused.json()["detail"]
    assert asker.get(f"/api/files/{key}").json()["state"] == "waiting"


def test_centimetres_enter_the_ranger_after_sound(client: TestClient, bring_in) -> None:
    rows = "\n".join(f"{50 * n},{30 + 0.1 * (n % 5):.1f}" for n in range(200))
    done = bring_in(f"t_ms,front_cm\n{rows}\n".encode())
    recording = done["recordings"]["1"]
    seen = client.post(f"/api/recordings/{recording}/look", json={"outputs": ["distance"]}).json()
    (output,) = seen["outputs"]
    assert output["working"][0]["stage"] == "triangle" or output["working"][0]["unit"] == "m"
    assert output["working"][-1]["value"] == pytest.approx(0.29, abs=0.02)
    assert not any(step["stage"] == "air" for step in output["working"])


@pytest.mark.parametrize(
    ("headers", "status"),
    [
        ({"host": "evil.example"}, 421),
        ({"host": ""}, 421),
        ({"origin": "https://evil.example"}, 403),
        ({"origin": "null"}, 403),
        ({"origin": "http://localhost"}, 200),
        ({"origin": "http://localhost:80"}, 200),
        ({"origin": "http://localhost:8041"}, 403),
        ({"origin": "https://localhost"}, 403),
        ({"origin": "http://127.0.0.1"}, 403),
        ({"origin": "http://localhost:99999"}, 403),
        ({"host": "localhost:8040", "origin": "http://localhost:8040"}, 200),
        ({"host": "localhost:8040", "origin": "http://localhost"}, 403),
    ],
)
def test_only_our_own_pages_may_ask(asker: TestClient, headers: dict, status: int) -> None:
    answer = asker.patch("/api/rigs/1", json={}, headers=headers)
    assert answer.status_code == status
    for name in ("content-security-policy", "x-content-type-options", "referrer-policy"):
        assert answer.headers[name], name


def test_every_answer_carries_a_strict_policy(asker: TestClient) -> None:
    policy = asker.get("/api/rigs").headers["content-security-policy"]
    assert "default-src 'self'" in policy
    assert "unsafe" not in policy


def test_an_oversized_body_is_refused(asker: TestClient) -> None:
    huge = json.dumps({"name": "x" * 2_000_000})
    as_json = {"content-type": "application/json"}
    assert asker.post("/api/rigs", content=huge, headers=as_json).status_code == 413
    in_pieces = asker.post("/api/rigs", content=iter([huge.encode()] * 2), headers=as_json)
    assert in_pieces.status_code == 413
    assert "larger than" in in_pieces.json()["detail"]


@pytest.mark.parametrize("text", [r"a\u0000b", r"\ud800", r"x\udc80"])
@pytest.mark.parametrize(
    ("path", "body"),
    [
        ("/api/rigs", '{"name": "%s"}'),
        ("/api/rigs", '{"name": "x", "description": "%s"}'),
        ("/api/rigs/1/sensors", '{"name": "x", "family": "%s"}'),
        ("/api/sensors/1/sign-offs", '{"stage": "driven", "is_right": true, "note": "%s"}'),
        ("/api/rigs/1/wiring/import", '{"text": "%s"}'),
    ],
)
def test_what_no_text_holds_is_refused(asker: TestClient, path: str, body: str, text: str) -> None:
    answer = asker.post(path, content=body % text, headers={"content-type": "application/json"})
    assert answer.status_code == 422, answer.text


def test_the_stopping_sum_stays_a_number_beyond_the_reach_of_the_ranger(asker: TestClient) -> None:
    evidence = {"speed_m_per_s": 1, "speed_u": 100, "deceleration_m_per_s2": 56.6}
    tried = {"stop_m": 19.65, "go_m": 20.0}
    body = {"kind": "stop-and-go", "evidence": evidence, "tried": tried}
    answer = asker.post("/api/sensors/1/suggestion", json=body)
    assert answer.status_code == 200, answer.text
    assert {part["label"]: part["value"] for part in answer.json()["parts"]}["doubt"] > 0
    assert "is good up to 0.00 m/s" in answer.json()["tried_says"]


def test_a_ranger_that_can_read_nothing_has_no_stopping_sum_and_says_why(
    client: TestClient,
) -> None:
    deaf = {"parameters": {"min_m": 3.0, "max_m": 4.0, "timeout_us": 2_000.0}}
    assert client.patch("/api/sensors/1", json=deaf).status_code == 200
    sum_of = {"speed_m_per_s": 1.0, "deceleration_m_per_s2": 1.0}
    asked = {"kind": "stop-and-go", "evidence": sum_of}
    kept = {**asked, "parameters": {"stop_m": 0.5, "go_m": 0.6}}
    for path, body in (("suggestion", asked), ("rules", kept)):
        answer = client.post(f"/api/sensors/1/{path}", json=body)
        assert answer.status_code == 422, answer.text
        assert "its range, 3 to 4 m, and its echo timeout of 2 ms" in answer.json()["detail"]


def test_a_full_disk_is_told_as_such(client: TestClient, monkeypatch: pytest.MonkeyPatch) -> None:
    def no_room(*_: object) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr("tickstone.api.receiving._check_room", no_room)
    answer = client.post(FILES, content=RULER)
    assert answer.status_code == 507
    assert "Make some" in answer.json()["detail"]


@settings(max_examples=60, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    body=st.recursive(
        st.none() | st.booleans() | st.integers() | st.floats() | st.text(max_size=20),
        lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=12), inner),
        max_leaves=8,
    ),
    path=st.sampled_from(
        ["/api/rigs", "/api/recordings/1/look", "/api/recordings/1/marks", "/api/recordings/1/fit",
         "/api/sensors/1/suggestion", "/api/sensors/1/rules", "/api/sensors/1/sign-offs",
         "/api/rigs/1/sensors"]
    ),
)  # fmt: skip
def test_nothing_that_is_sent_ends_in_a_500(client: TestClient, body: object, path: str) -> None:
    answer = client.post(
        path, content=json.dumps(body), headers={"content-type": "application/json"}
    )
    assert answer.status_code < 500, answer.text


@pytest.mark.parametrize(
    ("path", "what"),
    [
        ("takes/999", "recording"),
        ("marks/999", "mark"),
        ("sign-offs/999", "sign-off"),
        ("sensors/999", "sensor"),
        ("rigs/999", "rig"),
    ],
)
def test_what_is_not_there_is_called_as_on_the_page(
    client: TestClient, path: str, what: str
) -> None:
    answer = client.delete(f"/api/{path}")
    assert answer.status_code == 404
    assert answer.json()["detail"].startswith(f"There is no such {what};")
