"""`harquel watch`: questions that are asked again by themselves."""

from __future__ import annotations

from typing import Annotated, Literal

import typer
from rich.text import Text

from harquel.cli.connection import USUAL_URL, AsJson, TokenText, Url, connected
from harquel.cli.leaf import console
from harquel.cli.output import print_json, say
from harquel.cli.tables import FittingTable
from harquel.client import calls
from harquel.contract import Watch, WatchRequest

watch = typer.Typer(
    no_args_is_help=True, add_completion=False, pretty_exceptions_enable=False,
    help="Questions that are asked again by themselves, and told to whom they matter.",
)  # fmt: skip


@watch.command()
def add(
    inquiry: Annotated[str, typer.Argument(help="An answered inquiry of yours.")],
    when: Annotated[str, typer.Option(help='"every Monday at 8:00", "weekdays at 7:30", or five fields of cron.')],
    to: Annotated[list[str], typer.Option(help="An address or a destination; may be given several times.")],
    tell: Annotated[
        Literal["always", "change", "above", "below", "by", "missing", "appears"],
        typer.Option(help="What is told: each time, what has changed, a figure that crosses a line, …"),
    ] = "always",
    line: Annotated[str | None, typer.Option(help='The line, or by how much: "10", with --tell by also "5 %".')] = None,
    back: Annotated[str | None, typer.Option(help="How far back before it may cross the line anew.")] = None,
    quiet: Annotated[str | None, typer.Option(help="Hours in which nothing is sent: 22:00-07:00.")] = None,
    attach: Annotated[Literal["xlsx", "csv"] | None, typer.Option(help="With mail: the rows as a file.")] = None,
    title: Annotated[str, typer.Option(help="What it is called; by default as the question.")] = "",
    url: Url = USUAL_URL,
    token: TokenText = "",
    as_json: AsJson = False,
) -> None:
    """Have a question of yours asked again by itself, with your rights of each moment."""
    wish = WatchRequest(
        when=when, to=to, tell=tell, line=line, back=back, quiet=quiet, attach=attach, title=title
    )  # fmt: skip
    with connected(url, token) as client:
        found = client.send(calls.watch(inquiry, wish))
    _told(found, as_json)


@watch.command("list")
def list_(url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False) -> None:
    """List what you have watched; with the scope audit everybody's."""
    with connected(url, token) as client:
        found = client.send(calls.watches())
    if as_json:
        print_json(found)
        return
    if not found:
        say("Nothing is watched yet: “harquel watch add INQUIRY --when … --to …”.")
        return
    table = FittingTable()
    for head in ("Watch", "State", "When", "Told", "Next", "Last", "What"):
        table.add_column(head, no_wrap=head not in ("What", "When"))
    for one in found:
        rule = " ".join(part for part in (one.tell, one.line) if part)
        last = one.runs[0].outcome or one.runs[0].state if one.runs else "–"
        due = f"{one.next_at:%Y-%m-%d %H:%M}" if one.next_at is not None else "–"
        table.add_row(*map(Text, (one.id, one.state, one.when, rule, due, last, one.title)))
    console().print(table)


@watch.command()
def show(key: str, url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False) -> None:
    """Show one with its last times."""
    with connected(url, token) as client:
        found = client.send(calls.read_watch(key))
    if as_json:
        print_json(found)
        return
    _told(found, False)
    table = FittingTable()
    for head in ("Due", "Came", "Figure", "Inquiry", "Why"):
        table.add_column(head, no_wrap=head != "Why")
    for run in found.runs:
        came = f"{run.outcome or run.state}{', caught up' if run.late else ''}"
        due = f"{run.due_at:%Y-%m-%d %H:%M}"
        table.add_row(*map(Text, (due, came, run.figure or "–", run.inquiry or "–", run.why)))
    console().print(table)


@watch.command()
def pause(key: str, url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False) -> None:
    """Let it rest."""
    with connected(url, token) as client:
        _told(client.send(calls.change_watch(key, paused=True)), as_json)


@watch.command()
def resume(
    key: str,
    when: Annotated[str | None, typer.Option(help="At other times than before.")] = None,
    url: Url = USUAL_URL,
    token: TokenText = "",
    as_json: AsJson = False,
) -> None:
    """Let it go on; what was missed is not caught up."""
    with connected(url, token) as client:
        _told(client.send(calls.change_watch(key, paused=False, when=when)), as_json)


@watch.command()
def now(key: str, url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False) -> None:
    """Have it asked and judged now, as if it were due."""
    with connected(url, token) as client:
        _told(client.send(calls.run_watch(key)), as_json)


@watch.command()
def end(key: str, url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False) -> None:
    """End it; what it has told stays."""
    with connected(url, token) as client:
        client.send(calls.end_watch(key))
    if as_json:
        print_json({"ended": key})
    else:
        say(f"{key} is watched no more.")


def _told(found: Watch, as_json: bool) -> None:
    if as_json:
        print_json(found)
        return
    ends = f" ({found.why_ended})" if found.why_ended else ""
    due = f", next {found.next_at:%Y-%m-%d %H:%M} UTC" if found.next_at is not None else ""
    rule = " ".join(part for part in (found.tell, found.line) if part)
    say(f"{found.id}: {found.title}")
    say(f"{found.state}{ends}, {found.when} ({found.zone}){due}")
    say(f"told ({rule}) to {', '.join(found.to)}")
