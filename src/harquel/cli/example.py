"""`harquel example`: the bank of questions with SQL that is known to answer them."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, Literal

import typer
from rich.text import Text

from harquel.cli import exits
from harquel.cli.connection import USUAL_URL, AsJson, TokenText, Url, connected
from harquel.cli.leaf import console
from harquel.cli.output import in_json, print_json, say, tell
from harquel.cli.source import read_text, table
from harquel.client import describing
from harquel.contract import ExampleShape

example = typer.Typer(no_args_is_help=True, add_completion=False, help="Keep questions with SQL that answers them.")
_STYLES = {"checked": "green", "stale": "red", "new": "yellow", "off": "dim"}


@example.command("list")
def list_(
    source: str,
    stale: Annotated[bool, typer.Option("--stale", help="Only those that no longer hold.")] = False,
    url: Url = USUAL_URL,
    token: TokenText = "",
    as_json: AsJson = False,
) -> None:
    """List the examples of a source with their state."""
    with connected(url, token) as client:
        _print([e for e in client.send(describing.examples(source)) if not stale or e.state == "stale"], as_json)


def _print(found: list[ExampleShape], as_json: bool) -> None:
    if as_json:
        print_json(found)
        return
    made = table("id", "state", "question", "said", right=("id",))
    for e in found:
        alike = f" (nearly the same as {', '.join(map(str, e.alike))})" if e.alike else ""
        made.add_row(
            str(e.id), Text(e.state, style=_STYLES[e.state]), Text(e.question + alike), Text(e.said, style="dim")
        )
    console().print(made if found else "There are none.")


def _say(made: ExampleShape) -> None:
    if in_json():
        print_json(made)
        return
    say(f"Example {made.id} is {made.state}: {made.said}")
    if made.alike:
        say(f"Nearly the same question: {', '.join(map(str, made.alike))}.", fg="yellow")


@example.command()
def add(
    source: str,
    question: Annotated[str | None, typer.Option(help="The question in people's words.")] = None,
    sql: Annotated[str | None, typer.Option(help="SQL that answers it.")] = None,
    inquiry: Annotated[str | None, typer.Option("--from", help="An answered inquiry to make it of.")] = None,
    tag: Annotated[list[str] | None, typer.Option(help="A word to find it by.")] = None,
    url: Url = USUAL_URL,
    token: TokenText = "",
    as_json: AsJson = False,
) -> None:
    """Add a pair, or make one of an answered inquiry (--from ID). It is checked at once."""
    with connected(url, token) as client:
        call = describing.add_example(source, question=question, sql=sql, inquiry=inquiry, tags=tag or [])
        _say(client.send(call))


@example.command()
def change(
    source: str,
    example_id: int,
    question: Annotated[str | None, typer.Option()] = None,
    sql: Annotated[str | None, typer.Option()] = None,
    off: Annotated[bool | None, typer.Option("--off/--on", help="Keep it out of prompts, or let it in again.")] = None,
    url: Url = USUAL_URL,
    token: TokenText = "",
    as_json: AsJson = False,
) -> None:
    """Change a pair, or switch it off or on."""
    with connected(url, token) as client:
        _say(client.send(describing.change_example(source, example_id, question=question, sql=sql, off=off)))


@example.command()
def remove(source: str, example_id: int, url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False) -> None:
    """Take a pair out."""
    with connected(url, token) as client:
        client.send(describing.remove_example(source, example_id))
        tell({"id": example_id, "removed": True}, f"Example {example_id} is gone.")


@example.command()
def check(source: str, url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False) -> None:
    """Check every pair against the database as it is now. Ends with 7 when one does not hold."""
    with connected(url, token) as client:
        found = client.send(describing.check_examples(source))
        _print(found, as_json)
    if any(e.state == "stale" for e in found):
        raise typer.Exit(exits.FAILED)


@example.command("export")
def export_(
    source: str,
    form: Annotated[str, typer.Option(help="yaml or jsonl.")] = "yaml",
    out: Annotated[Path | None, typer.Option("--out", "-o", help="A file; standard output by default.")] = None,
    url: Url = USUAL_URL,
    token: TokenText = "",
    as_json: AsJson = False,
) -> None:
    """Write the bank as YAML or JSON Lines."""
    with connected(url, token) as client:
        found = client.send(describing.export_examples(source, _form(form)))
        if out is None and in_json():
            print_json(found)
        elif out is None:
            say(found.text, nl=False)
        else:
            out.write_text(found.text, "utf-8")
            tell(found, f"Written to {out}.")


@example.command("import")
def import_(source: str, path: Path, url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False) -> None:
    """Take pairs in from a YAML or JSON Lines file (by its ending). Each is checked."""
    text = read_text(path)
    with connected(url, token) as client:
        form = _form("jsonl" if path.suffix in (".jsonl", ".ndjson") else "yaml")
        made = client.send(describing.import_examples(source, text, form))
        tell(made, f"{made.added} added, {made.changed} changed, {len(made.stale)} of them do not hold.")
        for problem in () if in_json() else made.problems:
            say(f"  {problem}", fg="red")


def _form(text: str) -> Literal["yaml", "jsonl"]:
    if text not in ("yaml", "jsonl"):
        raise typer.BadParameter("yaml or jsonl")
    return "jsonl" if text == "jsonl" else "yaml"
