"""`harquel casebook`: kept collections of answers with text between them."""

from __future__ import annotations

import sys
import time
from pathlib import Path
from typing import Annotated, Literal

import typer
from rich.text import Text

from harquel.cli.connection import USUAL_URL, AsJson, TokenText, Url, connected
from harquel.cli.leaf import console
from harquel.cli.output import print_json, say
from harquel.cli.tables import FittingTable
from harquel.client import Harquel
from harquel.client import casebooks as calls
from harquel.contract import Casebook, CasebookRequest

casebook = typer.Typer(
    no_args_is_help=True, add_completion=False, pretty_exceptions_enable=False,
    help="Answers that are kept with text between them, whose figures move along when they are asked again.",
)  # fmt: skip
Key = Annotated[str, typer.Argument(metavar="CASEBOOK", help="Its id, as the list shows it.")]
_PAUSE_S = 0.5


@casebook.command("list")
def list_(url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False) -> None:
    """List your casebooks and those that you may read."""
    with connected(url, token) as client:
        found = client.send(calls.casebooks())
    if as_json:
        print_json(found)
        return
    if not found:
        say("There is no casebook yet: “harquel casebook new TITLE”.")
        return
    table = FittingTable()
    for head in ("Casebook", "Title", "Of", "Answers", "Version", "Changed"):
        table.add_column(head, no_wrap=head != "Title")
    for one in found:
        changed = f"{one.changed_at:%Y-%m-%d %H:%M}"
        table.add_row(*map(Text, (one.id, one.title, one.owner, str(one.answers), str(one.version), changed)))
    console().print(table)


@casebook.command()
def new(
    title: str,
    text: Annotated[Path | None, typer.Option(help="A file with its text, in Markdown; - for what comes in.")] = None,
    reader: Annotated[list[str], typer.Option(help='Who may read it; "*" for everybody; several times.')] = [],  # noqa: B006
    language: Annotated[Literal["en", "de"], typer.Option(help="In which it says what it says itself.")] = "en",
    url: Url = USUAL_URL,
    token: TokenText = "",
    as_json: AsJson = False,
) -> None:
    """Make a casebook."""
    wish = CasebookRequest(title=title, text=_read(text) if text else "", readers=reader, language=language)
    with connected(url, token) as client:
        _told(client.send(calls.make_casebook(wish)), as_json)


@casebook.command()
def keep(
    key: Key,
    inquiry: Annotated[str, typer.Argument(metavar="INQUIRY", help="An answered inquiry of yours.")],
    name: Annotated[str | None, typer.Option(help="By which the text knows it; by default of its words.")] = None,
    text: Annotated[str, typer.Option(help="What is written before it.")] = "",
    url: Url = USUAL_URL,
    token: TokenText = "",
    as_json: AsJson = False,
) -> None:
    """Keep an answer of yours in it."""
    with connected(url, token) as client:
        _told(client.send(calls.keep_in_casebook(key, inquiry, name, text)), as_json)


@casebook.command()
def show(
    key: Key,
    version: Annotated[int | None, typer.Option(help="As it was then.")] = None,
    url: Url = USUAL_URL,
    token: TokenText = "",
    as_json: AsJson = False,
) -> None:
    """Show it: what is kept, and what has moved."""
    with connected(url, token) as client:
        _told(client.send(calls.read_casebook(key, version)), as_json)


@casebook.command()
def write(
    key: Key,
    file: Annotated[Path, typer.Argument(help="Its text, in Markdown; - for what comes in.")],
    on: Annotated[int, typer.Option(help="The version that you have changed.")],
    title: Annotated[str | None, typer.Option(help="Another title.")] = None,
    drop: Annotated[list[str], typer.Option(help="An answer that is kept no more; several times.")] = [],  # noqa: B006
    url: Url = USUAL_URL,
    token: TokenText = "",
    as_json: AsJson = False,
) -> None:
    """Write its text anew; `text` gives it as it is."""
    with connected(url, token) as client:
        _told(client.send(calls.write_casebook(key, on, title=title, text=_read(file), drop=drop)), as_json)


@casebook.command()
def text(key: Key, url: Url = USUAL_URL, token: TokenText = "") -> None:
    """Print its text as it is written, to be changed and written back."""
    with connected(url, token) as client:
        found = client.send(calls.read_casebook(key))
    sys.stdout.write(found.text)


