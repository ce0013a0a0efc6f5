"""The SQLite worker: a gate of its own, an authorizer that denies by default, and the kernel's limits.

It would hold if the guard had erred. It dies with the thread that started it.
"""

import os
import re
import sqlite3
import sys
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any
from urllib.parse import quote

sys.path.insert(0, str(Path(__file__).resolve().parent))
from frame import (
    MOST_ROW,
    Denied,
    Fault,
    Reply,
    allow_cpu,
    answer,
    come_back,
    confine,
    elapsed_ms,
    read_frame,
    write_frame,
)
from frame import gate as first_gate

# Its own list, written apart from the guard's: functions that compute and stay small.
FUNCTIONS = frozenset(
    (
        "abs avg ceil ceiling coalesce count cume_dist date datetime degrees dense_rank exp first_value floor "
        "glob group_concat ifnull iif instr julianday lag last_value lead length like ln log log10 log2 lower "
        "ltrim max min mod nth_value ntile nullif percent_rank pi pow power radians rank round row_number "
        "rtrim sign sqrt strftime substr substring sum sin cos asin acos atan atan2 time total trim trunc "
        "typeof unixepoch upper replace printf format hex unicode char quote concat concat_ws tan cot timediff "
        "json_object json_array json_extract json_type json_valid json_array_length json_group_array "
        "json_group_object likely unlikely current_date current_time "
        "current_timestamp"
    ).split()
)


def gate(sql: str, views: dict[str, str]) -> None:
    """The worker's own look at the text, without a parser. Raises Denied."""
    first_gate(sql)
    for view in views:
        # The authorizer names a CTE and a view alike: a CTE must not pass for a view.
        named = rf"""["'`\[]?{re.escape(view)}["'`\]]?"""
        if re.search(named + r"\s*(\([^()]*\))?\s*AS\s*(NOT\s+)?(MATERIALIZED\s*)?\(", sql, re.IGNORECASE):
            raise Denied(f"a CTE may not have the name of the view {view}")


def _behind(allowed: list[str], texts: list[str], views: dict[str, str], real: set[str]) -> tuple[set[str], set[str]]:
    """The views that are read, with those inside them, and the tables beneath.

    What an allowed view reads, it reads on its own account, and so do the views inside it.
    """
    waiting = allowed + [v for text in texts for v in views if re.search(rf"\b{re.escape(v)}\b", text)]
    trusted: set[str] = set()
    beneath: set[str] = set()
    while waiting:
        view = waiting.pop()
        trusted.add(view)
        mentioned = {name for name in real if re.search(rf"\b{re.escape(name)}\b", views[view])}
        beneath |= mentioned - set(views)
        waiting += [v for v in mentioned if v in views and v not in trusted]
    return trusted, beneath


def authorizer(
    reads: dict[str, list[str]], objects: list[tuple[str, str, str]], in_part: Any = None
) -> Callable[..., int]:
    """Denies everything but reading the named columns and calling the listed functions.

    What may be seen in part only is read through the views that were made for this statement, and not otherwise.
    """
    columns = {table.casefold(): {c.casefold() for c in names} for table, names in reads.items()}
    real = {name.casefold() for _, name, _ in objects}
    partly = {name.casefold() for _, name in in_part["tables"]} if in_part else set()
    made = {name.casefold() for name in in_part["views"]} if in_part else set()
    views = {name.casefold(): sql.casefold() for kind, name, sql in objects if kind == "view"}
    texts = [text.casefold() for text in in_part["views"].values()] if in_part else []
    trusted, beneath = _behind([v for v in views if v in columns], texts, views, real)

    def decide(action: int, first: str | None, second: str | None, _: str | None, inner: str | None) -> int:
        if action in (sqlite3.SQLITE_SELECT, sqlite3.SQLITE_RECURSIVE):
            return sqlite3.SQLITE_OK
        if action == sqlite3.SQLITE_FUNCTION:
            return sqlite3.SQLITE_OK if (second or "").casefold() in FUNCTIONS else sqlite3.SQLITE_DENY
        if action == sqlite3.SQLITE_READ:
            name, on_account = (first or "").casefold(), (inner or "").casefold()
            if on_account in made and (name in real or name in made):
                return sqlite3.SQLITE_OK
            if on_account in trusted and name in real:
                return sqlite3.SQLITE_OK
            if name in partly:
                return sqlite3.SQLITE_DENY
            if name in columns and (not second or second.casefold() in columns[name]):
                return sqlite3.SQLITE_OK
            if name in made:
                return sqlite3.SQLITE_OK
            # No column at all of a table beneath a view: SQLite has taken the view apart and no longer names it.
            if not second and name in beneath:
                return sqlite3.SQLITE_OK
            # No column at all of something that is not stored: the rows of a CTE are counted.
            if not second and name not in real and not name.startswith(("sqlite_", "pragma_")):
                return sqlite3.SQLITE_OK
        return sqlite3.SQLITE_DENY

    return decide


