"""`harquel ask`: a question, its progress, its answer."""

from __future__ import annotations

import sys
from contextlib import nullcontext
from dataclasses import dataclass
from typing import Annotated

import typer
from rich.live import Live
from rich.text import Text

from harquel.cli import exits
from harquel.cli.chatting import LAST, LONGEST, newest, next_line
from harquel.cli.connection import USUAL_URL, AsJson, TokenText, Url, connected
from harquel.cli.going_on import GoingOn
from harquel.cli.layers import All, Grounds, Trail, layers
from harquel.cli.leaf import console
from harquel.cli.output import print_json, say
from harquel.cli.takeaway import Out, Whole, fits, take_out
from harquel.client import Harquel, StreamEvent, calls
from harquel.contract import Clarify, Inquiry


def ask(
    question: Annotated[str, typer.Argument(help="What you want to know; - reads it from standard input.")] = "",
    source: Annotated[str | None, typer.Option("--source", "-s", help="Which source to ask.")] = None,
    follows: Annotated[
        str | None, typer.Option("--follows", "--follow", help="The inquiry that this one follows, or: last.")
    ] = None,
    choice: Annotated[str | None, typer.Option(help="The reading that is meant, when that inquiry asked back.")] = None,
    complete: Annotated[
        bool, typer.Option("--complete", help="The question is whole as it is: add nothing of what it follows.")
    ] = False,
    chat: Annotated[
        bool, typer.Option("--chat", help="Ask on after each answer, a line each; an empty one ends it.")
    ] = False,
    silence: Annotated[
        list[str] | None, typer.Option(help="A finding of review that is not to count this once; a caveat says so.")
    ] = None,
    strict: Annotated[bool, typer.Option("--strict", help="End with 10 where the answer is not clear.")] = False,
    grounds: Grounds = False,
    trail: Trail = False,
    whole: All = False,
    brief: Annotated[bool, typer.Option("--brief", help="Print the sentence and its caveats alone.")] = False,
    out: Out = None,
    everything: Whole = False,
    url: Url = USUAL_URL,
    token: TokenText = "",
    as_json: AsJson = False,
) -> None:
    """Ask a question in plain language. The exit code tells the outcome."""
    fits(out, everything)
    shown = _Shown(brief, grounds or whole, trail or whole, as_json)
    with connected(url, token) as client:
        if follows == LAST:
            follows = newest(client)
        question = _said(question, choice, follows, chat)
        first = calls.ask(question, source, follows, None, 0, None, silence=silence or (), complete=complete)
        if choice is not None and follows is not None:
            first = calls.choose(follows, choice, 0)
        inquiry = _settled(client, first, shown)
        while chat and (said := next_line()):
            inquiry = _settled(client, calls.ask(said, None, inquiry.id, None, 0, None), shown)
        if out is not None and inquiry.answer is not None:
            take_out(client, inquiry.id, out, everything)
    if strict and inquiry.trust == "caution":
        raise typer.Exit(exits.CAUTION)
    raise typer.Exit(exits.of(inquiry))


@dataclass(frozen=True)
class _Shown:
    """How much of each inquiry is printed."""

    brief: bool
    grounds: bool
    trail: bool
    as_json: bool


def _settled(client: Harquel, call: calls.Call[Inquiry], shown: _Shown) -> Inquiry:
    """Asks, watches to the end, asks back whoever sits there, and prints what came of it."""
    live = sys.stderr.isatty() and not shown.as_json
    inquiry, events = follow(client, call, live)
    while inquiry.clarify is not None and inquiry.clarify.choices and live and sys.stdin.isatty() and not shown.brief:
        picked = _pick(inquiry.clarify)
        if picked is None:
            break
        inquiry, events = follow(client, calls.choose(inquiry.id, picked, 0), live)
    if shown.as_json:
        print_json(inquiry)
    elif shown.brief:
        _print_briefly(inquiry)
    else:
        console().print(layers(inquiry, events, shown.grounds, shown.trail))
    return inquiry


def _said(question: str, choice: str | None, follows: str | None, chat: bool) -> str:
    """The question, from standard input where that is meant. Raises BadParameter."""
    if choice is not None and follows is None:
        raise typer.BadParameter("name the inquiry that asked back with --follows", param_hint="choice")
    if chat and choice is None and question.strip() in ("", "-"):
        question = next_line()
    elif question == "-":
        question = sys.stdin.read(LONGEST)
    if choice is None and not question.strip():
        raise typer.BadParameter("write what you want to know", param_hint="question")
    return question


def _print_briefly(inquiry: Inquiry) -> None:
    said = inquiry.answer.text if inquiry.answer else inquiry.problem.title if inquiry.problem else ""
    say(inquiry.clarify.question if inquiry.clarify else said)
    for caveat in inquiry.answer.caveats if inquiry.answer else ():
        say(f"▲ {caveat.message}")
    for choice in inquiry.clarify.choices if inquiry.clarify else ():
        say(f"  {choice.id}: {choice.label}")


def _pick(clarify: Clarify) -> str | None:
    """The reading that somebody at a terminal means; None when they mean none of them."""
    shown = console(stderr=True)
    shown.print(Text(clarify.question, style="bold"))
    for number, choice in enumerate(clarify.choices, 1):
        shown.print(Text(f"  {number}  {choice.label}"))
    while True:
        said = typer.prompt("Number, or nothing to leave it", default="", show_default=False, err=True).strip()
        if not said:
            return None
        if said.isdigit() and 0 < int(said) <= len(clarify.choices):
            return clarify.choices[int(said) - 1].id
        say(f"Type a number from 1 to {len(clarify.choices)}.", err=True)


def follow(client: Harquel, call: calls.Call[Inquiry], live: bool) -> tuple[Inquiry, list[StreamEvent]]:
    """Asks and watches to the end. Ctrl-C cancels the inquiry, in the database too, and ends with 130."""
    started = client.send(call)
    events: list[StreamEvent] = []
    shown = GoingOn()
    try:
        with Live(shown, console=console(stderr=True), transient=True, refresh_per_second=8) if live else nullcontext():
            for event in client.events(started.id):
                if live:
                    shown.take(event)
                if event.kind != "piece":
                    events.append(event)
    except KeyboardInterrupt:
        client.cancel(started.id)
        say(f"Stopped. See it with: harquel inquiry show {started.id}", err=True)
        raise typer.Exit(exits.INTERRUPTED) from None
    return client.inquiry(started.id), events
