"""A rig's line from port to recording, over a real pseudo-terminal."""

from __future__ import annotations

import json
import os
import pty
import time
import tty
import uuid
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from fastapi.testclient import TestClient
from starlette.websockets import WebSocketDisconnect

from tests.board import BoardProcess, wait_for
from tickstone.core.wiring.judging import check_wiring
from tickstone.link.ports import stand_in_folder

BRAMBLE, PIPIT = 1, 2
HERE = {"host": "localhost"}
LINE = f"/api/rigs/{BRAMBLE}/line"


@pytest.fixture
def board() -> Iterator[BoardProcess]:
    """Bramble's stand-in board, listed among the ports."""
    folder = stand_in_folder()
    folder.mkdir(mode=0o700, exist_ok=True)
    board = BoardProcess("bramble", folder / f"bramble-{uuid.uuid4().hex[:8]}")
    yield board
    board.stop()


def opened(client: TestClient, path: Path, **more) -> dict:
    answer = client.post(LINE, json={"path": str(path), "speed": 115200, **more})
    assert answer.status_code == 201, answer.text
    return wait_for(lambda: line if (line := client.get(LINE).json())["rows"] > 3 else None)


def test_a_line_is_learnt_mapped_and_recorded(client: TestClient, board: BoardProcess) -> None:
    ports = client.get("/api/ports").json()
    assert str(board.link) in [port["path"] for port in ports if port["is_stand_in"]]
    line = opened(client, board.link)
    assert line["state"] == "live"
    names = {column["name"]: column for column in line["shape"]["columns"]}
    assert names["t"]["is_time"]
    assert names["front"]["unit"] == "µs"
    assert names["front"]["sensor_id"] == 1
    assert names["left"]["sensor_id"] == 2
    assert names["front"]["gives"]["name"] == "distance"

    started = client.post(f"{LINE}/record", json={"name": "walk", "conditions": {"light": "lamp"}})
    assert started.status_code == 201, started.text
    assert client.post(f"{LINE}/record", json={"name": "again"}).status_code == 409
    wait_for(lambda: client.get(LINE).json()["recording"]["samples"] > 40)
    axis = client.get(LINE).json()["axis_s"]
    mark = {
        "channel": 0,
        "from_axis_s": axis - 1,
        "to_axis_s": axis,
        "value": 0.8,
        "unit": "m",
    }
    assert client.post(f"{LINE}/marks", json=mark).status_code == 201
    take = client.post(f"{LINE}/stop").json()
    assert take["state"] == "whole"
    assert take["samples"] > 40
    assert take["conditions"]["light"] == "lamp"
    assert abs(take["rate_hz"] - 25) < 2
    front = take["channels"][0]
    assert front["stages"][0] == "echo"
    marks = client.get(f"/api/takes/{take['id']}/marks").json()
    assert [(m["calibration"], m["value"]) for m in marks] == [("offset-scale", 0.8)]
    seen = client.post(f"/api/recordings/{front['recording_id']}/look", json={}).json()
    distance_m = seen["outputs"][0]["lines"][0]["low"]
    assert abs(np.median([d for d in distance_m if d]) - 0.8) < 0.02
    plot = client.post(
        f"/api/takes/{take['id']}/plot",
        json={"channels": [{"channel": 0}, {"channel": 0, "stage": "half"}, {"channel": 3}]},
    ).json()
    assert [series["samples"] for series in plot["series"]] == [take["samples"]] * 3
    client.delete(LINE)
    assert client.get(LINE).json() is None


def test_a_pulled_cable_loses_nothing_that_arrived(client: TestClient, board: BoardProcess) -> None:
    opened(client, board.link)
    client.post(f"{LINE}/record", json={"name": "cable"})
    wait_for(lambda: client.get(LINE).json()["recording"]["samples"] > 20)
    client.post(f"{LINE}/send", json={"text": "fault unplug on"})
    wait_for(lambda: client.get(LINE).json()["state"] == "lost")
    before = client.get(LINE).json()["recording"]["samples"]
    wait_for(lambda: client.get(LINE).json()["state"] == "live")
    wait_for(lambda: client.get(LINE).json()["recording"]["samples"] > before + 20)
    take = client.post(f"{LINE}/stop").json()
    (gap,) = take["gaps"]
    assert 2.5 < gap["to_s"] - gap["from_s"] < 6
    plot = client.post(f"/api/takes/{take['id']}/plot", json={"channels": [{"channel": 0}]}).json()
    times = np.array(plot["series"][0]["time_s"])
    # A point without a value stands in the gap, so that no line is drawn across it.
    drawn = [value is not None for value in plot["series"][0]["low"]]
    assert len(times) == len(drawn) == take["samples"] + len(take["gaps"])
    assert sum(drawn) <= take["samples"]
    assert take["samples"] > before
    assert (np.diff(times) >= 0).all()
    assert np.sum(np.diff(times) > 1.0) == 2