@casebook.command()
def readers(
    key: Key,
    names: Annotated[list[str] | None, typer.Argument(help='Who may read it; "*": everybody; none: nobody.')] = None,
    url: Url = USUAL_URL,
    token: TokenText = "",
    as_json: AsJson = False,
) -> None:
    """Say who may read it. Each sees of it what they would be answered themselves."""
    with connected(url, token) as client:
        _told(client.send(calls.write_casebook(key, 1, readers=names or [])), as_json)


@casebook.command()
def run(
    key: Key,
    names: Annotated[list[str] | None, typer.Argument(help="Which answers; none: all.")] = None,
    anew: Annotated[bool, typer.Option("--anew", help="Move times along, instead of the same statement.")] = False,
    url: Url = USUAL_URL,
    token: TokenText = "",
    as_json: AsJson = False,
) -> None:
    """Ask its answers again, wait for them, and show what has moved."""
    with connected(url, token) as client:
        client.send(calls.run_casebook(key, names or [], "anew" if anew else "again"))
        _told(_settled(client, key), as_json)


@casebook.command()
def export(
    key: Key,
    out: Annotated[Path, typer.Option(help="Where to: .html (one page that needs nothing else) or .md.")],
    url: Url = USUAL_URL,
    token: TokenText = "",
) -> None:
    """Take it away as a file."""
    form = {".html": "html", ".md": "md"}.get(out.suffix.lower())
    if form is None:
        raise typer.BadParameter("a casebook is taken away as .html or .md", param_hint="--out")
    with connected(url, token) as client:
        out.write_bytes(client.send(calls.casebook_file(key, "html" if form == "html" else "md")))
    say(f"{out} is written.")


@casebook.command()
def send(key: Key, to: str, url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False) -> None:
    """Mail it, where the policy of each of its sources lets it go."""
    with connected(url, token) as client:
        found = client.send(calls.send_casebook(key, to))
    if as_json:
        print_json(found)
    else:
        say(f"It is on its way to {found.destination}: {found.id}.")


@casebook.command()
def history(key: Key, url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False) -> None:
    """List every time that it was written."""
    with connected(url, token) as client:
        found = client.send(calls.casebook_history(key))
    if as_json:
        print_json(found)
        return
    table = FittingTable()
    for head in ("Version", "When", "By", "What", "Answers"):
        table.add_column(head, no_wrap=head != "Answers")
    for one in found:
        table.add_row(
            *map(Text, (str(one.version), f"{one.at:%Y-%m-%d %H:%M}", one.by, one.what, ", ".join(one.names)))
        )
    console().print(table)


@casebook.command()
def restore(key: Key, version: int, url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False) -> None:
    """Make what it was then its newest version."""
    with connected(url, token) as client:
        _told(client.send(calls.restore_casebook(key, version)), as_json)


@casebook.command()
def remove(key: Key, url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False) -> None:
    """Take it away; its answers stay what they are."""
    with connected(url, token) as client:
        client.send(calls.remove_casebook(key))
    if as_json:
        print_json({"removed": key})
    else:
        say(f"{key} is there no more.")


def _read(file: Path) -> str:
    try:
        return sys.stdin.read() if str(file) == "-" else file.read_text("utf-8")
    except (OSError, UnicodeDecodeError) as error:
        raise typer.BadParameter(f"{file} cannot be read: {error}") from error


def _settled(client: Harquel, key: str) -> Casebook:
    while True:
        found = client.send(calls.read_casebook(key))
        if not any(one.under_way for one in found.kept):
            return found
        time.sleep(_PAUSE_S)


def _told(found: Casebook, as_json: bool) -> None:
    if as_json:
        print_json(found)
        return
    seen = "everybody" if "*" in found.readers else ", ".join(found.readers) or "nobody else"
    say(f"{found.id}: {found.title}")
    say(f"version {found.version}, by {found.owner}, read by {seen}")
    if not found.kept:
        say("It keeps no answer yet: “harquel casebook keep CASEBOOK INQUIRY”.")
        return
    table = FittingTable()
    for head in ("Answer", "Mark", "Says", "Since"):
        table.add_column(head, no_wrap=head in ("Answer", "Mark"))
    for one in found.kept:
        answer = one.answer
        table.add_row(*map(Text, (one.name, answer.trust or "–", answer.text or answer.said, answer.since)))
    console().print(table)
    for name, typed in found.typed.items():
        say(f"{', '.join(typed)} stands in the text as typed; [={name}] would move along.")
    for said in dict.fromkeys(m for block in found.blocks for m in block.missing):
        say(f"A figure is missing: {said}.")
