"""Answers as files: the form is that of the file's name."""

from __future__ import annotations

import os
import sys
import time
from pathlib import Path
from typing import Annotated, Final, Literal, get_args

import typer
from rich.live import Live
from rich.text import Text

from harquel.cli import exits
from harquel.cli.leaf import console
from harquel.cli.output import say
from harquel.client import Harquel
from harquel.contract import Form, Inquiry

FORMS: tuple[Form, ...] = get_args(Form)
Out = Annotated[
    Path | None,
    typer.Option("--out", help="Write the answer to a file: .csv, .json(l), .xlsx, .md, .html; its chart: .svg, .png."),
]
Picture = Annotated[
    str, typer.Option("--picture", help='How to draw its chart, in words: "as bars", "only the top 10", "by vessel".')
]


def form_of(out: Path) -> Form:
    """By the end of its name. Raises BadParameter, for a folder that is not there too: before anything is asked."""
    if not out.parent.is_dir():
        raise typer.BadParameter(f"there is no folder {out.parent}", param_hint="--out")
    for form in FORMS:
        if out.suffix.lower() == f".{form}":
            return form
    ends = ", ".join(f".{form}" for form in FORMS)
    raise typer.BadParameter(f"its name says the form: one of {ends}", param_hint="--out")


def write(client: Harquel, key: str, out: Path, picture: str = "") -> None:
    """Raises BadParameter where it cannot be written."""
    content = client.take_away(key, form_of(out), picture)
    try:
        out.write_bytes(content)
    except OSError as error:
        raise typer.BadParameter(f"it cannot be written: {error.strerror or error}", param_hint="--out") from error
    say(f"Written to {out} ({len(content):,} bytes).", err=True)


Whole = Annotated[
    bool, typer.Option("--whole", help="All rows, beyond what is shown, where the source's policy lets them go.")
]
_POLL_S: Final = 0.5


def whole_form_of(out: Path) -> Literal["csv", "jsonl"]:
    """Raises BadParameter."""
    form = form_of(out)
    if form == "csv" or form == "jsonl":
        return form
    raise typer.BadParameter("a whole result is written as .csv or .jsonl", param_hint="--out")


def write_whole(client: Harquel, key: str, out: Path) -> int:
    """Has all rows of an answer delivered, and writes them; the exit code. Raises BadParameter."""
    form, found = whole_form_of(out), client.inquiry(key)
    if found.answer is None or found.answer.delivery is None:
        found = _delivered(client, key)
    answer = found.answer
    if answer is None or answer.delivery is None:
        say(_why_not(found), err=True)
        return exits.of(found)
    part = out.with_name(f"{out.name}.part")
    try:
        with part.open("wb") as file:
            size = client.take_all_away(found.id, file, form)
        os.replace(part, out)
    except OSError as error:
        raise typer.BadParameter(f"it cannot be written: {error.strerror or error}", param_hint="--out") from error
    finally:
        part.unlink(missing_ok=True)
    say(f"Written to {out}: {answer.delivery.rows:,} rows ({size:,} bytes).", err=True)
    for caveat in answer.caveats:
        say(f"▲ {caveat.message}", err=True)
    return exits.of(found)


def _delivered(client: Harquel, key: str) -> Inquiry:
    """The inquiry that delivers it, ended or held. Ctrl-C stops it, in the database too, and ends with 130."""
    found = client.deliver(key, 0)
    shown = Live(console=console(stderr=True), transient=True) if sys.stderr.isatty() else None
    try:
        if shown is not None:
            shown.start()
        while found.state not in ("ended", "held"):
            if shown is not None:
                shown.update(Text(_so_far(found), style="dim"))
            time.sleep(_POLL_S)
            found = client.inquiry(found.id)
    except KeyboardInterrupt:
        client.cancel(found.id)
        say("Stopped; nothing was written.", err=True)
        raise typer.Exit(exits.INTERRUPTED) from None
    finally:
        if shown is not None:
            shown.stop()
    return found


def _so_far(found: Inquiry) -> str:
    so_far = found.delivering
    if so_far is None:
        return "● waiting for the first rows"
    return f"● {so_far.rows:,} rows, {so_far.bytes / 1e6:,.1f} MB so far · Ctrl-C stops it"


def _why_not(found: Inquiry) -> str:
    if found.state == "held":
        return (
            f"It waits until somebody releases it: harquel inquiry release {found.id}. Then take it away with: "
            f"harquel inquiry take-away {found.id} --whole --out FILE"
        )
    problem = found.problem
    return f"{problem.title} {problem.hint}".strip() if problem is not None else "There is no answer."


def fits(out: Path | None, everything: bool) -> None:
    """Before anything is asked: raises BadParameter for a file that cannot be written so."""
    if out is not None:
        (whole_form_of if everything else form_of)(out)
    elif everything:
        raise typer.BadParameter("name the file with --out", param_hint="--whole")


def take_out(client: Harquel, key: str, out: Path, everything: bool) -> None:
    """Writes an answer, or all of its rows. Raises Exit where those do not come."""
    if not everything:
        write(client, key, out)
    elif code := write_whole(client, key, out):
        raise typer.Exit(code)
