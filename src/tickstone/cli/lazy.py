"""Commands that are loaded when they are called for, so that none waits for what others need."""

from __future__ import annotations

import ast
from importlib import import_module
from importlib.util import find_spec
from pathlib import Path
from typing import Any

import typer
from typer.core import TyperCommand, TyperGroup


def lazy_group(places: dict[str, str]) -> type[TyperGroup]:
    """A group of commands. places: ``module:name`` of each command's function or Typer by its word.

    A list of them all says what each does without loading any.

    >>> group = lazy_group({"formats": "tickstone.cli.take_files:list_formats"})(name="x")
    >>> group.list_commands(typer.Context(group))
    ['formats']
    """

    class LazyGroup(TyperGroup):
        _is_listing = False

        def list_commands(self, ctx: Any) -> list[str]:
            return list(places)

        def get_command(self, ctx: Any, cmd_name: str) -> Any:
            if cmd_name not in places:
                return None
            place = places[cmd_name]
            return _told(cmd_name, place) if self._is_listing else _loaded(cmd_name, place)

        def format_help(self, ctx: Any, formatter: Any) -> None:
            self._is_listing = True
            super().format_help(ctx, formatter)
            self._is_listing = False

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


def _told(word: str, place: str) -> TyperCommand:
    """A command that can only say what it does, as its source says it."""
    module, _, name = place.partition(":")
    spec = find_spec(module)
    assert spec is not None
    assert spec.origin is not None
    text = ""
    for node in ast.parse(Path(spec.origin).read_text(encoding="utf-8")).body:
        if isinstance(node, ast.FunctionDef) and node.name == name:
            text = ast.get_docstring(node) or ""
        if isinstance(node, ast.Assign | ast.AnnAssign) and isinstance(node.value, ast.Call):
            targets = node.targets if isinstance(node, ast.Assign) else [node.target]
            if name in [one.id for one in targets if isinstance(one, ast.Name)]:
                said = {one.arg: one.value for one in node.value.keywords}
                text = str(ast.literal_eval(said["help"]))
    return TyperCommand(word, help=text)
