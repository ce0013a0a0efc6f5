"""`harquel ask`: a question, its progress, its answer."""

from __future__ import annotations

import sys
from typing import Annotated

import typer
from rich.live import Live
from rich.text import Text

from harquel.cli import exits
from harquel.cli.connection import USUAL_URL, AsJson, TokenText, Url, connected, print_json
from harquel.cli.leaf import console, leaf, stop
from harquel.client import Harquel, StreamEvent
from harquel.contract import Inquiry


def ask(
    question: Annotated[str, typer.Argument(help="What you want to know.")],
    source: Annotated[str | None, typer.Option("--source", "-s", help="Which source to ask.")] = None,
    follows: Annotated[str | None, typer.Option(help="The inquiry that this one follows.")] = None,
    brief: Annotated[bool, typer.Option("--brief", help="Print the answer without grounds and trail.")] = False,
    url: Url = USUAL_URL,
    token: TokenText = "",
    as_json: AsJson = False,
) -> None:
    """Ask a question in plain language. The exit code tells the outcome."""
    with connected(url, token) as client:
        inquiry, events = follow(client, question, source, follows, live=sys.stderr.isatty() and not as_json)
        if as_json:
            print_json(inquiry)
        elif brief:
            typer.echo(inquiry.answer.text if inquiry.answer else inquiry.problem.title if inquiry.problem else "")
            for caveat in inquiry.answer.caveats if inquiry.answer else ():
                typer.echo(f"▲ {caveat.message}")
        else:
            console().print(leaf(inquiry, events))
    reached = "held" if inquiry.state == "held" else str(inquiry.outcome)
    raise typer.Exit(exits.BY_OUTCOME.get(reached, exits.BY_OUTCOME["failed"]))


def follow(
    client: Harquel, question: str, source: str | None, follows: str | None, live: bool
) -> tuple[Inquiry, list[StreamEvent]]:
    """Asks and watches to the end. Ctrl-C cancels the inquiry, in the database too, and ends with 130."""
    started = client.ask(question, source, follows=follows, wait_s=0)
    events: list[StreamEvent] = []
    try:
        with Live(console=console(stderr=True), transient=True, refresh_per_second=12) if live else _Silent() as shown:
            written = ""
            for event in client.events(started.id):
                if event.kind == "piece":
                    written += event.piece
                    shown.update(Text(_tail(events) + "\n" + written[-180:], style="dim"))
                    continue
                events.append(event)
                written = ""
                shown.update(Text(_tail(events), style="dim"))
    except KeyboardInterrupt:
        client.cancel(started.id)
        typer.echo(f"Stopped. See it with: harquel inquiry show {started.id}", err=True)
        raise typer.Exit(exits.INTERRUPTED) from None
    return client.inquiry(started.id), events


def _tail(events: list[StreamEvent]) -> str:
    return "\n".join("{} {:<12} {}".format(*stop(e))[:98] for e in events[-4:])


class _Silent:
    """Stands in for the live display where there is no terminal."""

    def __enter__(self) -> _Silent:
        return self

    def __exit__(self, *_: object) -> None:
        return None

    def update(self, _: Text) -> None:
        """Shows nothing."""
