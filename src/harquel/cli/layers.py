"""How much of an inquiry a terminal shows: the answer alone, and on demand what it rests on and how it came about."""

from __future__ import annotations

from typing import Annotated

import typer
from rich.console import Group, RenderableType
from rich.padding import Padding
from rich.rule import Rule
from rich.text import Text

from harquel.cli.bars import answer_table
from harquel.cli.leaf import grounds, headline, trail
from harquel.client import StreamEvent
from harquel.contract import Inquiry

Grounds = Annotated[bool, typer.Option("--grounds", help="Show what the answer rests on: the query, in words and SQL.")]
Trail = Annotated[bool, typer.Option("--trail", help="Show each step on the way to it.")]
All = Annotated[bool, typer.Option("--all", help="Show both.")]


def layers(
    inquiry: Inquiry, events: list[StreamEvent], with_grounds: bool, with_trail: bool, question: bool = False
) -> RenderableType:
    """The answer; its grounds and its trail where they are asked for. `question`: with the question above it."""
    parts = [headline(inquiry, question)]
    if inquiry.answer is not None:
        table = answer_table(inquiry.answer)
        parts += [] if table is None else [Padding(table, (1, 0, 0, 0))]
        if with_grounds:
            parts.append(Padding(grounds(inquiry), (1, 0, 0, 0)))
    if inquiry.answer is not None and _more(inquiry):
        parts.append(Padding(Text(_more(inquiry), style="dim"), (1, 0, 0, 0)))
    if with_trail:
        parts += [Padding(Rule("trail", align="left", style="dim"), (1, 0, 0, 0)), trail(inquiry, events)]
    if inquiry.answer is not None and not (with_grounds or with_trail):
        parts.append(Padding(Text(f"Why: harquel inquiry show {inquiry.id} --all", style="dim"), (1, 0, 0, 0)))
    return Group(*parts)


def _more(inquiry: Inquiry) -> str:
    """Where all rows are, or how to have them, where these are not all."""
    assert inquiry.answer is not None
    take = f"harquel inquiry take-away {inquiry.id} --whole --out rows.csv"
    delivery = inquiry.answer.delivery
    if delivery is not None:
        kept = f", kept until {delivery.until:%Y-%m-%d %H:%M} UTC" if delivery.until is not None else ""
        return f"The file has {delivery.rows:,} rows{kept}: {take}"
    return f"All rows: {take}" if inquiry.answer.table.cut_by is not None else ""
