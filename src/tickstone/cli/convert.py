"""``tickstone convert …``: one raw reading into a quantity."""

import typer

from tickstone.cli.convert_echo import convert_echo

app = typer.Typer(help="Turn one raw reading into a quantity.", no_args_is_help=True)
app.command("echo")(convert_echo)
