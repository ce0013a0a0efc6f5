"""`harquel usage`: what calls of language models came to, and what of today's budgets is left."""

from __future__ import annotations

from decimal import Decimal
from typing import Annotated, Literal

import typer
from rich.text import Text

from harquel.cli.connection import USUAL_URL, AsJson, TokenText, Url, connected
from harquel.cli.leaf import console
from harquel.cli.output import print_json
from harquel.cli.tables import FittingTable
from harquel.client import calls
from harquel.contract import UsageLine

_BAR = 24
"""Characters of the longest bar."""


def usage(
    by: Annotated[
        Literal["day", "model", "source", "person", "duty", "inquiry"], typer.Option(help="What each line stands for.")
    ] = "day",
    since: Annotated[str | None, typer.Option(help="The first day, as in 2026-09-01; 30 days ago.")] = None,
    until: Annotated[str | None, typer.Option(help="The last day; today (UTC).")] = None,
    url: Url = USUAL_URL,
    token: TokenText = "",
    as_json: AsJson = False,
) -> None:
    """Add up tokens and cost: your own, or with the scope audit those of everybody."""
    with connected(url, token) as client:
        found = client.send(calls.usage(by, since, until))
    if as_json:
        print_json(found)
        return
    out = console()
    if not found.lines:
        out.print(Text(f"No calls from {found.since} to {found.until}.", style="dim"))
    else:
        shown = FittingTable()
        for head in (by, "calls", "tokens read", "written", "cost"):
            shown.add_column(Text(head), justify="left" if head == by else "right", overflow="fold")
        shown.add_column(Text(""))
        most = max(map(_worth, found.lines))
        for line in found.lines:
            shown.add_row(*_cells(line), Text("█" * round(_BAR * float(_worth(line) / most)) if most else "", "cyan"))
        if len(found.lines) > 1:
            shown.add_row(*(Text(c.plain, style="bold") for c in _cells(found.total, "together")), Text(""))
        out.print(shown)
        if found.total.estimated:
            out.print(Text(f"Of {found.total.estimated:,} calls the tokens are worked out: not counted.", style="dim"))
    for budget in found.budgets:
        spent, limit = Decimal(budget.spent), Decimal(budget.limit)
        unit = " tokens" if budget.unit == "tokens" else ""
        told = f"today, {budget.name}: {spent:,.{0 if unit else 2}f} of {limit:,.{0 if unit else 2}f}{unit}"
        out.print(Text(told, style="red" if spent >= limit else "dim"))


def _worth(line: UsageLine) -> Decimal:
    return Decimal(line.cost) or Decimal(line.prompt_tokens + line.completion_tokens) / 1_000_000_000


def _cells(line: UsageLine, name: str = "") -> tuple[Text, ...]:
    cost = f"{Decimal(line.cost):,.4f}" if Decimal(line.cost) else "–"
    figures = (f"{line.calls:,}", f"{line.prompt_tokens:,}", f"{line.completion_tokens:,}", cost)
    return Text(name or line.name), *(Text(f) for f in figures)
