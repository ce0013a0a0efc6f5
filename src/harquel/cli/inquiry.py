"""`harquel inquiry`: what was asked before."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Annotated, Literal

import typer
from rich.text import Text

from harquel.cli import exits
from harquel.cli.ask import follow
from harquel.cli.connection import USUAL_URL, AsJson, TokenText, Url, connected
from harquel.cli.layers import All, Grounds, Trail, layers
from harquel.cli.leaf import console
from harquel.cli.output import print_json, say, tell
from harquel.cli.prompts import as_data, calls_of, shown
from harquel.cli.side_by_side import side_by_side
from harquel.cli.tables import FittingTable
from harquel.cli.takeaway import Picture, Whole, form_of, whole_form_of, write, write_whole
from harquel.client import Harquel, calls, describing

inquiry = typer.Typer(
    no_args_is_help=True, add_completion=False, help="Look at earlier inquiries, stop one, or keep what one corrects."
)


@inquiry.command("list")
def list_(
    limit: Annotated[int, typer.Option(min=1, max=200)] = 20,
    source: Annotated[str | None, typer.Option("--source", "-s")] = None,
    outcome: Annotated[str | None, typer.Option(help="Only those that ended so.")] = None,
    held: Annotated[bool, typer.Option("--held", help="Only those that wait for a release.")] = False,
    url: Url = USUAL_URL,
    token: TokenText = "",
    as_json: AsJson = False,
) -> None:
    """List inquiries, newest first."""
    with connected(url, token) as client:
        page = client.inquiries(limit, source=source, outcome=outcome, state="held" if held else None)
        if as_json:
            print_json(page.items)
            return
        table = FittingTable()
        for head in ("id", "asked", "by", "outcome", "question"):
            table.add_column(head, overflow="fold" if head == "question" else "ellipsis", no_wrap=head != "question")
        for line in page.items:
            ended = f"{line.outcome} · {line.trust}" if line.trust else line.outcome or line.state
            asked = line.standalone_question or line.question
            cells = (line.id, f"{line.asked_at:%m-%d %H:%M}", line.asked_by, ended, asked)
            table.add_row(*map(Text, cells))
        fits = [f"--source {source}" if source else "", f"--outcome {outcome}" if outcome else "", "--held" * held]
        narrowed = " ".join(filter(None, fits))
        none = f"No inquiry fits {narrowed}." if narrowed else "Nothing was asked yet."
        console().print(table if page.items else none)
        if page.next:
            say(f"More: raise --limit (now {limit}).")


@inquiry.command()
def show(
    key: str, grounds: Grounds = False, trail: Trail = False, whole: All = False, url: Url = USUAL_URL,
    token: TokenText = "", as_json: AsJson = False,
) -> None:  # fmt: skip
    """Show one inquiry: its answer, and on demand what that rests on and how it came about."""
    with connected(url, token) as client:
        found = client.inquiry(key)
        if as_json:
            print_json(found)
            return
        events = list(client.events(key)) if found.state == "ended" else []
        told = [e for e in events if e.kind != "piece"]
        console().print(layers(found, told, grounds or whole, trail or whole, question=True))


@inquiry.command()
def prompt(
    key: str, url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False
) -> None:  # fmt: skip
    """Show each call of a model for it whole: what it was told, what it said, how many tokens that was."""
    with connected(url, token) as client:
        client.inquiry(key)
        found = calls_of(list(client.events(key)))
    if as_json:
        print_json([as_data(call) for call in found])
    else:
        console().print(shown(found) if found else Text("No model was asked for it.", style="dim"))


@inquiry.command("take-away")
def take_away(
    key: str,
    out: Annotated[
        Path, typer.Option("--out", help="The file: .csv, .json(l), .xlsx, .md, .html; a chart: .svg, .png.")
    ],
    picture: Picture = "",
    everything: Whole = False,
    url: Url = USUAL_URL,
    token: TokenText = "",
) -> None:
    """Write an answer to a file, with what it stands on, or draw it; or write all of its rows."""
    form_of(out)
    if everything:
        whole_form_of(out)
    with connected(url, token) as client:
        if everything:
            raise typer.Exit(write_whole(client, key, out))
        write(client, key, out, picture)


@inquiry.command("send-on")
def send_on(
    key: str,
    to: Annotated[str, typer.Option("--to", help="A destination of the service's configuration, or an address.")],
    attach: Annotated[
        Literal["xlsx", "csv"] | None, typer.Option("--attach", help="With mail: the rows as a file.")
    ] = None,
    url: Url = USUAL_URL,
    token: TokenText = "",
    as_json: AsJson = False,
) -> None:
    """Have an answer of yours sent to a destination or an address, as far as the source's policy lets it."""
    with connected(url, token) as client:
        found = client.send(calls.send_on(key, to, attach))
    if as_json:
        print_json(found)
    else:
        say(f"{found.id} waits to be sent to {found.destination}; “harquel sending list” shows whether it has arrived.")


