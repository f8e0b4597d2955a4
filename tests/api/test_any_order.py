"""Anything a person can do to a wiring, in any order: what has to hold after every step."""

from __future__ import annotations

import json
from typing import Any

from fastapi.testclient import TestClient
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.api.test_wiring import connections

FAMILIES = ["ultrasonic_ranger", "hall_switch_unipolar", "six_axis", "battery_divider", "buzzer"]
BOARDS = ["five_volt_8bit", "three_volt_dual_core", "three_volt_single_board_computer"]
PARTS = [
    {"kind": "series", "ohm": 1_800.0},
    {"kind": "pull_down", "ohm": 3_300.0},
    {"kind": "pull_up", "ohm": 10_000.0},
    {"kind": "capacitor", "farad": 1e-7},
]


class Bench:
    """A rig and the hands of somebody who does anything at all."""

    def __init__(self, client: TestClient) -> None:
        self.client = client
        made = client.post("/api/rigs", json={"name": "Any", "board": BOARDS[0]})
        self.rig = f"/api/rigs/{made.json()['id']}"
        self.before: list[list[dict[str, Any]]] = []

    @property
    def now(self) -> dict[str, Any]:
        answer = self.client.get(f"{self.rig}/wiring")
        assert answer.status_code == 200, answer.text
        return answer.json()

    def send(self, method: str, path: str, **body: Any) -> Any:
        answer = self.client.request(method, path, json=body)
        assert answer.status_code < 500, answer.text
        if answer.status_code >= 400:
            assert answer.json()["detail"].endswith((".", "”", ")", "!")), answer.text
        return answer

    def put(self, wires: list[dict[str, Any]]) -> Any:
        return self.send("PUT", f"{self.rig}/wiring", connections=wires)

    def add(self, pick: int) -> None:
        family = FAMILIES[pick % len(FAMILIES)]
        self.send("POST", f"{self.rig}/sensors", name=f"{family} {pick}", family=family)

    def take_off(self, pick: int) -> None:
        devices = self.now["devices"]
        if devices:
            self.send("DELETE", f"/api/sensors/{devices[pick % len(devices)]['id']}")

    def connect(self, pick: int) -> None:
        now = self.now
        leads = [(device, lead) for device in now["devices"] for lead in device["leads"]]
        if not leads:
            return
        device, lead = leads[pick % len(leads)]
        ends = [one["name"] for one in now["pins"] + now["rails"]]
        wire = {
            "device": device["id"],
            "lead": lead["name"],
            "to": ends[pick * 7 % len(ends)],
            "beads": [PARTS[pick % 4]] * (pick % 3),
            "colour": now["colours"][pick % len(now["colours"])],
            "is_fixed": pick % 5 == 0,
        }
        others = [
            one
            for one in connections(now)
            if (one["device"], one["lead"]) != (device["id"], lead["name"])
        ]
        self.before.append(connections(now))
        assert self.put([*others, wire]).status_code == 200

    def propose(self, pick: int) -> None:
        said = self.send("POST", f"{self.rig}/wiring/proposal", again=pick % 2 == 0).json()
        assert bool(said["impossible"]) == (
            said["wiring"]["loose"] > 0 and "but a" in said["impossible"]
        )

    def mend(self, pick: int) -> None:
        findings = [one for one in self.now["findings"] if one["repair"]]
        if findings:
            key = findings[pick % len(findings)]["key"]
            after = self.send("POST", f"{self.rig}/wiring/repair", key=key).json()
            assert key not in {one["key"] for one in after["findings"]}

    def mend_all(self, pick: int) -> None:
        count = len(self.now["findings"])
        self.send("POST", f"{self.rig}/wiring/repair", key="*")
        assert len(self.now["findings"]) <= count

    def undo(self, pick: int) -> None:
        if self.before:
            self.put(self.before.pop())

    def other_board(self, pick: int) -> None:
        self.send("PATCH", self.rig, board=BOARDS[pick % len(BOARDS)])

    def tick(self, pick: int) -> None:
        steps = self.now["steps"]
        if steps:
            step = steps[pick % len(steps)]
            measured = {} if step["low_v"] is None else {"measured_v": step["low_v"]}
            body = {"key": step["key"], "done": True, "seen": pick % 2 == 0, **measured}
            self.send("PUT", f"{self.rig}/wiring/steps", **body)

    def sign(self, pick: int) -> None:
        errors = [one for one in self.now["findings"] if one["severity"] == "error"]
        said = self.send(
            "POST", f"{self.rig}/wiring/sign", wired_by="Ada", looked_by="Ben", wires=pick % 2 == 0
        )
        if errors:
            assert said.status_code == 422
        if said.status_code == 200:
            assert all(one["wired"]["state"] == "ticked" for one in self.now["devices"])

    def finish(self, pick: int) -> None:
        for _ in range(2):
            self.propose(1)
            self.mend_all(pick)
        for step in self.now["steps"]:
            if step["is_by_hand"] and not step["is_complete"]:
                self.send("PUT", f"{self.rig}/wiring/steps", key=step["key"], done=True, seen=True)
            elif step["low_v"] is not None and step["passes"] is None:
                self.send(
                    "PUT", f"{self.rig}/wiring/steps", key=step["key"], skipped_why="no meter"
                )
        self.sign(0)

    def look(self) -> None:
        """What holds, whatever was done."""
        now = self.now
        ends = {one["name"] for one in now["pins"] + now["rails"]}
        for device in now["devices"]:
            wired = [lead["end"] for lead in device["leads"] if lead["end"]]
            assert {end["to"] for end in wired} <= ends
            if device["wired"]["state"] == "ticked":
                mine = [one for one in now["findings"] if one["severity"] == "error"]
                assert not any(spot["device"] == device["id"] for e in mine for spot in e["spots"])
        strung = {key for key in (one["key"] for one in now["steps"]) if key.startswith("wire:")}
        assert len(strung) == len(connections(now))
        home = self.client.get(self.rig).json()
        stones = {one["id"]: one["stones"][0] for one in home["sensors"]}
        assert stones == {one["id"]: one["wired"] for one in now["devices"]}

    def round_trip(self) -> None:
        """The file, brought into a rig of its own, says the same."""
        document = self.client.get(f"{self.rig}/wiring/file").json()
        twin = self.client.post("/api/rigs", json={"name": "Twin"}).json()["id"]
        text = json.dumps(document)
        taken = self.client.post(f"/api/rigs/{twin}/wiring/import", json={"text": text})
        assert taken.status_code == 200, taken.text
        again = self.client.get(f"/api/rigs/{twin}/wiring/file").json()
        same = ("board", "devices", "connections", "settings")
        assert {key: again[key] for key in same} == {key: document[key] for key in same}


DEEDS = [
    *["connect"] * 4,
    *("add", "add", "take_off", "propose", "mend", "mend_all", "undo", "other_board"),
    *("tick", "tick", "sign", "finish", "finish"),
]
deeds = st.lists(st.tuples(st.sampled_from(DEEDS), st.integers(0, 999)), min_size=4, max_size=14)


@settings(max_examples=10, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.lists(st.integers(0, 9), min_size=1, max_size=3), deeds)
def test_whatever_is_done_the_wiring_stays_whole(
    client: TestClient, first: list[int], deeds: list[tuple[str, int]]
) -> None:
    bench = Bench(client)
    for pick in first:
        bench.add(pick)
    for deed, pick in deeds:
        getattr(bench, deed)(pick)
        bench.look()
    bench.round_trip()
