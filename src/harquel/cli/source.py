"""`harquel source`: what can be asked, connected, checked and scanned."""

from __future__ import annotations

import time
from pathlib import Path
from typing import Annotated, Any

import typer
from rich.console import Console
from rich.padding import Padding
from rich.progress import BarColumn, MofNCompleteColumn, Progress, TextColumn, TimeElapsedColumn
from rich.table import Table
from rich.text import Text

from harquel.cli import exits
from harquel.cli.connection import USUAL_URL, AsJson, TokenText, Url, connected
from harquel.cli.leaf import console, count_of
from harquel.cli.output import print_json, say, tell
from harquel.cli.tables import FittingTable
from harquel.client import Harquel, describing
from harquel.contract import CheckShape, ScanShape

source = typer.Typer(no_args_is_help=True, add_completion=False, help="Connect, check and scan what can be asked.")
_MARKS = {"well": ("✓", "green"), "warning": ("!", "yellow"), "failed": ("✗", "red"), "skipped": ("–", "dim")}


def table(*heads: str, right: tuple[str, ...] = ()) -> Table:
    """A plain table of the width of the terminal."""
    made = FittingTable()
    for head in heads:
        made.add_column(head, justify="right" if head in right else "left", overflow="fold")
    return made


@source.command("list")
def list_(url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False) -> None:
    """List the sources that this token may ask."""
    with connected(url, token) as client:
        found = client.sources()
        if as_json:
            print_json(found)
            return
        made = table("name", "engine", "tables", "state", "model", "title", right=("tables",))
        for line in found:
            state = "off" if not line.enabled else "scanning" if line.scanning else "ready" if line.version else "new"
            state = "away" if line.problem else state
            made.add_row(*map(Text, (line.name, line.engine, str(line.tables), state, line.model, line.title)))
        console().print(made if found else "No source is connected.")
        for line in found:
            if line.problem:
                say(f"{line.name}: {line.problem} {line.hint or ''}", fg="red")


@source.command()
def show(name: str, url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False) -> None:
    """Show one source and questions to start with."""
    with connected(url, token) as client:
        found = client.source(name)
        if as_json:
            print_json(found)
            return
        say(f"{found.name} · {found.engine} · {count_of(found.tables, 'table')} · drafts by {found.model}")
        if found.title:
            say(found.title)
        say(f"At {found.where}, declared in {'harquel.toml' if found.origin == 'file' else 'the records'}")
        if found.as_of:
            say(f"“Now” is {found.as_of:%Y-%m-%d %H:%M} UTC")
        if found.scanned_at:
            say(f"Scanned {found.scanned_at:%Y-%m-%d %H:%M} UTC, version {found.version} of its catalog")
        if not found.enabled:
            say("It is switched off.", fg="yellow")
        if found.problem:
            say(f"{found.problem} {found.hint or ''}", fg="red")
        if found.starters:
            say("To begin with:")
        for starter in found.starters:
            say(f"  – {starter}")


