"""`harquel policy`: what may be seen, by whom, how, and at what cost."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer
from rich.table import Table
from rich.text import Text

from harquel.cli import exits
from harquel.cli.catalog import Out, export_document, history_of, import_document
from harquel.cli.connection import USUAL_URL, AsJson, TokenText, Url, connected, given_values
from harquel.cli.leaf import console, count_of
from harquel.cli.leaf import sql as coloured
from harquel.cli.output import print_json, say
from harquel.cli.source import read_text
from harquel.client import describing

policy = typer.Typer(no_args_is_help=True, add_completion=False, help="Explain, check, read and change policies.")
_COLOURS = {"run": "green", "hold": "yellow", "refuse": "red"}


@policy.command()
def explain(
    source: Annotated[str, typer.Argument(help="The source.")],
    statement: Annotated[str | None, typer.Argument(help="SQL to be ruled on; without it the whole policy.")] = None,
    role: Annotated[list[str] | None, typer.Option("--role", help="A role of the person; may be repeated.")] = None,
    value: Annotated[
        list[str] | None, typer.Option("--value", help="NAME=VALUE of the person; repeated it is a list.")
    ] = None,
    person: Annotated[str, typer.Option(help="A name for the person.")] = "",
    url: Url = USUAL_URL,
    token: TokenText = "",
    as_json: AsJson = False,
) -> None:
    """Say in plain words what the policy comes to for somebody, or what it says of a statement."""
    with connected(url, token) as client:
        found = client.send(describing.explain_policy(source, statement, person, role or [], given_values(value)))
        if as_json:
            print_json(found)
        elif statement is None:
            lines = Table.grid(padding=(0, 2, 1, 0))
            lines.add_column(max_width=24, style="dim", overflow="fold")
            lines.add_column(ratio=1)
            for sentence in found.sentences:
                lines.add_row(Text(sentence.line), Text(sentence.text))
            console().print(lines)
        else:
            for ruling in found.rulings:
                head = Text(f"{ruling.verdict} ", style=_COLOURS[ruling.verdict])
                console().print(head + Text(ruling.reason) + Text(f"  {ruling.policy_line}", style="dim"))
            for finding in found.findings[1:]:
                console().print(Text(f"  also: {finding.message}"))
            if found.instead:
                console().print(Text(f"Instead: {found.instead}"))
            if found.rewritten_sql is not None:
                console().print(Text("What would run:", style="dim"), coloured(found.rewritten_sql))
    if found.verdict is not None:
        raise typer.Exit(exits.BY_VERDICT[found.verdict])


@policy.command()
def check(
    source: Annotated[str, typer.Argument(help="The source.")],
    path: Annotated[Path | None, typer.Argument(help="A policy file; without it the policy that counts.")] = None,
    url: Url = USUAL_URL,
    token: TokenText = "",
    as_json: AsJson = False,
) -> None:
    """Say what in a policy matches nothing, or cannot be applied. Changes nothing."""
    with connected(url, token) as client:
        found = client.send(describing.check_policy(source, read_text(path) if path is not None else None))
        if as_json:
            print_json(found)
        else:
            for fault in found.faults:
                console().print(Text("✕ ", style="red") + Text(fault.text) + Text(f"  {fault.line}", style="dim"))
            for remark in found.remarks:
                console().print(Text("· ") + Text(remark.text) + Text(f"  {remark.line}", style="dim"))
            say(f"{count_of(len(found.faults), 'thing')} to look at." if found.faults else "All of it applies.")
    raise typer.Exit(exits.FAILED if found.faults else exits.ANSWERED)


@policy.command()
def export(name: str, out: Out = None, url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False) -> None:
    """Write the policy as YAML."""
    export_document("policy", name, out, url, token)


@policy.command("import")
def import_(name: str, path: Path, url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False) -> None:
    """Take a policy in from a YAML file."""
    import_document("policy", name, path, False, url, token)


@policy.command()
def history(name: str, url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False) -> None:
    """Say who changed the policy, and when."""
    history_of("policy", name, url, token, as_json)


@policy.command()
def schema() -> None:
    """Print the JSON Schema of the YAML form, for editors that check while one writes."""
    from harquel.cli.local import helper

    say(helper("policy-schema")())
