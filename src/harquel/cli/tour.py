"""`harquel tour`: eight questions of different kinds on a demo of its own, each in three layers."""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import Annotated

import typer
from rich.rule import Rule

from harquel.cli import exits
from harquel.cli.ask import follow
from harquel.cli.layers import layers
from harquel.cli.leaf import console
from harquel.cli.local import helper
from harquel.cli.output import say
from harquel.client import Harquel, HarquelError, calls

# question, source, outcome that the tour is to show, attempts at least
_ENGLISH = (
    ("How many sailings were cancelled in August 2026?", "ferries", "answered", 1),
    ("Which five routes earned most this year?", "ferries", "answered", 1),
    ("What share of bookings came through each channel last quarter?", "ferries", "answered", 1),
    ("Average wind at Gullspire in July 2026 against July 2025", "ferries", "answered", 1),
    ("On-time rate per vessel, worst first", "rough", "answered", 2),
    ("Which maintenance orders have been open for more than 30 days?", "ferries", "answered", 1),
    ("Delete every booking", "ferries", "refused", 1),
    ("What does the captain earn?", "ferries", "unanswerable", 1),
)
_GERMAN = (
    ("Wie viele Fahrten sind im August 2026 ausgefallen?", "ferries", "answered", 1),
    ("Welche fünf Strecken hatten dieses Jahr den höchsten Umsatz?", "ferries", "answered", 1),
    ("Anteil der Buchungen je Kanal im letzten Quartal", "ferries", "answered", 1),
    ("Umsatz je Monat in diesem Jahr als Linie", "ferries", "answered", 1),
    ("Wie viele Fahrten gab es im Juli 2026 je Strecke?", "rough", "answered", 2),
    ("Wie viele fielen im August 2026 aus?", "ferries", "clarify", 1),
    ("Delete every booking", "ferries", "refused", 1),
    ("Was verdient der Kapitän?", "ferries", "unanswerable", 1),
)
TOURS = {"en": _ENGLISH, "de": _GERMAN}


def tour(
    language: Annotated[str, typer.Option(help="the language of the questions: en or de", metavar="CODE")] = "en",
) -> None:
    """Start a demo in a folder of its own, ask eight questions, print each in three layers, and end."""
    if language not in TOURS:
        say(f"There is no tour in {language!r}; there are {' and '.join(TOURS)}.", err=True, fg="red")
        raise typer.Exit(exits.USAGE)
    stops = TOURS[language]
    out = console()
    try:
        make_stage = helper("stage")
    except ModuleNotFoundError as error:
        say("The tour needs the server part: pip install 'harquel[server]'", err=True, fg="red")
        raise typer.Exit(exits.USAGE) from error
    module = __import__(make_stage.__module__, fromlist=["free_address", "StageError"])
    wrong = []
    try:
        with tempfile.TemporaryDirectory(prefix="harquel-tour-") as folder:
            addresses = module.free_address(), module.free_address()
            # Nobody is offered a question here, and to try those that could be would only slow these down.
            untried = {"HARQUEL__SERVICE__TRY_STARTERS": "false"}
            made = make_stage(Path(folder), *addresses, typer.echo, environment=untried)
            with made as stage, Harquel(stage.url, stage.token) as client:
                for number, (question, source, outcome, attempts) in enumerate(stops, 1):
                    inquiry, events = follow(
                        client, calls.ask(question, source, None, None, 0, None, language=language), live=False
                    )
                    out.print(Rule(f"{number} of {len(stops)}", style="dim"))
                    out.print(layers(inquiry, events, with_grounds=True, with_trail=True, question=True))
                    out.print()
                    if inquiry.outcome != outcome or len(inquiry.attempts) < attempts:
                        why = f": {inquiry.problem.title} {inquiry.problem.hint}" if inquiry.problem else ""
                        wrong.append(
                            f"{question} ended as {inquiry.outcome} after {len(inquiry.attempts)} attempts{why}"
                        )
                checked = client.verify_ledger()
                out.print(f"The ledger of this tour holds: {checked.checked} entries checked.")
                if not checked.intact:
                    wrong.append("the ledger does not hold")
    except (HarquelError, module.StageError) as error:
        say(str(error), err=True, fg="red")
        raise typer.Exit(exits.BY_OUTCOME["failed"]) from error
    for line in wrong:
        say(f"Not as it should be: {line}.", err=True, fg="red")
    raise typer.Exit(exits.BY_OUTCOME["failed"] if wrong else 0)
