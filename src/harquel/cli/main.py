"""The program `harquel`: its commands, those of the server part loaded only when called."""

from __future__ import annotations

import sys
from typing import Any, NoReturn

import click
import typer
from typer.core import TyperGroup
from typer.main import get_command

from harquel import __version__
from harquel.cli.ask import ask
from harquel.cli.inquiry import inquiry
from harquel.cli.ledger import ledger
from harquel.cli.local import COMMANDS, registered
from harquel.cli.review import review
from harquel.cli.source import catalog, source
from harquel.cli.token import token
from harquel.cli.tour import tour


class _WithRegistered(TyperGroup):
    """Adds the commands that the server part registers."""

    def list_commands(self, ctx: click.Context) -> list[str]:
        """Ours, then those registered."""
        return [*super().list_commands(ctx), *sorted(registered(COMMANDS))]

    def get_command(self, ctx: click.Context, cmd_name: str) -> click.Command | None:
        """Loads a registered command when it is asked for."""
        own = super().get_command(ctx, cmd_name)
        found = registered(COMMANDS).get(cmd_name)
        if own is not None or found is None:
            return own
        try:
            loaded: Any = found.load()
        except ModuleNotFoundError as error:
            missing = str(error.name)
            return click.Command(
                cmd_name,
                help="Needs the server part: pip install 'harquel[server]'",
                callback=lambda: _needs_server(missing),
                context_settings={"ignore_unknown_options": True, "allow_extra_args": True},
            )
        if isinstance(loaded, typer.Typer):
            command = get_command(loaded)
        else:
            single = typer.Typer(add_completion=False)
            single.command(cmd_name)(loaded)
            command = get_command(single)
        command.name = cmd_name
        return command


def _needs_server(missing: str) -> NoReturn:
    typer.secho(f"This command needs the server part ({missing} is not installed).", err=True, fg="red")
    typer.echo("Install it with: pip install 'harquel[server]'", err=True)
    sys.exit(2)


app = typer.Typer(
    cls=_WithRegistered,
    no_args_is_help=True,
    add_completion=False,
    pretty_exceptions_enable=False,
    help="Answers from a relational database: guarded, reviewed, sandboxed and audited.",
)
app.command()(ask)
app.command()(review)
app.command()(tour)
app.add_typer(inquiry, name="inquiry")
app.add_typer(source, name="source")
app.add_typer(catalog, name="catalog")
app.add_typer(token, name="token")
app.add_typer(ledger, name="ledger")


def _version(wanted: bool) -> None:
    if wanted:
        typer.echo(f"harquel {__version__}")
        raise typer.Exit


@app.callback()
def _main(
    version: bool = typer.Option(False, "--version", callback=_version, is_eager=True, help="Print the version."),
) -> None:
    """Answers from a relational database: guarded, reviewed, sandboxed and audited."""


def main() -> None:
    """Entry point."""
    try:
        app()
    except ModuleNotFoundError as error:
        if error.name is None or error.name.startswith("harquel"):
            raise
        _needs_server(error.name)
