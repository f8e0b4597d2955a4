"""Every operation of the API, asked for anything at all, from its own description.

    python -m bench.fuzz --seconds 600 --seed 1
    python -m bench.fuzz --requests 1000000

After each ROUND requests it begins anew with the next seed and a fresh store: one that has grown by
thousands of rigs answers ever more slowly.

Values are drawn from the description's schemas, good ones and bad ones, and from a pool of what
has broken servers before. An answer of 500 or more, a connection that ends without one, or an
answer that takes longer than ten seconds on an idle machine is a fault; each is printed with its
request.
"""

from __future__ import annotations

import argparse
import http.client
import io
import itertools
import json
import math
import random
import tempfile
import time
import urllib.parse
import zipfile
from collections import Counter
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

LONGEST_S = 10.0
ROUND = 20_000
_IDLE_S = 2.0
"""A connection that was idle for longer may be closed by the server, and is not used again."""
_TEXTS = [
    *("", " ", "a\0b", "\ud800", "x" * 5_000, "\U0001f4a5" * 300, "=1+1", "../../etc/passwd"),
    *(" " * 4_000, "<b>x</b>", "'; DROP TABLE rig; --", "null", "NaN", "1e999", "\u202e\u0000"),
    *("é" * 130, "D2", "5V", "echo", "median", "csv", "a\nb\r\nc", "ultrasonic_ranger"),
    *("five_volt_8bit", "hall_switch_unipolar"),
]
_NUMBERS = [
    *(0, -1, 1, 2, 3, 2**31, 2**53, 2**63 - 1, 2**63, 2**64, -(2**63) - 1, 10**400, 1e308, -1e308),
    *(5e-324, 0.1, math.nan, math.inf, -math.inf, 56.6, 19.65, 100),
]
_IDS = ["1", "2", "3", "4", "5", "0", "-1", "99", str(2**63 - 1), str(2**63), "abc", "%00", "1.5"]
_DEEP = "[" * 3_000
_ODD = 0.03
"""How often a value is not what its schema says; a body holds some ten."""


@dataclass(frozen=True, slots=True)
class Fault:
    """What should not have happened, and the request it happened to."""

    what: str
    method: str
    path: str
    body: bytes

    def __str__(self) -> str:
        return f"{self.what}: {self.method} {self.path} {self.body[:600]!r}"


