"""No request ends in a 500, without an answer, or after ten seconds; `bench.fuzz` asks longer."""

from __future__ import annotations

import os
import random

from bench.fuzz import Fuzz

from tests.inner_server import InnerServer
from tickstone.api.app import describe_api

SECONDS = 15.0


def test_whatever_is_asked_there_is_an_answer(server: InnerServer) -> None:
    seed = 1 if os.environ.get("CI") else random.randrange(10**6)
    fuzz = Fuzz(server.port, describe_api().openapi(), seed)
    asked = fuzz.run(SECONDS)
    assert fuzz.faults == [], f"seed {seed}:\n" + "\n".join(map(str, fuzz.faults[:10]))
    assert asked > 500
    assert fuzz.statuses[200] > 50, "hardly anything that was asked made sense"