@inquiry.command()
def again(
    key: str, grounds: Grounds = False, trail: Trail = False, whole: All = False, url: Url = USUAL_URL,
    token: TokenText = "", as_json: AsJson = False,
) -> None:  # fmt: skip
    """Run the statement of an answer once more and say what is different; no model is asked."""
    with connected(url, token) as client:
        found, events = follow(client, calls.choose(key, "again", 0), live=sys.stderr.isatty() and not as_json)
        if as_json:
            print_json(found)
        else:
            console().print(layers(found, events, grounds or whole, trail or whole))
    raise typer.Exit(exits.of(found))


@inquiry.command()
def redraft(
    key: str,
    model: Annotated[str | None, typer.Option(help="Who drafts it, as named in the configuration.")] = None,
    shipped: Annotated[bool, typer.Option("--shipped", help="By the templates that ship.")] = False,
    url: Url = USUAL_URL,
    token: TokenText = "",
    as_json: AsJson = False,
) -> None:
    """Draft an answered question again, by another model or other templates, and lay both side by side."""
    with connected(url, token) as client:
        before = client.inquiry(key)
        live = sys.stderr.isatty() and not as_json
        found, _ = follow(client, calls.redraft(key, model, shipped, 0), live)
        if as_json:
            print_json(found)
        else:
            console().print(side_by_side(before, found))
    raise typer.Exit(exits.of(found))


@inquiry.command()
def cancel(key: str, url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False) -> None:
    """Stop an inquiry, down to the database."""
    with connected(url, token) as client:
        ended = client.inquiry(key).state == "ended"
        client.cancel(key)
        said = "has ended already; nothing was stopped" if ended else "was asked to stop"
        tell({"id": key, "stopping": not ended}, f"{key} {said}.")


@inquiry.command()
def release(
    key: str,
    refuse: Annotated[bool, typer.Option("--refuse", help="Do not let it run; the inquiry ends.")] = False,
    note: Annotated[str, typer.Option(help="A word why; it goes on record and to the asker.")] = "",
    url: Url = USUAL_URL,
    token: TokenText = "",
    as_json: AsJson = False,
) -> None:
    """Decide on a held statement: let it run, or not."""
    with connected(url, token) as client:
        made = client.release(key, not refuse, note)
        tell(made, f"{key} {'is turned down' if refuse else 'is released'}. See it with: harquel inquiry show {key}")


@inquiry.command()
def keep(key: str, url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False) -> None:
    """Write what an inquiry corrects (--choice instead-1) into the notes of its source, for everybody."""
    with connected(url, token) as client:
        found = client.send(describing.keep(key))
        if as_json:
            print_json(found)
            return
        what = _kept(client, key)
        say(f"Written into the notes of {found.source}, version {found.number}{f': {what}' if what else ''}.")


def _kept(client: Harquel, key: str) -> str:
    """What an inquiry corrects of the one before, in words."""
    corrected = client.inquiry(key)
    earlier = client.inquiry(corrected.follows).second_opinion if corrected.follows else None
    offers = earlier.instead if earlier is not None else []
    lasting = next((o.lasting for o in offers if o.id == corrected.choice), None)
    if lasting is None:
        return ""
    if lasting.word:
        return f"“{lasting.word}” means the code {lasting.code} of {lasting.table}.{lasting.column}"
    return f"rows of {lasting.table} are dated by {lasting.column}"