@source.command("connect")
def connect_(
    name: str,
    at: Annotated[str | None, typer.Option("--at", help="engine://user@host:port/database, or sqlite:///file.")] = None,
    engine: Annotated[str | None, typer.Option(help="postgresql, mariadb or sqlite, instead of --at.")] = None,
    host: Annotated[str | None, typer.Option()] = None,
    port: Annotated[int | None, typer.Option()] = None,
    database: Annotated[str | None, typer.Option()] = None,
    user: Annotated[str | None, typer.Option()] = None,
    path: Annotated[str | None, typer.Option(help="Of a SQLite file.")] = None,
    password: Annotated[
        str | None, typer.Option(help="A reference: env:NAME or file:PATH, resolved by the service.")
    ] = None,
    ask_password: Annotated[bool, typer.Option("--ask-password", help="Ask for it; kept encrypted.")] = False,
    tls: Annotated[str | None, typer.Option(help="prefer, require, verify or off.")] = None,
    ca: Annotated[str | None, typer.Option(help="Certificate of the authority, with --tls verify.")] = None,
    title: Annotated[str | None, typer.Option()] = None,
    draft: Annotated[str | None, typer.Option(help="A configured model of its own.")] = None,
    url: Url = USUAL_URL,
    token: TokenText = "",
    as_json: AsJson = False,
) -> None:
    """Connect a source; its first scan begins at once."""
    if password is not None and not password.startswith(("env:", "file:")):
        say("A password on the command line stays in the shell's history.", err=True, fg="red")
        say("Give env:NAME or file:PATH, or --ask-password.", err=True)
        raise typer.Exit(exits.USAGE)
    if ask_password:
        password = typer.prompt("Password", hide_input=True)
    fields: dict[str, Any] = {
        "url": at, "engine": engine, "host": host, "port": port, "database": database, "user": user, "path": path,
        "password": password, "tls": tls, "ca": ca, "title": title, "draft": draft,
    }  # fmt: skip
    with connected(url, token) as client:
        made = client.send(describing.connect(name, **fields))
        if as_json:
            print_json(made)
            return
        say(f"{made.name} is connected: {made.where}. Check it: harquel source check {made.name}")
        found = client.send(describing.check(made.name))
        if found.verdict != "well":
            print_check(found, console())


@source.command()
def change(
    name: str,
    new_name: Annotated[str | None, typer.Option("--name", help="Another name.")] = None,
    title: Annotated[str | None, typer.Option()] = None,
    off: Annotated[bool | None, typer.Option("--off/--on", help="Switch it off or on.")] = None,
    ask_password: Annotated[bool, typer.Option("--ask-password", help="Give another password.")] = False,
    url: Url = USUAL_URL,
    token: TokenText = "",
    as_json: AsJson = False,
) -> None:
    """Rename a source, switch it off or on, or give it another password."""
    password = typer.prompt("Password", hide_input=True) if ask_password else None
    enabled = None if off is None else not off
    with connected(url, token) as client:
        made = client.send(describing.change(name, new_name=new_name, title=title, enabled=enabled, password=password))
        tell(made, f"{made.name}: {'on' if made.enabled else 'off'}" + (f", {made.title}" if made.title else ""))


@source.command()
def remove(
    name: str,
    yes: Annotated[bool, typer.Option("--yes", help="Do not ask.")] = False,
    url: Url = USUAL_URL,
    token: TokenText = "",
    as_json: AsJson = False,
) -> None:
    """Let a source go. What was asked of it stays in the ledger."""
    if not yes:
        typer.confirm(f"Remove {name} with its notes, examples and catalog?", abort=True)
    with connected(url, token) as client:
        found = client.send(describing.remove(name))
        tell(found, found.stays)


@source.command()
def check(name: str, url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False) -> None:
    """Check the connection step by step, and what its account may do. Ends with 7 when a step fails."""
    with connected(url, token) as client:
        found = client.send(describing.check(name))
        if as_json:
            print_json(found)
        else:
            print_check(found, console())
        if found.verdict == "failed":
            raise typer.Exit(exits.FAILED)


def print_check(found: CheckShape, out: Console) -> None:
    """The steps with their marks, what is wrong and what to do under each."""
    out.print(Text(f"{found.source} · {found.where}", style="bold"))
    for step in found.steps:
        mark, style = _MARKS[step.verdict]
        line = Text(f"  {mark} ", style=style)
        line.append(f"{step.name:<14}", style="bold" if step.verdict == "failed" else "")
        line.append(step.said, style="" if step.verdict in ("well", "skipped") else style)
        line.append(f"  {step.elapsed_ms:.0f} ms", style="dim")
        out.print(line)
        if step.remedy:
            out.print(Padding(Text(f"→ {step.remedy}"), (0, 0, 0, 18)))
    said = {"well": "All is well.", "warning": "It works; see the marks above.", "failed": "It does not work yet."}
    out.print(Text(said[found.verdict], style=_MARKS[found.verdict][1]))


