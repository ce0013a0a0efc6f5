"""`harquel token`: who may ask."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer
from rich.text import Text

from harquel.cli import exits
from harquel.cli.connection import USUAL_URL, AsJson, TokenText, Url, connected, given_values
from harquel.cli.leaf import console
from harquel.cli.local import helper
from harquel.cli.output import print_json, say, tell
from harquel.cli.tables import FittingTable

token = typer.Typer(no_args_is_help=True, add_completion=False, help="Make, list and revoke tokens.")


@token.command()
def create(
    name: Annotated[str, typer.Option(help="What the token is for.")],
    person: Annotated[str, typer.Option(help="Whose it is.")],
    source: Annotated[
        list[str] | None, typer.Option("--source", "-s", help="A source it may ask; all by default.")
    ] = None,
    scope: Annotated[
        list[str] | None, typer.Option(help="ask, release, steward, audit, admin; ask by default.")
    ] = None,
    role: Annotated[list[str] | None, typer.Option(help="A role that policies speak of; may be repeated.")] = None,
    value: Annotated[
        list[str] | None, typer.Option(help="NAME=VALUE for row rules; a name given again becomes a list.")
    ] = None,
    days: Annotated[int, typer.Option(min=0, max=3660, help="Days until it ends by itself; 0: never.")] = 365,
    local: Annotated[bool, typer.Option("--local", help="Write into the data directory itself.")] = False,
    config: Annotated[Path, typer.Option("--config", "-c", help="With --local: the configuration.")] = Path(
        "harquel.toml"
    ),
    url: Url = USUAL_URL,
    token: TokenText = "",
    as_json: AsJson = False,
) -> None:
    """Make a token. Its secret is printed once and kept nowhere."""
    sources, scopes, roles, values = source or ["*"], scope or ["ask"], role or [], given_values(value)
    if local:
        made = _create_locally(config, name, person, sources, scopes, roles, values, days or None)
    else:
        with connected(url, token) as client:
            made = client.create_token(name, person, sources, scopes, roles, values, days or None).model_dump(
                mode="json"
            )
    if as_json:
        print_json(made)
    else:
        say(f"Token {made['id']} for {person}: {', '.join(scopes)} on {', '.join(sources)}")
        say(str(made["secret"]))
        ends = str(made["expires_at"] or "")[:10]
        say(f"It ends on {ends}." if ends else "It never ends by itself; revoke it when it is no longer needed.")
        say("It is shown this once. Use it as HARQUEL_TOKEN.", err=True)
        if scopes == ["ask"] and local:
            say("It may ask. To connect, check and describe sources too: --scope ask --scope steward", err=True)


def _create_locally(config: Path, *given: object) -> dict[str, object]:
    try:
        made: dict[str, object] = helper("token-create")(config, *given)
    except ModuleNotFoundError as error:
        say("--local needs the server part.", err=True, fg="red")
        say("Install it with: pip install 'harquel[server]'", err=True)
        raise typer.Exit(exits.USAGE) from error
    except ValueError as error:
        say(" ".join(str(error).split()), err=True, fg="red")
        raise typer.Exit(exits.USAGE) from error
    except Exception as error:
        hint = getattr(error, "hint", None)
        if hint is None:
            raise
        say(f"{error} {hint}".strip(), err=True, fg="red")
        raise typer.Exit(exits.USAGE) from error
    return made


@token.command("list")
def list_(url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False) -> None:
    """List all tokens, without secrets."""
    with connected(url, token) as client:
        found = client.tokens()
        if as_json:
            print_json(found)
            return
        table = FittingTable()
        for head in ("id", "name", "person", "scopes", "roles", "sources", "last used"):
            table.add_column(head)
        for t in found:
            used = "revoked" if t.revoked_at else f"{t.last_used_at:%Y-%m-%d %H:%M}" if t.last_used_at else "never"
            table.add_row(
                *map(
                    Text,
                    (str(t.id), t.name, t.person, ", ".join(t.scopes), ", ".join(t.roles), ", ".join(t.sources), used),
                )
            )
        console().print(table)


@token.command()
def revoke(token_id: int, url: Url = USUAL_URL, token: TokenText = "", as_json: AsJson = False) -> None:
    """Revoke a token; it stops working at once."""
    with connected(url, token) as client:
        client.revoke_token(token_id)
        tell({"id": token_id, "revoked": True}, f"Token {token_id} is revoked.")
