"""`harquel catalog`: what a source holds, how it changed, and what people say of it."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, Literal

import typer
from rich.text import Text

from harquel.cli import exits
from harquel.cli.connection import USUAL_URL, AsJson, TokenText, Url, connected
from harquel.cli.leaf import console, count_of
from harquel.cli.output import in_json, print_json, say, tell
from harquel.cli.source import read_text, table
from harquel.client import describing
from harquel.contract import CatalogColumn

catalog = typer.Typer(no_args_is_help=True, add_completion=False, help="Look at what a source holds, and describe it.")
notes = typer.Typer(no_args_is_help=True, add_completion=False, help="What tables, columns, codes and measures mean.")
catalog.add_typer(notes, name="notes")
Kind = Literal["notes", "policy"]


@catalog.command("show")
def show_catalog(
    name: str,
    only: Annotated[str | None, typer.Option("--table", help="The columns of one table.")] = None,
    url: Url = USUAL_URL,
    token: TokenText = "",
    as_json: AsJson = False,
) -> None:
    """Show the exposed tables of a source, or the columns of one (--table NAME)."""
    with connected(url, token) as client:
        found = client.catalog(name)
        if only is not None:
            known = [t.name for t in found.tables]
            found.tables = [t for t in found.tables if t.name == only]
            if not found.tables:
                say(f"There is no table {only!r} here.", err=True, fg="red")
                say(f"Known: {', '.join(known)}.", err=True)
                raise typer.Exit(exits.USAGE)
        if as_json:
            print_json(found)
            return
        if only is None:
            shown = table("table", "rows", "columns", "about", right=("rows", "columns"))
            for t in found.tables:
                rows = f"{'~' if t.estimated else ''}{t.row_count:,}" if t.row_count is not None else t.kind
                shown.add_row(*map(Text, (t.name, rows, str(len(t.columns)), t.text or t.comment)))
        else:
            shown = table("column", "type", "about")
            for column in found.tables[0].columns:
                shown.add_row(*map(Text, (column.name, column.type, _about(column))))
        console().print(shown)
        say(
            f"{count_of(len(found.tables), 'table')} · version {found.version}, "
            f"scanned {found.scanned_at:%Y-%m-%d %H:%M} UTC · {found.fingerprint}"
        )


def _about(column: CatalogColumn) -> str:
    parts = [column.text or column.comment] if column.text or column.comment else []
    if column.primary_key:
        parts.append("key")
    if column.personal:
        parts.append("personal: no value of it is read ahead or leaves")
    if column.unit:
        parts.append(f"in {column.unit}")
    if column.codes:
        parts.append(", ".join(f"{k} = {v}" for k, v in column.codes.items()))
    elif column.samples:
        parts.append("such as " + ", ".join(map(str, column.samples[:6])))
    elif column.low is not None:
        parts.append(f"from {column.low} to {column.high}")
    return "; ".join(parts)


@catalog.command()
def versions(name: str, url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False) -> None:
    """List the versions of the catalog, newest first."""
    with connected(url, token) as client:
        found = client.send(describing.versions(name))
        if as_json:
            print_json(found)
            return
        made = table("version", "scanned", "tables", "fingerprint", right=("version", "tables"))
        for v in found:
            made.add_row(str(v.number), f"{v.scanned_at:%Y-%m-%d %H:%M:%S}", str(v.tables), v.fingerprint)
        console().print(made)


@catalog.command()
def diff(
    name: str,
    old: Annotated[int | None, typer.Option(help="Version to compare with; the one before by default.")] = None,
    new: Annotated[int | None, typer.Option(help="The newest by default.")] = None,
    url: Url = USUAL_URL,
    token: TokenText = "",
    as_json: AsJson = False,
) -> None:
    """Say what came, went and changed between two versions of the catalog."""
    with connected(url, token) as client:
        found = client.send(describing.diff(name, old, new))
        if as_json:
            print_json(found)
            return
        signs = {"came": ("+", "green"), "went": ("-", "red"), "changed": ("~", "yellow")}
        for c in found.changes:
            sign, style = signs[c.kind]
            place = f"{c.table}.{c.column}" if c.column else c.table
            console().print(Text(f"{sign} {place}", style=style) + Text(f"  {c.said}", style="dim"))
        say(f"{len(found.changes)} changes from version {found.old} to version {found.new}.")


@catalog.command()
def coverage(name: str, url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False) -> None:
    """Say how much is described, what questions touch without a word on it, and which joins to declare."""
    with connected(url, token) as client:
        found = client.send(describing.coverage(name))
        if as_json:
            print_json(found)
            return
        say(f"{found.described} of {found.columns} exposed columns are described ({found.share:.0%}).")
        if found.most_touched:
            say("Touched by answered questions, and not described:")
        for u in found.most_touched:
            say(f"  {u.table}.{u.column}  {u.touched} times")
        if found.proposed_joins:
            say("Joins that no key declares; write them under joins: in the notes if they are right:")
        for j in found.proposed_joins:
            say(f"  {j.table}.{j.column} → {j.to_table}.{j.to_column}  {j.why}")


def export_document(kind: Kind, name: str, out: Path | None, url: str, token: str) -> None:
    """To a file, or to standard output."""
    with connected(url, token) as client:
        found = client.send(describing.document(name, kind))
        if out is None and in_json():
            print_json(found)
        elif out is None:
            say(found.text, nl=False)
        else:
            out.write_text(found.text, "utf-8")
            tell(found, f"Version {found.number} is in {out}.")


def import_document(kind: Kind, name: str, path: Path, force: bool, url: str, token: str) -> None:
    """From a file."""
    text = read_text(path)
    with connected(url, token) as client:
        made = client.send(describing.replace_document(name, kind, text, force=force))
        are = "notes" if kind == "notes" else "policy"
        tell(made, f"The {are} of {name} {'are' if kind == 'notes' else 'is'} now version {made.number}.")


def history_of(kind: Kind, name: str, url: str, token: str, as_json: bool) -> None:
    """A line a version."""
    with connected(url, token) as client:
        found = client.send(describing.history(name, kind))
        if as_json:
            print_json(found)
            return
        made = table("version", "when", "who", "by", "said", right=("version",))
        for line in found:
            made.add_row(str(line.number), f"{line.at:%Y-%m-%d %H:%M}", Text(line.who), line.origin, Text(line.said))
        console().print(made)


Out = Annotated[Path | None, typer.Option("--out", "-o", help="A file; standard output by default.")]
Force = Annotated[bool, typer.Option("--force", help="Although they speak of tables that are not there.")]


@notes.command("export")
def export_notes(
    name: str, out: Out = None, url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False
) -> None:
    """Write the notes as YAML."""
    export_document("notes", name, out, url, token)


@notes.command("import")
def import_notes(
    name: str, path: Path, force: Force = False, url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False
) -> None:
    """Take notes in from a YAML file. When they do not fit the catalog, nothing is changed."""
    import_document("notes", name, path, force, url, token)


@notes.command("history")
def history_of_notes(name: str, url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False) -> None:
    """Say who changed the notes, and when."""
    history_of("notes", name, url, token, as_json)


@notes.command("schema")
def schema_of_notes() -> None:
    """Print the JSON Schema of the YAML form, for editors that check while one writes."""
    from harquel.cli.local import helper

    say(helper("notes-schema")())
