"""`harquel link`: answers and casebooks shown, for a time, to people without an account."""

from __future__ import annotations

from typing import Annotated

import typer
from rich.text import Text

from harquel.cli.connection import USUAL_URL, AsJson, TokenText, Url, connected
from harquel.cli.leaf import console
from harquel.cli.output import print_json, say
from harquel.cli.tables import FittingTable
from harquel.client import open_links as calls

link = typer.Typer(
    no_args_is_help=True, add_completion=False, pretty_exceptions_enable=False,
    help="Links by which people without an account see an answer or a casebook, where its policy lets them.",
)  # fmt: skip


@link.command()
def make(
    what: Annotated[str, typer.Argument(help="An answered inquiry or a casebook of yours, by its id.")],
    days: Annotated[int, typer.Option(min=1, max=365, help="How long it holds.")] = 7,
    note: Annotated[str, typer.Option(help="For whom it is, as a note to yourself.")] = "",
    url: Url = USUAL_URL,
    token: TokenText = "",
    as_json: AsJson = False,
) -> None:
    """Make one. What it shows stays as it is now; whoever has the address sees it."""
    with connected(url, token) as client:
        call = calls.share_casebook if what.startswith("cb_") else calls.share_answer
        found = client.send(call(what, days, note))
    if as_json:
        print_json(found)
        return
    say(found.url)
    say(f"It holds until {found.until:%Y-%m-%d %H:%M} UTC; end it with: harquel link end {found.id}", err=True)


@link.command("list")
def list_(url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False) -> None:
    """List yours; with the scope admin everybody's."""
    with connected(url, token) as client:
        found = client.send(calls.open_links())
    if as_json:
        print_json(found)
        return
    if not found:
        say("There is no link yet: “harquel link make INQUIRY”.")
        return
    table = FittingTable()
    for head in ("Link", "State", "Until", "Opened", "For", "Shows"):
        table.add_column(head, no_wrap=head in ("Link", "Until", "Opened"))
    for one in found:
        state = "holds" if one.holds else f"over: {one.why_ended}"
        until = f"{one.until:%Y-%m-%d %H:%M}"
        table.add_row(*map(Text, (one.id, state, until, str(one.opened), one.note or "–", one.title)))
    console().print(table)


@link.command()
def end(key: str, url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False) -> None:
    """End one: it shows nothing from now on."""
    with connected(url, token) as client:
        client.send(calls.end_open_link(key))
    if as_json:
        print_json({"ended": key})
    else:
        say(f"{key} shows nothing any more.")
