"""`harquel model`: which language models there are, how they stand, and whether they can be used."""

from __future__ import annotations

from typing import Annotated

import typer
from rich.table import Table
from rich.text import Text

from harquel.cli import exits
from harquel.cli.connection import USUAL_URL, AsJson, TokenText, Url, connected
from harquel.cli.leaf import console, count_of
from harquel.cli.output import print_json, say
from harquel.cli.tables import FittingTable
from harquel.client import calls
from harquel.contract import ModelCheck, ModelLine

model = typer.Typer(no_args_is_help=True, add_completion=False, help="List and check language models.")
_STATES = {"closed": ("●", "in use", "green"), "open": ("✕", "left alone", "red"), "trying": ("◌", "tried", "yellow")}


@model.command("list")
def list_models(url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False) -> None:
    """What each model does, what it costs, and whether it is left alone for its failures."""
    with connected(url, token) as client:
        found = client.send(calls.models())
    if as_json:
        print_json(found)
        return
    shown = FittingTable()
    for head in ("model", "state", "duties", "protocol", "price in/out", "calls"):
        shown.add_column(Text(head), overflow="fold")
    for line in found:
        shown.add_row(*_row(line))
    console().print(shown)
    for line in found:
        if line.state != "closed":
            say(f"{line.name}: {line.last_fault} Tried again in {line.rests_s:.0f} s.", fg="red")


def _row(line: ModelLine) -> tuple[Text, ...]:
    sign, word, colour = _STATES[line.state]
    prices = line.prompt_price or line.completion_price
    return (
        Text(line.name), Text(f"{sign} {word}", style=colour), Text("\n".join(line.duties) or "none"),
        Text(line.protocol), Text(f"{line.prompt_price:g} / {line.completion_price:g}" if prices else "–"),
        Text(f"{line.calls:,}" + (f", {line.failures:,} failed" if line.failures else "")),
    )  # fmt: skip


@model.command()
def check(
    name: Annotated[str | None, typer.Argument(help="The model; without it all of them, one after the other.")] = None,
    url: Url = USUAL_URL,
    token: TokenText = "",
    as_json: AsJson = False,
) -> None:
    """Ask one short question, which is paid for: does it reply, how fast, does it keep to a shape."""
    with connected(url, token) as client:
        names = [name] if name is not None else [line.name for line in client.send(calls.models())]
        found = [client.send(calls.check_model(each)) for each in names]
    if as_json:
        print_json(found if name is None else found[0])
    else:
        for done in found:
            _tell(done)
    if not all(done.reached for done in found):
        raise typer.Exit(exits.FAILED)


def _tell(done: ModelCheck) -> None:
    lines = Table.grid(padding=(0, 2))
    lines.add_column(style="dim", no_wrap=True)
    lines.add_column(overflow="fold")
    out = console()
    out.print(Text.assemble(("● " if done.reached else "✕ ", "green" if done.reached else "red"), (done.name, "bold")))
    if done.reached:
        lines.add_row("replies", f"first piece after {done.first_ms:,.0f} ms, all of it after {done.total_ms:,.0f} ms")
        speed = f", {done.tokens_per_s:,.0f} a second" if done.tokens_per_s is not None else ""
        told = f"{done.prompt_tokens:,} read, {done.completion_tokens:,} written{speed}"
        lines.add_row("tokens", told if done.completion_tokens else "not counted by its server")
        lines.add_row("shape", "kept" if done.shaped else "not kept: leave structured out")
        lines.add_row("cost", done.cost or "no price is configured")
    else:
        lines.add_row("problem", Text(done.problem))
        lines.add_row("", Text(done.hint))
    if done.listed is not None:
        lines.add_row("its server has", Text(", ".join(done.listed[:12]) or count_of(0, "model")))
    out.print(lines)
