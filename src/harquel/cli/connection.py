"""Where the service is and who asks, from options or the environment; errors become exits."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Annotated, Any

import typer

from harquel.cli import exits
from harquel.cli.output import say
from harquel.client import Forbidden, Harquel, HarquelError, TokenRefused, Unreachable

Url = Annotated[str, typer.Option("--url", envvar="HARQUEL_URL", help="Address of the service.")]
TokenText = Annotated[
    str, typer.Option("--token", envvar="HARQUEL_TOKEN", help="Token to ask with.", show_default=False)
]
AsJson = Annotated[bool, typer.Option("--json", help="Print JSON instead of text.")]
USUAL_URL = "http://127.0.0.1:8710"


@contextmanager
def connected(url: str, token: str) -> Iterator[Harquel]:
    """A client; its errors end the program with one sentence, a hint and the right code."""
    if not token:
        say("There is no token.", err=True, fg="red")
        say("Set HARQUEL_TOKEN, or give --token; “harquel token create --local” makes the first one.", err=True)
        raise typer.Exit(exits.UNREACHABLE)
    try:
        with Harquel(url, token) as client:
            yield client
    except HarquelError as error:
        fail(error)


def fail(error: HarquelError) -> None:
    """Says what is wrong and ends."""
    say(str(error), err=True, fg="red")
    if error.hint:
        say(error.hint, err=True)
    unreachable = isinstance(error, Unreachable | TokenRefused | Forbidden)
    raise typer.Exit(exits.UNREACHABLE if unreachable else exits.USAGE) from error


def given_values(given: list[str] | None) -> dict[str, Any]:
    """NAME=VALUE options: figures as numbers, a name that comes again as a list."""
    found: dict[str, Any] = {}
    for text in given or ():
        name, sign, value = text.partition("=")
        if not sign or not name:
            raise typer.BadParameter(f"{text!r} must be written NAME=VALUE.")
        plain: Any = int(value) if value.lstrip("-").isdigit() else value
        earlier = found.get(name)
        found[name] = plain if earlier is None else [*(earlier if isinstance(earlier, list) else [earlier]), plain]
    return found
