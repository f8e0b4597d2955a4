"""``tickstone openapi``: the API's own description, from which the web client is generated."""

from __future__ import annotations

import json

import typer

from tickstone.api.app import describe_api


def print_openapi() -> None:
    """Print the OpenAPI document as JSON."""
    typer.echo(json.dumps(describe_api().openapi(), indent=1, ensure_ascii=False, sort_keys=True))
