"""`harquel chat`: showing in a chat who one is here."""

from __future__ import annotations

import typer
from rich.text import Text

from harquel.cli.connection import USUAL_URL, AsJson, TokenText, Url, connected
from harquel.cli.leaf import console
from harquel.cli.output import print_json, say
from harquel.cli.tables import FittingTable
from harquel.client import calls

chat = typer.Typer(
    no_args_is_help=True, add_completion=False, pretty_exceptions_enable=False,
    help="Ask in a chat: show there who you are here, and end that.",
)  # fmt: skip


@chat.command()
def code(name: str, url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False) -> None:
    """Make a code by which you show in a chat who you are: it counts once, for a quarter of an hour."""
    with connected(url, token) as client:
        found = client.send(calls.chat_code(name))
    if as_json:
        print_json(found)
    else:
        say(f"Write to Harquel in {found.chat}, directly: {found.write}")


@chat.command("list")
def list_(url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False) -> None:
    """List who of which chat asks in your name; with the scope admin everybody's."""
    with connected(url, token) as client:
        found, names = client.send(calls.chat_links()), client.send(calls.chats())
    if as_json:
        print_json(found)
        return
    if not found:
        known = ", ".join(one.name for one in names)
        say(f"Nobody is linked: “harquel chat code NAME” ({known})." if known else "This service is in no chat.")
        return
    table = FittingTable()
    for head in ("Link", "Chat", "There", "Here", "Since"):
        table.add_column(head, no_wrap=head != "There")
    for one in found:
        cells = (str(one.id), one.chat, one.theirs, one.person, f"{one.at:%Y-%m-%d %H:%M}")
        table.add_row(*map(Text, cells))
    console().print(table)


@chat.command()
def unlink(number: int, url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False) -> None:
    """End a link: whoever it was asks there no more."""
    with connected(url, token) as client:
        client.send(calls.end_chat_link(number))
    if as_json:
        print_json({"ended": number})
    else:
        say(f"Link {number} is over.")
