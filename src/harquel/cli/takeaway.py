"""Answers as files: the form is that of the file's name."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, get_args

import typer

from harquel.cli.output import say
from harquel.client import Harquel
from harquel.contract import Form

FORMS: tuple[Form, ...] = get_args(Form)
Out = Annotated[
    Path | None,
    typer.Option("--out", help="Write the answer to a file: .csv, .json, .xlsx, .md, .html; its chart: .svg, .png."),
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
