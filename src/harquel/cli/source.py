"""`harquel source` and `harquel catalog`: what can be asked, and what it holds."""

from __future__ import annotations

import typer
from rich import box
from rich.table import Table
from rich.text import Text

from harquel.cli.connection import USUAL_URL, AsJson, TokenText, Url, connected, print_json
from harquel.cli.leaf import console
from harquel.contract import CatalogColumn

source = typer.Typer(no_args_is_help=True, add_completion=False, help="Look at the sources that can be asked.")
catalog = typer.Typer(no_args_is_help=True, add_completion=False, help="Look at what a source holds.")


@source.command("list")
def list_(url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False) -> None:
    """List the sources that this token may ask."""
    with connected(url, token) as client:
        found = client.sources()
        if as_json:
            print_json(found)
            return
        table = Table(box=box.SIMPLE_HEAD, pad_edge=False, show_edge=False)
        for head in ("name", "engine", "tables", "model", "title"):
            table.add_column(head)
        for line in found:
            table.add_row(*map(Text, (line.name, line.engine, str(line.tables), line.model, line.title)))
        console().print(table if found else "No source is connected.")
        for line in found:
            if line.problem:
                typer.secho(f"{line.name}: {line.problem} {line.hint or ''}", fg="red")


@source.command()
def show(name: str, url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False) -> None:
    """Show one source and questions to start with."""
    with connected(url, token) as client:
        found = client.source(name)
        if as_json:
            print_json(found)
            return
        typer.echo(f"{found.name} · {found.engine} · {found.tables} tables · drafts by {found.model}")
        if found.title:
            typer.echo(found.title)
        if found.as_of:
            typer.echo(f"“Now” is {found.as_of:%Y-%m-%d %H:%M} UTC")
        if found.problem:
            typer.secho(f"{found.problem} {found.hint or ''}", fg="red")
        for starter in found.starters:
            typer.echo(f"  – {starter}")


@catalog.callback()
def _group() -> None:
    """Keeps `show` a command of its own while it is the only one."""


@catalog.command("show")
def show_catalog(
    name: str, table: str | None = None, url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False
) -> None:
    """Show the exposed tables of a source, or the columns of one (--table NAME)."""
    with connected(url, token) as client:
        found = client.catalog(name)
        if table is not None:
            known = [t.name for t in found.tables]
            found.tables = [t for t in found.tables if t.name == table]
            if not found.tables:
                typer.secho(f"There is no table {table!r} here.", err=True, fg="red")
                typer.echo(f"Known: {', '.join(known)}.", err=True)
                raise typer.Exit(2)
        if as_json:
            print_json(found)
            return
        shown = Table(box=box.SIMPLE_HEAD, pad_edge=False, show_edge=False)
        if table is None:
            for head in ("table", "rows", "columns", "about"):
                shown.add_column(head, justify="right" if head in ("rows", "columns") else "left")
            for t in found.tables:
                rows = f"{t.row_count:,}" if t.row_count is not None else t.kind
                shown.add_row(*map(Text, (t.name, rows, str(len(t.columns)), t.text)))
        else:
            for head in ("column", "type", "about"):
                shown.add_column(head, overflow="fold")
            for column in found.tables[0].columns:
                shown.add_row(*map(Text, (column.name, column.type, _about(column))))
        console().print(shown)
        typer.echo(f"{len(found.tables)} tables · scanned {found.scanned_at:%Y-%m-%d %H:%M} UTC · {found.fingerprint}")


def _about(column: CatalogColumn) -> str:
    parts = [column.text] if column.text else []
    if column.primary_key:
        parts.append("key")
    if column.unit:
        parts.append(f"in {column.unit}")
    if column.codes:
        parts.append(", ".join(f"{k} = {v}" for k, v in column.codes.items()))
    elif column.samples:
        parts.append("such as " + ", ".join(map(str, column.samples[:6])))
    return "; ".join(parts)
