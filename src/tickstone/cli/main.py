"""``tickstone``: one file for each command, registered here."""

from __future__ import annotations

import typer

from tickstone.cli.lazy import lazy_group

COMMANDS = {
    "convert": "tickstone.cli.convert:app",
    "calibrate": "tickstone.cli.calibrate:calibrate",
    "filter": "tickstone.cli.filter:filter_file",
    "tune": "tickstone.cli.tune:app",
    "replay": "tickstone.cli.replay:replay",
    "parts": "tickstone.cli.parts:app",
    "check": "tickstone.cli.check:app",
    "listen": "tickstone.cli.listen:listen",
    "program": "tickstone.cli.program:program",
    "constants": "tickstone.cli.constants:constants",
    "formats": "tickstone.cli.take_files:list_formats",
    "inspect": "tickstone.cli.take_files:inspect_file",
    "import": "tickstone.cli.take_files:import_file",
    "export": "tickstone.cli.take_files:export_recording",
    "board": "tickstone.cli.board:board",
    "serve": "tickstone.cli.serve:serve",
    "data-folder": "tickstone.cli.data_folder:print_data_folder",
    "stop": "tickstone.cli.stop:stop",
    "openapi": "tickstone.cli.openapi:print_openapi",
}

app = typer.Typer(
    name="tickstone",
    cls=lazy_group(COMMANDS),
    no_args_is_help=True,
    add_completion=False,
    pretty_exceptions_enable=False,
)


@app.callback()
def tickstone() -> None:
    """From raw sensor ticks to a number with its working, and on to a decision."""


if __name__ == "__main__":
    app()
