"""`harquel review`: what guard and review make of a statement."""

from __future__ import annotations

import sys
from typing import Annotated

import typer

from harquel.cli import exits
from harquel.cli.connection import USUAL_URL, AsJson, TokenText, Url, connected
from harquel.cli.leaf import console, sql
from harquel.cli.output import print_json


def review(
    statement: Annotated[str, typer.Argument(help="The SQL, or - to read it from standard input.")],
    source: Annotated[str, typer.Option("--source", "-s", help="The source it is for.")],
    url: Url = USUAL_URL,
    token: TokenText = "",
    as_json: AsJson = False,
) -> None:
    """Guard and review a SQL statement without running it. Ends with 0 when it would run."""
    text = sys.stdin.read() if statement == "-" else statement
    with connected(url, token) as client:
        found = client.review(source, text)
        if as_json:
            print_json(found)
        else:
            out = console()
            for ruling in found.rulings:
                colour = "green" if ruling.verdict == "run" else "red"
                out.print(f"[{colour}]{ruling.verdict}[/] on the {ruling.on} ({ruling.policy_line}): {ruling.reason}")
            for finding in found.findings:
                place = f" at {finding.start}–{finding.end}" if finding.start is not None else ""
                out.print(f"▲ {finding.rule}{place}: {finding.message} {finding.hint}", markup=False)
            if found.rewritten_sql:
                out.print(sql(found.rewritten_sql))
            for step in found.dry_run.steps if found.dry_run else ():
                out.print(f"  {step}", style="dim", markup=False)
    raise typer.Exit(exits.BY_VERDICT.get(found.verdict, exits.BY_OUTCOME["failed"]))