@dataclass(slots=True)
class Fuzz:
    """Asks a server on loopback. description: its OpenAPI document."""

    port: int
    description: dict[str, Any]
    seed: int
    faults: list[Fault] = field(default_factory=list)
    statuses: Counter[int] = field(default_factory=Counter)
    slowest_s: float = 0.0
    _random: random.Random = field(default_factory=random.Random)
    _connection: http.client.HTTPConnection | None = None
    _used_at: float = 0.0

    def run(self, seconds: float, most: int = 10**9) -> int:
        """Ask for so long or so often; returns how often it asked."""
        self._random.seed(self.seed)
        operations = [
            (method, path, operation)
            for path, methods in self.description["paths"].items()
            for method, operation in methods.items()
        ]
        until, asked = time.monotonic() + seconds, 0
        while time.monotonic() < until and asked < most:
            method, path, operation = self._random.choice(operations)
            if method == "delete" and self._random.random() > 0.03:
                continue  # or there would soon be nothing to ask for
            self._ask(method, path, operation)
            asked += 1
        return asked

    def _ask(self, method: str, template: str, operation: dict[str, Any]) -> None:
        path = self._address(template, operation.get("parameters", []))
        body, kind = self._body(operation)
        began = time.monotonic()
        connection = self._connected()
        try:
            headers = {"content-type": kind} if kind else {}
            connection.request(method.upper(), path, body, headers)
            answer = connection.getresponse()
            answer.read()
            status = answer.status
        except OSError as error:
            connection.close()
            self._note(f"no answer ({type(error).__name__})", method, path, body)
            return
        except http.client.HTTPException as error:
            connection.close()
            self._note(f"no whole answer ({type(error).__name__})", method, path, body)
            return
        self._used_at = time.monotonic()
        took = time.monotonic() - began
        self.slowest_s = max(self.slowest_s, took)
        self.statuses[status] += 1
        if status >= 500:
            self._note(str(status), method, path, body)
        elif took > LONGEST_S:
            self._note(f"took {took:.1f} s", method, path, body)

    def _connected(self) -> http.client.HTTPConnection:
        """The connection of before while it is fresh, as a browser does it; else a new one."""
        idle_s = time.monotonic() - self._used_at
        if self._connection is None or self._connection.sock is None or idle_s > _IDLE_S:
            if self._connection is not None:
                self._connection.close()
            self._connection = http.client.HTTPConnection("127.0.0.1", self.port, timeout=60)
        return self._connection

    def _note(self, what: str, method: str, path: str, body: bytes) -> None:
        self.faults.append(Fault(what, method.upper(), path, body))

    def _address(self, template: str, parameters: list[dict[str, Any]]) -> str:
        path, query = template, {}
        for one in parameters:
            if one["in"] == "path":
                is_number = one["schema"].get("type") == "integer"
                text = self._pick(_IDS) if is_number and self._often() else self._text()
                path = path.replace(
                    "{" + one["name"] + "}",
                    urllib.parse.quote(text[:300], "%", errors="replace") or "x",
                )
            elif self._often():
                query[one["name"]] = str(self._value(one["schema"]))[:3_000]
        if query:
            path += "?" + urllib.parse.urlencode(query, errors="replace")
        return path

    def _body(self, operation: dict[str, Any]) -> tuple[bytes, str]:
        content = operation.get("requestBody", {}).get("content", {})
        if "application/octet-stream" in content:
            return self._file(), "application/octet-stream"
        if "application/json" not in content:
            return b"", ""
        luck = self._random.random()
        if luck < 0.02:
            return _DEEP.encode(), "application/json"
        if luck < 0.04:
            return self._random.randbytes(40), "application/json"
        value = self._value(content["application/json"]["schema"])
        return json.dumps(value).encode(), "application/json"

    def _file(self) -> bytes:
        kind = self._random.randrange(6)
        if kind == 0:
            return self._random.randbytes(self._random.randrange(400))
        if kind == 1:
            return self._zip()
        head = self._pick(
            [
                "t_us,front_us,=1+1",
                "t_ms;echo",
                "a b c",
                "x",
                "# fs: 50 Hz\nn,v",
                "$date now $end",
                "PAR1",
            ]
        )
        cells = [
            str(self._pick(_NUMBERS)) if self._random.random() < 0.1 else str(n * 7)
            for n in range(60)
        ]
        rows = [",".join(cells[n : n + 3]) for n in range(0, 57, self._random.randrange(1, 4))]
        return "\n".join([head, *rows]).encode("utf-8", "replace")

    def _zip(self) -> bytes:
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w") as archive:
            name = self._pick(["rig.json", "../rig.json", "x"])
            rig = self._value({"type": "object", "additionalProperties": True})
            archive.writestr(name, json.dumps({"tickstone_rig": 1, "rig": rig, "sensors": [rig]}))
        return out.getvalue()

    def _value(self, schema: dict[str, Any], depth: int = 0) -> Any:
        """A value of a schema, or, now and then, any value."""
        if depth > 6 or self._random.random() < _ODD:
            return self._any(depth)
        if "$ref" in schema:
            name = schema["$ref"].rsplit("/", 1)[1]
            return self._value(self.description["components"]["schemas"][name], depth)
        for union in ("anyOf", "oneOf", "allOf"):
            if union in schema:
                return self._value(self._pick(schema[union]), depth)
        if "const" in schema:
            return schema["const"]
        if "enum" in schema:
            return self._pick(schema["enum"])
        match schema.get("type"):
            case "object":
                return self._object(schema, depth)
            case "array":
                count = self._random.randrange(4)
                least = min(200, schema.get("minItems", 0))
                return [
                    self._value(schema.get("items", {}), depth + 1)
                    for _ in range(max(least, count))
                ]
            case "integer":
                return int(self._number(schema))
            case "number":
                return self._number(schema)
            case "boolean":
                return self._random.random() < 0.5
            case "null":
                return None
            case "string":
                return self._text()[: schema.get("maxLength", 5_000)]
        return self._any(depth)

    def _object(self, schema: dict[str, Any], depth: int) -> dict[str, Any]:
        required = set(schema.get("required", ()))
        made = {
            name: self._value(inner, depth + 1)
            for name, inner in schema.get("properties", {}).items()
            if (name in required and self._random.random() < 0.97) or self._often()
        }
        more = schema.get("additionalProperties")
        if more:
            inner = more if isinstance(more, dict) else {}
            made |= {
                self._text()[:40]: self._value(inner, depth + 1)
                for _ in range(self._random.randrange(3))
            }
        return made

    def _number(self, schema: dict[str, Any]) -> float:
        low = schema.get("minimum", schema.get("exclusiveMinimum", -10.0))
        high = schema.get("maximum", schema.get("exclusiveMaximum", max(low, 0) + 10.0))
        return self._pick([low, high, self._random.uniform(low, high), low + (high - low) * 1e-6])

    def _any(self, depth: int) -> Any:
        choices = [None, True, self._pick(_NUMBERS), self._text(), [], {}]
        if depth < 3:
            choices += [
                [self._any(depth + 1) for _ in range(3)],
                {self._text()[:40]: self._any(depth + 1)},
            ]
        return self._pick(choices)

    def _text(self) -> str:
        if self._often():
            return "".join(
                self._random.choices("abcxyz 0123456789.,-_", k=self._random.randrange(1, 12))
            )
        return self._pick(_TEXTS)

    def _often(self) -> bool:
        return self._random.random() < 0.6

    def _pick(self, choices: list[Any]) -> Any:
        return self._random.choice(choices)


def main() -> None:
    from tests.server import Server

    from tickstone.api.app import describe_api

    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seconds", type=float, default=0.0, help="60, or any time for --requests")
    parser.add_argument("--requests", type=int, default=0)
    parser.add_argument("--seed", type=int, default=random.randrange(10**6))
    asked_for = parser.parse_args()
    seconds = asked_for.seconds or (math.inf if asked_for.requests else 60.0)
    until, left = time.monotonic() + seconds, asked_for.requests or 10**9
    description = describe_api().openapi()
    faults, asked, slowest_s, statuses = 0, 0, 0.0, Counter[int]()
    for seed in itertools.count(asked_for.seed):
        if left <= 0 or time.monotonic() >= until:
            break
        with tempfile.TemporaryDirectory(prefix="tickstone-fuzz-") as name:
            Path(name).chmod(0o755)
            server = Server(Path(name))
            server.start()
            try:
                fuzz = Fuzz(server.port, description, seed)
                count = fuzz.run(until - time.monotonic(), min(ROUND, left))
            finally:
                server.stop()
        left -= count
        asked += count
        faults += len(fuzz.faults)
        slowest_s = max(slowest_s, fuzz.slowest_s)
        statuses += fuzz.statuses
        for fault in fuzz.faults:
            print(f"seed {seed}: {fault}")
        answers = ", ".join(f"{number} × {status}" for status, number in sorted(statuses.items()))
        print(
            f"to seed {seed}: {asked} requests, {faults} faults; slowest answer {slowest_s:.2f} s; "
            f"{answers}",
            flush=True,
        )


if __name__ == "__main__":
    main()
