"""`harquel sending`: answers that were sent on, and whether they have arrived."""

from __future__ import annotations

import typer
from rich.text import Text

from harquel.cli.connection import USUAL_URL, AsJson, TokenText, Url, connected
from harquel.cli.leaf import console
from harquel.cli.output import print_json, say
from harquel.cli.tables import FittingTable
from harquel.client import calls

sending = typer.Typer(
    no_args_is_help=True, add_completion=False, pretty_exceptions_enable=False,
    help="Answers that were sent on, and whether they have arrived.",
)  # fmt: skip


@sending.command("list")
def list_(url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False) -> None:
    """List what was sent on, newest first: your own; with the scope audit everybody's."""
    with connected(url, token) as client:
        found = client.send(calls.sendings())
    if as_json:
        print_json(found)
        return
    if not found:
        say("Nothing was sent on yet: “harquel inquiry send-on ID --to DESTINATION”.")
        return
    table = FittingTable()
    for head in ("Sending", "To", "State", "Tries", "Inquiry", "Why not"):
        table.add_column(head, no_wrap=head != "Why not")
    for one in found:
        cells = (one.id, one.destination, one.state, str(one.tries), one.inquiry or one.casebook or "–", one.said)
        table.add_row(*map(Text, cells))
    console().print(table)


@sending.command()
def again(key: str, url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False) -> None:
    """Try again what was given up."""
    with connected(url, token) as client:
        found = client.send(calls.send_again(key))
    if as_json:
        print_json(found)
    else:
        say(f"{found.id} waits to be sent to {found.destination} again.")
