"""The plans of the engines, brought into one shape."""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Iterator
from typing import Any, Final

from harquel.core.domain.result import Plan
from harquel.core.domain.statements import RuledStatement

# Aggregates that put their values together, in a process that no limit of ours reaches.
_GATHERING = re.compile(r"\b(ARRAY_AGG|STRING_AGG|JSONB?_AGG|JSONB?_OBJECT_AGG)\s*\(", re.IGNORECASE)
_HOW = {"ALL": "reads all of", "index": "reads the whole index of"}


def read_plan(engine: str, reply: dict[str, Any], statement: RuledStatement) -> Plan:
    """A worker's reply to a dry run as a Plan."""
    if engine not in _SERVERS:
        return _sqlite(reply, statement)
    if reply["plan"] is None:
        return Plan(("The server shows this account no plan.",), (), reply["elapsed_ms"])
    read = _SERVERS[engine]
    try:
        # MariaDB writes conditions with the texts in them as they are, with line breaks and tabs.
        found = json.loads(reply["plan"], strict=False)
    except (ValueError, RecursionError):
        return Plan(("The server's plan cannot be read.",), (), reply["elapsed_ms"])
    return read(found, reply["elapsed_ms"], statement)


def _sqlite(reply: dict[str, Any], statement: RuledStatement) -> Plan:
    depth: dict[int, int] = {}
    steps, scans = [], []
    for number, parent, text in reply["steps"]:
        depth[number] = depth.get(parent, -1) + 1
        steps.append("  " * depth[number] + text)
        words = text.split()
        if len(words) > 1 and words[0] == "SCAN" and words[1] != "CONSTANT":
            scans.append(words[1])
    # It shows aliases; the statement knows both.
    scans = [statement.called.get(n.casefold(), n) for n in scans]
    return Plan(tuple(steps), _known(scans, statement), reply["elapsed_ms"])


def _known(names: list[str], statement: RuledStatement) -> tuple[str, ...]:
    known = {t.casefold(): t for t in statement.reads}
    return tuple(known[n.casefold()] for n in names if n.casefold() in known)


def _postgresql(found: Any, elapsed_ms: float, statement: RuledStatement) -> Plan:
    top = found[0]["Plan"]
    steps, scans, rows = [], [], 0
    for depth, node in _nodes(top, 0):
        name = node.get("Relation Name", "")
        on = f" on {name}" if name else ""
        by = f" by {node['Index Name']}" if node.get("Index Name") else ""
        steps.append(f"{'  ' * depth}{node['Node Type']}{on}{by}, about {node['Plan Rows']:,.0f} rows")
        if name:
            rows += int(node["Plan Rows"])
        if node["Node Type"] == "Seq Scan":
            scans.append(name)
    largest = max(int(node["Plan Rows"]) for _, node in _nodes(top, 0))
    gathered = largest if _GATHERING.search(statement.sql) else 0
    return Plan(tuple(steps), _known(scans, statement), elapsed_ms, rows, float(top["Total Cost"]), gathered)


def _nodes(node: dict[str, Any], depth: int) -> Iterator[tuple[int, dict[str, Any]]]:
    yield depth, node
    for child in node.get("Plans", ()):
        yield from _nodes(child, depth + 1)


def _mariadb(found: Any, elapsed_ms: float, statement: RuledStatement) -> Plan:
    steps: list[str] = []
    scans: list[str] = []
    rows = 0
    for table in _tables(found):
        count = int(table.get("rows") or 0)
        rows += count
        how = {"ALL": "reads all of", "index": "reads the whole index of"}.get(
            table.get("access_type", ""), "looks into"
        )
        by = f" by {table['key']}" if table.get("key") else ""
        name = str(table.get("table_name", "?"))
        steps.append(f"{how} {name}{by}, about {count:,} rows")
        if table.get("access_type") == "ALL":
            scans.append(statement.called.get(name.casefold(), name))
    cost = found.get("query_block", {}).get("cost")
    return Plan(tuple(steps), _known(scans, statement), elapsed_ms, rows, float(cost) if cost is not None else None)


def _tables(part: Any) -> Iterator[dict[str, Any]]:
    if isinstance(part, dict):
        for key, value in part.items():
            if key == "table":
                yield value
                yield from _tables({k: v for k, v in value.items() if isinstance(v, dict | list)})
            else:
                yield from _tables(value)
    elif isinstance(part, list):
        for value in part:
            yield from _tables(value)


_SERVERS: Final[dict[str, Callable[[Any, float, RuledStatement], Plan]]] = {
    "postgresql": _postgresql, "mariadb": _mariadb,
}  # fmt: skip
"""Engines that give their plan as one JSON text, and how it is read."""