def test_two_watchers_and_a_page_that_never_reads(client: TestClient, board: BoardProcess) -> None:
    opened(client, board.link)
    air = client.get("/api/rigs/1").json()["air"] | {"temperature_c": 35.0}
    client.patch("/api/rigs/1", json={"air": air})
    wish = json.dumps({"window_s": 10, "columns": 400, "focus": 0})
    with (
        client.websocket_connect(f"{LINE}/watch", headers=HERE) as first,
        client.websocket_connect(f"{LINE}/watch", headers=HERE) as second,
        client.websocket_connect(f"{LINE}/watch", headers=HERE),
    ):
        seen = {}
        for name, page in (("first", first), ("second", second)):
            page.send_text(wish)
            kinds, newest, times = set(), 0, []
            while not {"state", "frame", "lines", "working"} <= kinds or len(times) < 30:
                message = told(page)
                kinds.add(message["kind"])
                if message["kind"] == "working":
                    # The shed's own thermometer is on the line, and is far from what was typed.
                    assert message["body"]["air"]["typed_c"] == 35.0
                    assert message["body"]["air"]["heard_c"] < 30.0
                if message["kind"] == "frame":
                    frame = message["body"]
                    times = [t for t in times if t < frame["from_s"]] + frame["t"]
                    newest = frame["samples"]
                    assert len(frame["raw"]) == 17
                    assert len(frame["raw"][0]["v"]) == len(frame["t"])
                    assert set(frame["chained"]) == {"0", "1", "2", "7", "9", "15", "16"}
            assert times == sorted(times)
            seen[name] = newest
        assert seen["second"] > 0
    assert client.get(LINE).json()["bad"] == 0


def test_a_page_that_is_behind_is_sent_no_more_until_it_has_what_it_was_sent(
    client: TestClient, board: BoardProcess
) -> None:
    """Else it shows ever older readings as live: the sockets between hold seconds of pictures."""
    opened(client, board.link)
    with client.websocket_connect(f"{LINE}/watch", headers=HERE) as page:
        page.send_text(json.dumps({"window_s": 10, "columns": 400}))
        while told(page)["kind"] != "frame":
            pass
        while (message := json.loads(page.receive_text()))["kind"] != "frame":
            pass
        time.sleep(1.5)  # a page at work on something else
        page.send_text(json.dumps({"seen": message["body"]["samples"] - 1}))  # an older one
        page.send_text(json.dumps({"seen": message["body"]["samples"]}))
        while (after := told(page))["kind"] != "frame":
            pass
        assert after["body"]["samples"] - message["body"]["samples"] > 20
        assert after["body"]["arrived_us"] - message["body"]["arrived_us"] > 1_200_000


def test_a_picture_of_the_line_does_not_look_over_all_the_wiring(
    client: TestClient, board: BoardProcess
) -> None:
    """Once for the channel in hand now and then, not for each sensor: that took half a second."""
    opened(client, board.link)
    with client.websocket_connect(f"{LINE}/watch", headers=HERE) as page:
        page.send_text(json.dumps({"window_s": 10, "columns": 400, "focus": 0}))
        while told(page)["kind"] != "working":
            pass
        known = check_wiring.cache_info()
        kinds = [told(page)["kind"] for _ in range(60)]
        now = check_wiring.cache_info()
    assert now.hits + now.misses - known.hits - known.misses <= kinds.count("state")
    assert now.misses == known.misses


def test_lines_are_seen_before_they_are_understood(client: TestClient) -> None:
    master, other = pty.openpty()
    tty.setraw(other)
    path = stand_in_folder() / f"words-{uuid.uuid4().hex[:8]}"
    path.parent.mkdir(mode=0o700, exist_ok=True)
    path.symlink_to(os.ttyname(other))
    try:
        answer = client.post(LINE, json={"path": str(path), "speed": 9600, "resets": False})
        assert answer.status_code == 201, answer.text
        os.write(master, b"good morning\nno number here\n")
        with client.websocket_connect(f"{LINE}/watch", headers=HERE) as page:
            assert verdicts(page, until={1: "waiting", 2: "waiting"})
            os.write(master, b"".join(b"front:%d\n" % n for n in range(5_000, 5_030)))
            assert verdicts(page, until={1: "text", 2: "text", 32: "read"})
    finally:
        client.delete(LINE)
        path.unlink()
        os.close(master)
        os.close(other)


def told(page) -> dict:
    """The next message; as a page does, it says what picture it has."""
    message = json.loads(page.receive_text())
    if message["kind"] == "frame":
        page.send_text(json.dumps({"seen": message["body"]["samples"]}))
    return message


def verdicts(page, until: dict[int, str]) -> bool:
    """Read what the page is told of each line until it was told this last."""
    known: dict[int, str] = {}
    while not until.items() <= known.items():
        message = told(page)
        if message["kind"] == "lines":
            known |= {line["number"]: line["verdict"] for line in message["body"]}
    return True


