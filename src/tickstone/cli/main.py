"""``tickstone``: one file for each command, registered here."""

from __future__ import annotations

import typer

from tickstone.cli import (
    board,
    check_wiring,
    convert_echo,
    data_folder,
    listen,
    openapi,
    parts,
    serve,
    stop,
    take_files,
)

app = typer.Typer(
    name="tickstone",
    help="From raw sensor ticks to a number with its working, and on to a decision.",
    no_args_is_help=True,
    add_completion=False,
    pretty_exceptions_enable=False,
)
convert = typer.Typer(help="Turn one raw reading into a quantity.", no_args_is_help=True)
app.add_typer(convert, name="convert")

check = typer.Typer(help="Look for what is wrong.", no_args_is_help=True)
app.add_typer(check, name="check")

convert.command("echo")(convert_echo.convert_echo)
app.add_typer(parts.app, name="parts")
check.command("wiring")(check_wiring.check_wiring)
app.command("listen")(listen.listen)
app.command("formats")(take_files.list_formats)
app.command("inspect")(take_files.inspect_file)
app.command("import")(take_files.import_file)
app.command("export")(take_files.export_recording)
app.command("board")(board.board)
app.command("serve")(serve.serve)
app.command("data-folder")(data_folder.print_data_folder)
app.command("stop")(stop.stop)
app.command("openapi")(openapi.print_openapi)

if __name__ == "__main__":
    app()
