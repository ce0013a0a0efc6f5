"""`harquel ledger`: the audit record."""

from __future__ import annotations

from typing import Annotated

import typer

from harquel.cli.connection import USUAL_URL, AsJson, TokenText, Url, connected
from harquel.cli.output import print_json, say

ledger = typer.Typer(no_args_is_help=True, add_completion=False, help="Read and check the audit record.")


@ledger.callback()
def _group() -> None:
    """Keeps `verify` a command of its own while it is the only one."""


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
            say(f"Note this elsewhere to prove later that nothing was cut off: {found.head.seq}:{found.head.digest}")
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
