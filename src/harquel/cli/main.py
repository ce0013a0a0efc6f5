"""The program `harquel`: a table of commands, each loaded when it is called and not before."""

from __future__ import annotations

import gc
import sys
from importlib.metadata import EntryPoint
from typing import Any, NoReturn

import click
import typer
from typer.core import TyperGroup
from typer.main import get_command

from harquel import __version__
from harquel.cli.local import COMMANDS, registered
from harquel.cli.output import say

# Ours by name; what the server part registers comes after them.
OWN = {
    "ask": "harquel.cli.ask:ask",
    "review": "harquel.cli.review:review",
    "tour": "harquel.cli.tour:tour",
    "inquiry": "harquel.cli.inquiry:inquiry",
    "sending": "harquel.cli.sending:sending",
    "chat": "harquel.cli.chat:chat",
    "watch": "harquel.cli.watch:watch",
    "casebook": "harquel.cli.casebook:casebook",
    "link": "harquel.cli.link:link",
    "source": "harquel.cli.source:source",
    "catalog": "harquel.cli.catalog:catalog",
    "policy": "harquel.cli.policy:policy",
    "example": "harquel.cli.example:example",
    "token": "harquel.cli.token:token",
    "ledger": "harquel.cli.ledger:ledger",
    "model": "harquel.cli.model:model",
    "usage": "harquel.cli.usage:usage",
    "reload": "harquel.cli.reload:reload",
    "standstill": "harquel.cli.standstill:standstill",
    "tools": "harquel.cli.tools:tools",
    "operations": "harquel.cli.operations:operations",
}


class _Loading(TyperGroup):
    """Looks a command up in the table, or among those registered, and loads it."""

    def list_commands(self, ctx: click.Context) -> list[str]:
        """Ours, then those registered."""
        return [*OWN, *sorted(registered(COMMANDS))]

    def get_command(self, ctx: click.Context, cmd_name: str) -> click.Command | None:
        """Loads a command when it is asked for."""
        if cmd_name in OWN:
            found = EntryPoint(cmd_name, OWN[cmd_name], COMMANDS)
        elif cmd_name in registered(COMMANDS):
            found = registered(COMMANDS)[cmd_name]
        else:
            return None
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
    say(f"This command needs the server part ({missing} is not installed).", err=True, fg="red")
    say("Install it with: pip install 'harquel[server]'", err=True)
    sys.exit(2)


app = typer.Typer(
    cls=_Loading,
    no_args_is_help=True,
    add_completion=False,
    pretty_exceptions_enable=False,
    help="Answers from a relational database: guarded, reviewed, sandboxed and audited.",
)


def _version(wanted: bool) -> None:
    if wanted:
        say(f"harquel {__version__}")
        raise typer.Exit


@app.callback()
def _main(
    version: bool = typer.Option(False, "--version", callback=_version, is_eager=True, help="Print the version."),
) -> None:
    """Answers from a relational database: guarded, reviewed, sandboxed and audited."""


def main() -> None:
    """Entry point."""
    # What is loaded stays: to look through it for what is not needed takes a third of the time that loading does.
    gc.set_threshold(20_000, 10, 10)
    try:
        app()
    except ModuleNotFoundError as error:
        if error.name is None or error.name.startswith("harquel"):
            raise
        _needs_server(error.name)
