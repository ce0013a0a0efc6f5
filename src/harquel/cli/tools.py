"""`harquel tools`: the service's tools for programs that speak the Model Context Protocol."""

from __future__ import annotations

import json
from typing import Annotated

import typer

from harquel.cli import exits
from harquel.cli.connection import USUAL_URL, AsJson, TokenText, Url, fail
from harquel.cli.output import say
from harquel.client import TokenRefused

tools = typer.Typer(
    no_args_is_help=True, add_completion=False, pretty_exceptions_enable=False,
    help="Tools for programs that speak the Model Context Protocol.",
)  # fmt: skip


@tools.callback(invoke_without_command=True)
def _main(
    context: typer.Context,
    stdio: Annotated[bool, typer.Option("--stdio", help="Speak over standard input and output until that ends.")] = (
        False
    ),
    url: Url = USUAL_URL,
    token: TokenText = "",
) -> None:
    """Tools for programs that speak the Model Context Protocol: over HTTP the service has them at /mcp."""
    if context.invoked_subcommand is not None:
        return
    if not stdio:
        say(context.get_help())
        raise typer.Exit(2)
    _needed(token)
    from harquel.tools.stdio import serve

    serve(url, token)


def _needed(token: str) -> None:
    if not token:
        hint = "Set HARQUEL_TOKEN, or give --token; “harquel token create --local” makes the first one."
        fail(TokenRefused("There is no token.", hint))


@tools.command("try")
def try_(
    tool: Annotated[str, typer.Argument(help="The tool, by its name; without one they are listed.")] = "",
    arguments: Annotated[list[str] | None, typer.Argument(help="Its arguments, as NAME=VALUE.")] = None,
    url: Url = USUAL_URL,
    token: TokenText = "",
    as_json: AsJson = False,
) -> None:
    """Call a tool as another program would, over HTTP, and print what comes back."""
    _needed(token)
    from harquel.tools.trying import Refused, called, listed

    try:
        if not tool:
            for name, does in listed(url, token):
                say(f"{name}\n    {does}")
            return
        result = called(url, token, tool, _values(arguments or []))
    except Refused as error:
        fail(TokenRefused(str(error), error.hint))
    if as_json:
        say(json.dumps(result.structured, indent=2, ensure_ascii=False))
    else:
        say(result.text)
    if result.failed:
        raise typer.Exit(exits.FAILED)


def _values(given: list[str]) -> dict[str, str]:
    found: dict[str, str] = {}
    for text in given:
        name, sign, value = text.partition("=")
        if not sign or not name:
            raise typer.BadParameter(f"{text!r} must be written NAME=VALUE.")
        found[name] = value
    return found


@tools.command()
def snippet(
    url: Url = USUAL_URL,
    stdio: Annotated[
        bool, typer.Option("--stdio", help="For a client that starts a program, instead of one that speaks HTTP.")
    ] = False,
) -> None:
    """Print the block of configuration that clients commonly take; put a token in the place of YOUR-TOKEN."""
    if stdio:
        environment = {"HARQUEL_URL": url, "HARQUEL_TOKEN": "YOUR-TOKEN"}
        block = {"command": "harquel", "args": ["tools", "--stdio"], "env": environment}
    else:
        headers = {"Authorization": "Bearer YOUR-TOKEN"}
        block = {"type": "http", "url": f"{url.rstrip('/')}/mcp", "headers": headers}
    say(json.dumps({"mcpServers": {"harquel": block}}, indent=2))
