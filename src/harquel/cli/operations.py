"""`harquel operations`: everything that can be done with the service, and who may."""

from __future__ import annotations

import json

from rich.text import Text

from harquel.cli.connection import AsJson
from harquel.cli.leaf import console
from harquel.cli.local import helper
from harquel.cli.output import say
from harquel.cli.tables import FittingTable


def operations(as_json: AsJson = False) -> None:
    """List all that can be done with the service: how it is reached, who may, what the ledger keeps of it."""
    found = helper("operations")()
    if as_json:
        say(json.dumps(found, indent=2, ensure_ascii=False))
        return
    table = FittingTable()
    for name, ratio in (("Operation", 4), ("Over HTTP", 6), ("Scope", 2), ("Whose, and what else decides", 7)):
        table.add_column(name, ratio=ratio, overflow="fold")
    table.add_column("In the ledger", ratio=4, overflow="fold")
    table.add_column("Done again", ratio=3, overflow="fold")
    for row in found["operations"]:
        decides = "; ".join(part for part in (row["whose"], row["rule"]) if part)
        table.add_row(
            Text(row["operation"]), Text("\n".join(row["http"])), Text(row["scope"] or "any token"), Text(decides),
            Text("\n".join(row["entries"]) or "–"), Text(row["again"]),
        )  # fmt: skip
    console().print(table)
    say("Addresses without an operation:")
    for place in found["without"]:
        say(f"  {place['address']}: {place['why']}")