def connect(path: str, longest: int) -> sqlite3.Connection:
    """Opens the file read-only with narrow limits; `longest` is the size of one value in bytes."""
    connection = sqlite3.connect(
        f"file:{quote(path)}?mode=ro", uri=True, isolation_level=None, timeout=1.0, cached_statements=0
    )
    for pragma in ("temp_store = MEMORY", "trusted_schema = OFF", "mmap_size = 0"):
        connection.execute(f"PRAGMA {pragma}").close()
    for limit, value in (
        (sqlite3.SQLITE_LIMIT_LENGTH, longest),
        (sqlite3.SQLITE_LIMIT_SQL_LENGTH, 200_000),
        (sqlite3.SQLITE_LIMIT_COLUMN, 500),
        (sqlite3.SQLITE_LIMIT_EXPR_DEPTH, 200),
        (sqlite3.SQLITE_LIMIT_COMPOUND_SELECT, 60),
        (sqlite3.SQLITE_LIMIT_ATTACHED, 0),
        (sqlite3.SQLITE_LIMIT_LIKE_PATTERN_LENGTH, 1000),
        (sqlite3.SQLITE_LIMIT_VARIABLE_NUMBER, 0),
    ):
        connection.setlimit(limit, value)
    connection.text_factory = lambda raw: raw.decode("utf-8", "replace")
    return connection


def set_zone(zone: str, offsets: list[list[int]]) -> None:
    """What 'localtime' is to be: SQLite asks the C library. Raises Fault where this machine does not know the zone."""
    if os.environ.get("TZ") != zone:
        os.environ["TZ"] = zone
        time.tzset()
    # Of a zone that it does not know the library makes UTC, without a word.
    if any(time.localtime(at).tm_gmtoff != ahead for at, ahead in offsets):
        raise Fault("source", f"this machine has no table of the time zone {zone}: install tzdata")


def serve(request: dict[str, Any]) -> Reply:
    """Runs or explains one statement on a fresh connection, which is closed before the reply."""
    sql = request["sql"]
    started = time.monotonic()
    deadline = started + request["seconds"]
    allow_cpu(request["seconds"])
    if "localtime" in sql.casefold():
        set_zone(request["zone"], request["offsets"])
    # The limit on one value also counts for the schema's own text, hence the floor.
    longest = min(request["max_bytes"], MOST_ROW) if request["op"] == "deliver" else request["max_bytes"]
    connection = connect(request["path"], max(longest, 200_000))
    try:
        objects = connection.execute(
            "SELECT type, name, COALESCE(sql, '') FROM sqlite_master WHERE type IN ('table', 'view')"
        ).fetchall()
        gate(sql, {name: text for kind, name, text in objects if kind == "view"})
        in_part = request.get("in_part")
        for name, text in (in_part["views"] if in_part else {}).items():
            first_gate(text)
            connection.execute(f'CREATE TEMP VIEW "{name}" AS {text}').close()
        connection.execute("PRAGMA query_only = ON").close()
        connection.set_authorizer(authorizer(request["reads"], objects, in_part))
        connection.set_progress_handler(lambda: time.monotonic() > deadline, 4000)
        if request["op"] == "plan":
            cursor = connection.execute("EXPLAIN QUERY PLAN " + sql)
            reply: Reply = {"steps": [(row[0], row[1], row[3]) for row in cursor]}
        else:
            cursor = connection.execute(sql)
            names = [d[0] for d in cursor.description or ()]
            reply = come_back(request, names, cursor)
        cursor.close()
    finally:
        connection.close()
    reply["elapsed_ms"] = elapsed_ms(started)
    return reply


def explain(error: Exception) -> tuple[str, str]:
    """Fault and message of an error of the library."""
    text = str(error)
    if isinstance(error, sqlite3.Warning) or "prohibited" in text or "not authorized" in text:
        return "denied", text
    code = getattr(error, "sqlite_errorcode", 0) & 0xFF
    fault = {
        sqlite3.SQLITE_INTERRUPT: "time",
        sqlite3.SQLITE_AUTH: "denied",
        sqlite3.SQLITE_NOMEM: "memory",
        sqlite3.SQLITE_TOOBIG: "memory",
        sqlite3.SQLITE_CANTOPEN: "source",
        sqlite3.SQLITE_NOTADB: "source",
        sqlite3.SQLITE_CORRUPT: "source",
        sqlite3.SQLITE_BUSY: "source",
    }.get(code, "statement")
    return fault, text


def main() -> None:
    """Announces itself, then answers until standard input ends."""
    confine(int(sys.argv[1]), int(sys.argv[2]))
    write_frame({})
    while True:
        write_frame(answer(serve, read_frame(), explain))


if __name__ == "__main__":
    main()
