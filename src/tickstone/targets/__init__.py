"""Programs as text: a folder of templates for each target, and one line here."""

from __future__ import annotations

from tickstone.targets.cpp import CPP
from tickstone.targets.python import PYTHON
from tickstone.targets.small_python import SMALL_PYTHON
from tickstone.targets.target import Target

TARGETS: dict[str, Target] = {one.name: one for one in (CPP, SMALL_PYTHON, PYTHON)}
