"""Files in and out through the API: any format, whole rigs, and what is refused before it hurts."""

from __future__ import annotations

import io
import json
import zipfile
from typing import Any

import numpy as np
import pandas
import pytest
from fastapi.testclient import TestClient
from pyarrow import parquet
from sqlalchemy import Engine, text

from tests.board import wait_for
from tickstone.core.wiring.netlist import MOST_DEVICES

BRAMBLE = 1
LOG = b"t_ms,front_us,left_us\n" + b"".join(
    b"%d,%d,%d\n" % (40 * n, 5831 + n % 7, 2040 + n % 5) for n in range(500)
)


def sent(client: TestClient, data: bytes, name: str = "walk-3.csv") -> dict[str, Any]:
    answer = client.post(f"/api/rigs/{BRAMBLE}/files", params={"source_name": name}, content=data)
    assert answer.status_code == 201, answer.text
    return answer.json()


def brought_in(client: TestClient, data: bytes = LOG, **more: Any) -> dict[str, Any]:
    """A file read into a take."""
    file = sent(client, data)
    sensors = {str(c["number"]): c["sensor_id"] for c in file["columns"] if c["sensor_id"]}
    columns = [{"number": int(n), "sensor_id": one} for n, one in sensors.items()]
    body = {"name": "walk 3", "columns": columns, **more}
    answer = client.post(f"/api/files/{file['key']}/read", json=body)
    assert answer.status_code == 202, answer.text

    def ended() -> dict[str, Any] | None:
        state = client.get(f"/api/files/{file['key']}").json()
        return state if state["state"] != "reading" else None

    return wait_for(ended)


def test_a_log_becomes_a_take_of_its_sensors(client: TestClient) -> None:
    file = sent(client, LOG)
    assert file["format"] == "csv"
    assert file["rows"] == 500
    assert [(c["name"], c["unit"], c["guess"], c["sensor_id"]) for c in file["columns"]] == [
        ("front", "µs", "echo time", 1),
        ("left", "µs", "echo time", 2),
    ]
    assert file["rate_hz"] == pytest.approx(25.0)
    state = brought_in(client)
    assert state["state"] == "done"
    take = client.get(f"/api/takes/{state['take_id']}").json()
    assert take["samples"] == 500
    assert [c["recording_id"] is not None for c in take["channels"]] == [True, True]
    again = sent(client, LOG)
    assert again["same_file"][0]["name"] == "walk 3"
    refused = client.post(f"/api/files/{again['key']}/read", json={"name": "x"})
    assert refused.status_code == 409
    cancelled = client.delete(f"/api/files/{again['key']}").json()
    assert cancelled["state"] == "cancelled"


@pytest.mark.parametrize("form", ["csv", "jsonl", "parquet", "mcap"])
def test_out_and_in_again_is_the_same(client: TestClient, form: str) -> None:
    first = brought_in(client)["take_id"]
    out = client.get(f"/api/takes/{first}/file", params={"format": form})
    assert out.status_code == 200
    assert f"walk-3.{form}" in out.headers["content-disposition"]
    second = brought_in(client, out.content, again=True)["take_id"]
    ask = {"channels": [{"channel": 0}, {"channel": 1}], "points": 8000}
    one = client.post(f"/api/takes/{first}/plot", json=ask).json()["series"]
    two = client.post(f"/api/takes/{second}/plot", json=ask).json()["series"]
    for left, right in zip(one, two, strict=True):
        assert left["low"] == right["low"]
        np.testing.assert_allclose(left["time_s"], right["time_s"], atol=1e-6)