@source.command()
def account(
    name: str,
    account: Annotated[str, typer.Option(help="Name of the account to make.")] = "harquel_reader",
    whole_schema: Annotated[
        bool, typer.Option("--whole-schema/--exact", help="All tables, new ones too; or exactly the exposed ones.")
    ] = False,
    url: Url = USUAL_URL,
    token: TokenText = "",
    as_json: AsJson = False,
) -> None:
    """Print the SQL that makes an account which may only read. Nothing is run."""
    with connected(url, token) as client:
        found = client.send(describing.account(name, account, whole_schema))
        tell(found, found.script.rstrip("\n"))


@source.command()
def scan(
    name: str,
    changes: Annotated[bool, typer.Option("--changes", help="Look only into what is new or changed.")] = False,
    wait: Annotated[bool, typer.Option("--wait/--no-wait", help="Show how far it is until it ends.")] = True,
    stop: Annotated[bool, typer.Option("--stop", help="End the scan under way; the next goes on from there.")] = False,
    url: Url = USUAL_URL,
    token: TokenText = "",
    as_json: AsJson = False,
) -> None:
    """Scan a source in the background, and show the progress. Ctrl-C leaves the scan running."""
    with connected(url, token) as client:
        if stop:
            running = next((s for s in client.send(describing.scans(name)) if s.state == "running"), None)
            if running is None:
                say("No scan is under way.")
                return
            client.send(describing.stop_scan(name, running.id))
            say(f"Scan {running.id} ends after its current table; the next one goes on from there.")
            return
        found = client.send(describing.scan(name, "changes" if changes else "full"))
        if wait:
            found = follow(client, found, quiet=as_json)
        if as_json:
            print_json(found)
            return
        print_scan(found)
        if found.state == "failed":
            raise typer.Exit(exits.FAILED)


def follow(client: Harquel, found: ScanShape, quiet: bool) -> ScanShape:
    """A bar until the scan ends."""
    columns = (TextColumn("{task.description:<28.28}"), BarColumn(), MofNCompleteColumn(), TimeElapsedColumn())
    with Progress(*columns, console=console(), disable=quiet, transient=True) as progress:
        task = progress.add_task("reading the structure", total=None)
        while found.state == "running":
            if found.stage != "structure":
                progress.update(task, description=found.now, total=found.tables, completed=found.done)
            time.sleep(0.15)
            found = client.send(describing.scan_state(found.source, found.id))
        # One that was quicker than we look is shown as done all the same.
        progress.update(task, description=found.now or found.stage, total=found.tables, completed=found.done)
    return found


def print_scan(found: ScanShape) -> None:
    """Where a scan stands, in a line."""
    went_on = f", {found.resumed} of them seen by an earlier scan that was cut off" if found.resumed else ""
    if found.state == "running":
        say(f"Scan {found.id} is under way: {found.done} of {found.tables or '?'} tables.")
    elif found.state == "done":
        took = (found.ended_at - found.started_at).total_seconds() if found.ended_at else 0
        say(f"Scanned {found.tables} tables in {took:.1f} s{went_on}.")
    elif found.state == "failed":
        say(f"The scan failed. {found.problem} {found.hint}", err=True, fg="red")
    else:
        say(f"Scan {found.id} was {found.state} at {found.done} of {found.tables} tables; the next goes on there.")


@source.command("rotate-key")
def rotate_key(url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False) -> None:
    """Encrypt every stored password anew with the newest key."""
    with connected(url, token) as client:
        found = client.send(describing.rotate())
        tell(found, f"{found['passwords']} passwords are encrypted with the newest key.")


def read_text(path: Path) -> str:
    """A file's text; says what is wrong and ends with 2 when there is none."""
    try:
        return path.read_text("utf-8")
    except (OSError, UnicodeDecodeError) as error:
        say(f"{path} cannot be read: {getattr(error, 'strerror', None) or 'not UTF-8'}.", err=True, fg="red")
        raise typer.Exit(exits.USAGE) from error
