"""Writes the JSON Schemas of the files people share to docs/schemas.

Run as ``python -m scripts.update_schemas`` from the root.
"""

from __future__ import annotations

import json
from pathlib import Path

from tickstone.formats.family_file import BOARD_FILES, DEVICE_FILES
from tickstone.formats.wiring_file import wiring_schema

FOLDER = Path(__file__).parents[1] / "docs" / "schemas"


def schemas() -> dict[str, str]:
    """Each schema's text by its file's name."""
    documents = {
        "board.schema.json": BOARD_FILES.schema(),
        "device.schema.json": DEVICE_FILES.schema(),
        "wiring.schema.json": wiring_schema(),
    }
    return {
        name: json.dumps(document, ensure_ascii=False, indent=2) + "\n"
        for name, document in documents.items()
    }


if __name__ == "__main__":
    FOLDER.mkdir(exist_ok=True)
    for name, text in schemas().items():
        (FOLDER / name).write_text(text, encoding="utf-8")