def test_what_is_drawn_opens_as_numbers_in_a_data_frame(
    client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Written in pieces it is what the plot shows, to the last digit."""
    monkeypatch.setattr("tickstone.work.takes.exporting._ROWS_AT_ONCE", 70)
    take_id = brought_in(client)["take_id"]
    window = {"from_s": 4.0, "to_s": 15.0}
    drawn = [{"channel": 0, "stage": "median"}, {"channel": 1, "stage": ""}]
    plot = client.post(
        f"/api/takes/{take_id}/plot", json={"channels": drawn, "points": 8000, **window}
    ).json()
    out = client.get(f"/api/takes/{take_id}/drawn", params={"draw": ["0:median", "1:"], **window})
    frame = pandas.read_csv(io.BytesIO(out.content))
    assert list(frame.columns) == ["t_us", "front after median [m]", "left [µs]"]
    assert [kind.kind in "if" for kind in frame.dtypes] == [True] * 3
    for column, series in zip(frame.columns[1:], plot["series"], strict=True):
        assert frame[column].tolist() == series["low"]
    for bad in ("9:", "0:banana", "banana", "0:;", ":"):
        refused = client.get(f"/api/takes/{take_id}/drawn", params={"draw": bad})
        assert refused.status_code == 422, bad


def test_every_format_and_what_a_take_does_not_fit(client: TestClient) -> None:
    take = brought_in(client)["take_id"]
    formats = {one["name"]: one for one in client.get("/api/formats").json()}
    assert set(formats) == {"csv", "jsonl", "parquet", "vcd", "mcap", "wav"}
    wav = client.get(f"/api/takes/{take}/file", params={"format": "wav", "channel": 0})
    assert wav.content[:4] == b"RIFF"
    for query in (
        {"format": "vcd"},
        {"format": "wav"},
        {"format": "xls"},
        {"format": "csv", "channel": 9},
    ):
        refused = client.get(f"/api/takes/{take}/file", params=query)
        assert refused.status_code == 422
        assert refused.headers["content-type"] == "application/problem+json"
    description = client.get(f"/api/takes/{take}/description").json()
    assert description["channels"][0]["sensor"] == "Front ranger"


def test_a_log_without_time_asks_for_its_rate(client: TestClient) -> None:
    data = b"ax,ay\n" + b"".join(b"%d,%d\n" % (n * 37 % 11, n * 53 % 13) for n in range(60))
    file = sent(client, data)
    assert file["needs_rate"]
    refused = client.post(f"/api/files/{file['key']}/read", json={"name": "x"})
    assert refused.status_code == 422
    assert refused.json()["fields"][0]["field"] == "rate_hz"
    state = brought_in(client, data, rate_hz=50.0)
    assert client.get(f"/api/takes/{state['take_id']}").json()["rate_hz"] == pytest.approx(50.0)


@pytest.mark.parametrize(
    ("data", "words"),
    [(b"", "empty"), (b"\0\1\2\3", "not text"), (b"PAR1garbage", "damaged"), (b"PK\x03\x04", "zip"),
     (b"\x89MCAP0\r\n\x01", "damaged"), (b"just words\nand more\n", "No line")],
)  # fmt: skip
def test_what_is_no_recording_is_refused(client: TestClient, data: bytes, words: str) -> None:
    answer = client.post(f"/api/rigs/{BRAMBLE}/files", params={"source_name": "x"}, content=data)
    assert answer.status_code == 422
    assert words in answer.json()["detail"]


def test_five_gigabytes_are_refused_unread(client: TestClient) -> None:
    for path in (f"/api/rigs/{BRAMBLE}/files", "/api/archives"):
        answer = client.post(path, content=b"x", headers={"content-length": str(5 * 1024**3)})
        assert answer.status_code == 413
        assert "MiB" in answer.json()["detail"]


def test_a_sensor_of_another_rig_is_refused(client: TestClient) -> None:
    file = sent(client, LOG)
    answer = client.post(
        f"/api/files/{file['key']}/read",
        json={"name": "x", "columns": [{"number": 0, "sensor_id": 9}]},
    )
    assert answer.status_code == 422


def test_a_rig_goes_out_and_comes_in(client: TestClient) -> None:
    brought_in(client)
    out = client.get(f"/api/rigs/{BRAMBLE}/archive")
    with zipfile.ZipFile(io.BytesIO(out.content)) as archive:
        document = json.loads(archive.read("rig.json"))
        tables = [n for n in archive.namelist() if n.endswith(".parquet")]
        assert parquet.read_table(io.BytesIO(archive.read(tables[-1]))).num_rows == 500
    assert document["rig"]["name"] == "Bramble"
    made = client.post("/api/archives", content=out.content)
    assert made.status_code == 201, made.text
    rig = client.get(f"/api/rigs/{made.json()['rig_id']}").json()
    assert rig["name"] == "Bramble (2)"
    old = client.get(f"/api/rigs/{BRAMBLE}").json()
    assert [[s["state"] for s in sensor["stones"]] for sensor in rig["sensors"]] == [
        [s["state"] for s in sensor["stones"]] for sensor in old["sensors"]
    ]
    for data in (b"", out.content[: len(out.content) // 2], b"PK\x03\x04"):
        refused = client.post("/api/archives", content=data)
        assert refused.status_code == 422
        assert "kept" in refused.json()


def test_takes_are_found_tagged_edited_and_brought_back(client: TestClient) -> None:
    take = brought_in(client)["take_id"]
    change = {
        "name": "curtain 50%_x",
        "tags": ["bench", "curtain"],
        "conditions": {"notes": "lamp"},
    }
    assert client.patch(f"/api/takes/{take}", json=change).json()["tags"] == ["bench", "curtain"]

    def found(**query: Any) -> list[str]:
        return [t["name"] for t in client.get(f"/api/rigs/{BRAMBLE}/takes", params=query).json()]

    assert found(search="50%_x lamp") == ["curtain 50%_x"]
    assert found(search="bench curt") == ["curtain 50%_x"]
    assert found(search="50%zx") == []
    assert found(tag="bench") == ["curtain 50%_x"]
    parts = client.post(f"/api/takes/{take}/split", json={"at_s": 4.0}).json()
    assert [part["name"] for part in parts] == ["curtain 50%_x, part 1", "curtain 50%_x, part 2"]
    assert found(search="50%_x", put_away=True) == ["curtain 50%_x"]
    joined = client.post(
        "/api/takes/join", json={"take_ids": [part["id"] for part in parts], "name": "all"}
    ).json()
    assert joined["samples"] == 500
    trimmed = client.post(f"/api/takes/{joined['id']}/trim", json={"from_s": 1, "to_s": 2}).json()
    assert trimmed["samples"] == pytest.approx(26, abs=1)
    assert client.post(f"/api/takes/{take}/restore").json()["name"] == "curtain 50%_x"
    assert client.delete(f"/api/takes/{take}").status_code == 204
    for path, body in (
        (f"/api/takes/{joined['id']}/trim", {"from_s": 2, "to_s": 1}),
        ("/api/takes/join", {"take_ids": [trimmed["id"], 2], "name": "x"}),
    ):
        assert client.post(path, json=body).status_code in (404, 422)


def test_marks_of_rangers_are_those_calibrations_rest_on(client: TestClient) -> None:
    take = brought_in(client)["take_id"]
    mark = {"channel": 0, "start_s": 1, "end_s": 3, "value": 0.99, "unit": "m"}
    made = client.post(f"/api/takes/{take}/marks", json=mark).json()
    assert made["calibration"] == "offset-scale"
    note = client.post(f"/api/takes/{take}/marks", json={"start_s": 2, "end_s": 2, "name": "bump"})
    assert note.json()["calibration"] == ""
    recording = client.get(f"/api/takes/{take}").json()["channels"][0]["recording_id"]
    marks = client.get(f"/api/recordings/{recording}/marks").json()
    assert [one["value"] for one in marks] == [0.99]
    assert len(client.get(f"/api/takes/{take}/marks").json()) == 2
    client.delete(f"/api/marks/{note.json()['id']}")
    assert len(client.get(f"/api/takes/{take}/marks").json()) == 1
    client.post(f"/api/marks/{note.json()['id']}/restore")
    assert len(client.get(f"/api/takes/{take}/marks").json()) == 2
    bad = {"channel": 0, "start_s": 3, "end_s": 1}
    assert client.post(f"/api/takes/{take}/marks", json=bad).status_code == 422


def test_a_selection_is_measured(client: TestClient) -> None:
    take = brought_in(client)["take_id"]
    body = {"channel": 0, "from_s": 2.0, "to_s": 4.0}
    found = client.post(f"/api/takes/{take}/selection", json=body).json()
    assert found["n"] == 51
    assert found["mean"] == pytest.approx(5834, abs=1)
    staged = client.post(f"/api/takes/{take}/selection", json={**body, "stage": "air"}).json()
    assert staged["unit"] == "m"
    for wrong in ({"channel": 60}, {"stage": "nothing"}, {"from_s": 5.0, "to_s": 1.0}):
        assert (
            client.post(f"/api/takes/{take}/selection", json={**body, **wrong}).status_code == 422
        )


SPOILT = [
    ("rig", "temperature_c", float("nan"), "NaN"),
    ("rig", "temperature_c", 1e9, "temperature_c"),
    ("rig", "name", "", "name"),
    ("sensors", "fitting", {"facing_rad": 1e6}, "facing_rad"),
    ("sensors", "parameters", {"median_n": 4}, "median"),
    ("sensors", "parameters", {"min_m": 3.0, "max_m": 2.0}, "range"),
    ("takes", "relative_humidity", 7.0, "relative_humidity"),
    ("takes", "first_time_us", 2**63 - 1, "first_time_us"),
    ("marks", "value", -1.0, "value"),
    ("calibrations", "parameters", {"offset": 0.0, "scale": 0.0}, "scale"),
    ("calibrations", "covariance", [[1.0]], "covariance"),
    ("calibrations", "kind", "nothing", "kind"),
    ("rules", "parameters", {"stop_m": 1e6, "go_m": 2e6}, "stop_m"),
    ("rules", "kind", "nothing", "rule"),
    ("in_use", "calibration_id", 10**9, "hold together"),
    ("ticks", "measured_v", 1e9, "measured_v"),
    ("ticks", "skipped_why", "x" * 500, "skipped_why"),
]


@pytest.fixture(scope="module")
def archive(asker: TestClient) -> bytes:
    """Bramble, whole."""
    return asker.get(f"/api/rigs/{BRAMBLE}/archive").content


@pytest.mark.parametrize(("section", "field", "value", "said"), SPOILT)
def test_what_nobody_could_have_entered_does_not_come_in_by_an_archive(
    asker: TestClient, archive: bytes, section: str, field: str, value: Any, said: str
) -> None:
    answer = asker.post("/api/archives", content=spoilt(archive, section, field, value))
    assert answer.status_code == 422, answer.text
    assert said in answer.json()["detail"]
    assert [rig["name"] for rig in asker.get("/api/rigs").json()] == ["Bramble", "Pipit"]


def spoilt(archive: bytes, section: str, field: str, value: Any) -> bytes:
    """An archive with one field of the first row of a section changed."""
    whole = zipfile.ZipFile(io.BytesIO(archive))
    document = json.loads(whole.read("rig.json"))
    rows = [document["rig"]] if section == "rig" else document[section]
    assert rows, section
    rows[0][field] = value
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as changed:
        for name in whole.namelist():
            data = json.dumps(document) if name == "rig.json" else whole.read(name)
            changed.writestr(name, data)
    return out.getvalue()


def test_a_rig_takes_as_many_devices_as_a_wiring_and_no_more(client: TestClient) -> None:
    rig = client.post("/api/rigs", json={"name": "Full", "board": "five_volt_8bit"}).json()["id"]
    added = [
        client.post(
            f"/api/rigs/{rig}/sensors", json={"name": f"eye {n}", "family": "indicator_led"}
        )
        for n in range(MOST_DEVICES + 1)
    ]
    assert [answer.status_code for answer in added] == [201] * MOST_DEVICES + [409]
    assert "Remove one first" in added[-1].json()["detail"]
    first = added[0].json()["id"]
    assert client.delete(f"/api/sensors/{first}").status_code == 204
    assert client.post(
        f"/api/rigs/{rig}/sensors", json={"name": "last", "family": "indicator_led"}
    ).is_success
    assert client.post(f"/api/sensors/{first}/restore").status_code == 409
    assert len(client.get("/api/rigs").json()) == 3
    assert client.get(f"/api/rigs/{rig}/wiring").status_code == 200


def test_a_rig_that_does_not_hold_together_is_shown_as_such(
    client: TestClient, planted_engine: Engine
) -> None:
    """However it came to be so: the others are there, and the bad one says why."""
    with planted_engine.begin() as connection:
        connection.execute(text("UPDATE rig SET temperature_c = 'NaN' WHERE id = 1"))
    bramble, pipit = client.get("/api/rigs").json()
    assert "temperature" in bramble["trouble"]
    assert (pipit["trouble"], pipit["stones"] > 0) == ("", True)
    assert "temperature" in client.get("/api/rigs/1").json()["trouble"]
    mended = client.patch("/api/rigs/1", json={"air": {"temperature_c": 20}})
    assert mended.json()["trouble"] == ""
