"""``tickstone check …``: what is wrong with it."""

import typer

from tickstone.cli.check_program import check_program
from tickstone.cli.check_wiring import check_wiring

app = typer.Typer(help="Look for what is wrong.", no_args_is_help=True)
app.command("wiring")(check_wiring)
app.command("program")(check_program)
