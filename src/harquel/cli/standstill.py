"""`harquel standstill`: one switch that stops every statement on every source."""

from __future__ import annotations

from typing import Annotated

import typer

from harquel.cli.connection import USUAL_URL, AsJson, TokenText, Url, connected
from harquel.cli.output import tell
from harquel.client import calls


def standstill(
    switch: Annotated[str | None, typer.Argument(help="on or off; without it the state is told.")] = None,
    url: Url = USUAL_URL,
    token: TokenText = "",
    as_json: AsJson = False,
) -> None:
    """Stop what runs on every source and let nothing start, until it is switched off again."""
    if switch not in (None, "on", "off"):
        raise typer.BadParameter("Write on or off.")
    with connected(url, token) as client:
        state = client.send(calls.standstill(None if switch is None else switch == "on"))
    said = "Everything stands still: no statement reaches a database." if state.on else "Statements run as usual."
    tell(state, said)
