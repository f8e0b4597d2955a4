"""Commands that are loaded when they are called for, so that none waits for what others need."""

from __future__ import annotations

from importlib import import_module
from typing import Any

import typer
from typer.core import TyperGroup


def lazy_group(places: dict[str, str]) -> type[TyperGroup]:
    """A group of commands. places: ``module:name`` of each command's function or Typer by its word.

    >>> group = lazy_group({"formats": "tickstone.cli.take_files:list_formats"})(name="x")
    >>> group.list_commands(typer.Context(group))
    ['formats']
    """

    class LazyGroup(TyperGroup):
        def list_commands(self, ctx: Any) -> list[str]:
            return list(places)

        def get_command(self, ctx: Any, cmd_name: str) -> Any:
            return _loaded(cmd_name, places[cmd_name]) if cmd_name in places else None

    return LazyGroup


def _loaded(word: str, place: str) -> Any:
    module, _, name = place.partition(":")
    found: Any = getattr(import_module(module), name)
    if isinstance(found, typer.Typer):
        group = typer.main.get_group(found)
        group.name = word
        return group
    alone = typer.Typer(add_completion=False)
    alone.command(word)(found)
    return typer.main.get_command(alone)
