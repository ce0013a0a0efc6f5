"""`harquel operations`: everything that can be done with the service, and who may."""

from __future__ import annotations

import json
from typing import Any

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
    table.add_column("Operation", no_wrap=True)
    table.add_column("Scope", no_wrap=True)
    table.add_column("How and whose", ratio=1)
    for row in found["operations"]:
        table.add_row(Text(row["operation"]), Text(row["scope"] or "any token"), _about(row))
    console().print(table)
    say("Addresses without an operation:")
    for place in found["without"]:
        say(f"  {place['address']}: {place['why']}")


def _about(row: dict[str, Any]) -> Text:
    """Its addresses, whose it is, and, unless it only reads, its entries and what comes of doing it twice."""
    decides = "; ".join(part for part in (row["whose"], row["rule"]) if part)
    left = f"leaves {', '.join(row['entries'])} · " if row["entries"] else ""
    again = f"{left}done again it {row['again']}" if left or row["again"] != "changes nothing" else ""
    lines = [Text(address) for address in row["http"]]
    return Text("\n").join([*lines, *(Text(line, style="dim") for line in (decides, again) if line)])
