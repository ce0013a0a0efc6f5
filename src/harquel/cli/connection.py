"""Where the service is and who asks, from options or the environment; errors become exits."""

from __future__ import annotations

import re
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Annotated, Any, Final

import typer

from harquel.cli import exits
from harquel.cli.output import ask_for_json, in_json, print_json, say
from harquel.client import Forbidden, Harquel, HarquelError, TokenRefused, Unreachable

Url = Annotated[str, typer.Option("--url", envvar="HARQUEL_URL", help="Address of the service.")]
TokenText = Annotated[
    str, typer.Option("--token", envvar="HARQUEL_TOKEN", help="Token to ask with.", show_default=False)
]
AsJson = Annotated[
    bool,
    typer.Option("--json", help="Print JSON instead of text, of errors too.", callback=ask_for_json, is_eager=True),
]
USUAL_URL = "http://127.0.0.1:8710"
_WHOLE: Final = re.compile(r"-?[0-9]{1,18}")


@contextmanager
def connected(url: str, token: str) -> Iterator[Harquel]:
    """A client; its errors end the program with one sentence, a hint and the right code."""
    if not token:
        hint = "Set HARQUEL_TOKEN, or give --token; “harquel token create --local” makes the first one."
        fail(TokenRefused("There is no token.", hint))
    try:
        with Harquel(url, token) as client:
            yield client
    except HarquelError as error:
        fail(error)


def fail(error: HarquelError) -> None:
    """Says what is wrong and ends; where JSON is wanted, on standard output and in JSON."""
    if in_json():
        found = error.problem.model_dump(mode="json") if error.problem else {"title": str(error), "hint": error.hint}
        print_json({"error": found})
    else:
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
        plain: Any = int(value) if _WHOLE.fullmatch(value) else value
        earlier = found.get(name)
        found[name] = plain if earlier is None else [*(earlier if isinstance(earlier, list) else [earlier]), plain]
    return found
