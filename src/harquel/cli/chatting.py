"""One question after another: which was asked last, and what is said next."""

from __future__ import annotations

import sys
from itertools import islice
from typing import Final

import typer

from harquel.client import Harquel

LAST: Final = "last"
"""In the place of an inquiry's id: the newest of one's own."""
LONGEST: Final = 20_000
"""Characters that are read of standard input; a question may have fewer."""
_LOOKED_AT: Final = 1_000
"""Inquiries among which one's own is looked for: an auditor's list holds everybody's."""


def newest(client: Harquel) -> str:
    """The id of what one asked last. Raises BadParameter where there is none."""
    me = client.me().person
    for line in islice(client.each_inquiry(), _LOOKED_AT):
        if line.asked_by == me:
            return line.id
    raise typer.BadParameter("you have asked nothing yet that could be followed", param_hint="follows")


def next_line() -> str:
    """What is said next; empty at the end. Somebody at a terminal is asked for it."""
    if sys.stdin.isatty():
        try:
            return str(typer.prompt("And", default="", show_default=False, err=True)).strip()
        except typer.Abort:
            return ""
    for line in iter(lambda: sys.stdin.readline(LONGEST), ""):
        if line.strip():
            return line.strip()
    return ""