def test_corrections_are_remembered_for_the_rig(client: TestClient, board: BoardProcess) -> None:
    line = opened(client, board.link)
    columns = [
        {key: column[key] for key in ("name", "unit", "quantity", "is_used", "sensor_id")}
        for column in line["shape"]["columns"]
    ]
    columns[3]["name"], columns[3]["sensor_id"] = "outer left", 3
    columns[4]["is_used"] = False
    body = {"time_position": 0, "time_unit": "µs", "columns": columns}
    changed = client.put(f"{LINE}/shape", json=body)
    assert changed.status_code == 200, changed.text
    client.delete(LINE)
    again = opened(client, board.link)
    assert [c["name"] for c in again["shape"]["columns"]][3] == "outer left"
    assert again["shape"]["columns"][3]["sensor_id"] == 3
    assert again["shape"]["columns"][4]["channel"] is None
    assert client.get(f"{LINE}/memory").json()["path"] == str(board.link)
    # Whoever says that a column is a ranger's means its echo.
    columns[3]["sensor_id"] = 1
    ranger = client.put(f"{LINE}/shape", json=body).json()["shape"]["columns"][3]
    assert ranger["quantity"] == "echo time"
    twice = {**body, "columns": [{**c, "name": "x"} for c in columns]}
    assert client.put(f"{LINE}/shape", json=twice).status_code == 422
    assert client.put(f"{LINE}/shape", json={**body, "columns": columns[:2]}).status_code == 422
    relearnt = client.put(f"{LINE}/shape", json={"kind": "separated", "separator": "tab"})
    assert relearnt.status_code == 422
    assert client.put(f"{LINE}/shape", json={"kind": "words"}).status_code == 200


def test_what_cannot_be_opened_says_why(client: TestClient, board: BoardProcess) -> None:
    for path in ("/etc/passwd", "/dev/null", "../../x", str(board.link) + "x"):
        answer = client.post(LINE, json={"path": path})
        assert answer.status_code == 422
        assert "not a port" in answer.json()["detail"]
    opened(client, board.link)
    other = client.post(f"/api/rigs/{PIPIT}/line", json={"path": str(board.link)})
    assert other.status_code == 409
    assert "another rig" in other.json()["detail"]
    assert client.post(LINE, json={"path": str(board.link)}).status_code == 409
    assert client.post(f"/api/rigs/{PIPIT}/line/stop").status_code == 404
    assert client.post(f"{LINE}/stop").status_code == 409
    assert client.post(f"{LINE}/marks", json={"from_axis_s": 0, "to_axis_s": 1}).status_code == 409


def test_the_speed_is_guessed(client: TestClient, board: BoardProcess) -> None:
    answer = client.post(LINE, json={"path": str(board.link)})
    assert answer.status_code == 201, answer.text
    assert answer.json()["speed"] == 115200


def test_a_take_is_replayed_as_if_live(client: TestClient, board: BoardProcess) -> None:
    opened(client, board.link)
    client.post(f"{LINE}/record", json={"name": "once"})
    wait_for(lambda: client.get(LINE).json()["recording"]["samples"] > 30)
    take = client.post(f"{LINE}/stop").json()
    client.delete(LINE)
    answer = client.post(f"{LINE}/replay", json={"take_id": take["id"], "pace": 4})
    assert answer.status_code == 201, answer.text
    ended = wait_for(
        lambda: line if (line := client.get(LINE).json())["state"] == "ended" else None
    )
    assert ended["rows"] == take["samples"]
    assert ended["bad"] == 0
    assert [c["name"] for c in ended["shape"]["columns"]][1:] == [
        c["name"] for c in take["channels"]
    ]


def test_a_page_brings_its_own_port(client: TestClient) -> None:
    with client.websocket_connect(
        f"/api/rigs/{PIPIT}/line/page?label=my+port", headers=HERE
    ) as page:
        assert page.receive_text() == "open"
        for n in range(60):
            page.send_bytes(f"t:{20 * n} side:{5800 + n}\r".encode())
            page.send_bytes(b"\n")
        line = wait_for(
            lambda: (
                found
                if (found := client.get(f"/api/rigs/{PIPIT}/line").json()) and found["rows"] == 60
                else None
            )
        )
        assert line["kind"] == "page"
        assert line["label"] == "my port"
        client.post(f"/api/rigs/{PIPIT}/line/send", json={"text": "hello"})
        assert page.receive_bytes() == b"hello\n"
    wait_for(lambda: client.get(f"/api/rigs/{PIPIT}/line").json()["state"] == "ended")


@pytest.mark.parametrize("path", [f"{LINE}/watch", f"{LINE}/page"])
def test_another_sites_page_gets_no_socket(client: TestClient, path: str) -> None:
    for headers in ({**HERE, "origin": "http://elsewhere.example"}, {"host": "elsewhere.example"}):
        with pytest.raises(WebSocketDisconnect), client.websocket_connect(path, headers=headers):
            pass


def test_watching_nothing_is_told(client: TestClient) -> None:
    with (
        pytest.raises(WebSocketDisconnect) as gone,
        client.websocket_connect(f"{LINE}/watch", headers=HERE) as page,
    ):
        page.receive_text()
    assert gone.value.code == 4404
