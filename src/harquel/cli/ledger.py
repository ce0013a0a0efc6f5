"""`harquel ledger`: the audit record."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from harquel.cli.connection import USUAL_URL, AsJson, TokenText, Url, connected
from harquel.cli.output import print_json, say
from harquel.client import calls

ledger = typer.Typer(no_args_is_help=True, add_completion=False, help="Read and check the audit record.")


@ledger.command()
def verify(
    anchor: Annotated[str | None, typer.Option(help="SEQ:DIGEST of an entry noted earlier.")] = None,
    url: Url = USUAL_URL,
    token: TokenText = "",
    as_json: AsJson = False,
) -> None:
    """Check every entry of the chain. Ends with 1 when it does not hold."""
    with connected(url, token) as client:
        found = client.verify_ledger(anchor)
        if as_json:
            print_json(found)
        elif found.intact:
            say(
                f"The ledger holds: {found.checked:,} entries checked, {found.compared:,} records compared.", fg="green"
            )
            if found.sealed is not None:
                say(f"Sealed up to entry {found.sealed:,} with the key {found.keys[0]}.")
            if found.unseen:
                say(found.unseen)
            say(f"To note elsewhere: {found.head.seq}:{found.head.digest}")
        elif found.fault is None:
            say(f"{found.checked:,} entries are good, but what people see is not as they say:", fg="red")
            for difference in found.differences[:20]:
                say(f"  {difference.what} {difference.id} {difference.said}.")
            if len(found.differences) > 20:
                say(f"  and {len(found.differences) - 20:,} more (--json lists all).")
        else:
            say(f"The ledger is broken at entry {found.fault_seq}: {found.fault}.", fg="red")
            say(f"{found.checked:,} entries before it are good.")
        raise typer.Exit(0 if found.intact else 1)


@ledger.command()
def seal(
    out: Annotated[Path | None, typer.Option(help="A file elsewhere, to which the seal is added as a line.")] = None,
    url: Url = USUAL_URL,
    token: TokenText = "",
    as_json: AsJson = False,
) -> None:
    """Seal the chain now: a signed checkpoint, to be kept apart from the records."""
    with connected(url, token) as client:
        made = client.send(calls.seal_ledger())
        if out is not None:
            with out.open("a", encoding="utf-8") as file:
                file.write(made.model_dump_json() + "\n")
        if as_json:
            print_json(made)
        else:
            say(f"Entry {made.seq:,} is sealed with the key {made.key}: {made.seq}:{made.digest}")
            say(f"Added to {out}." if out is not None else "Keep it elsewhere: --out FILE adds it to a file.")


@ledger.command()
def key(
    new: Annotated[bool, typer.Option("--new", help="Take a new key into use first.")] = False,
    url: Url = USUAL_URL,
    token: TokenText = "",
    as_json: AsJson = False,
) -> None:
    """Print the public keys that seals are made with (Ed25519, in hex), the one in use first."""
    with connected(url, token) as client:
        found = client.send(calls.change_ledger_key() if new else calls.ledger_keys())
        if as_json:
            print_json(found)
        else:
            for known in found.root:
                say(f"{known.name}  {known.public}")
