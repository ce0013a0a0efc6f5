"""The SQLite worker: a program of its own that imports the standard library only.

It reads framed JSON requests on standard input and writes framed replies on standard output (four
bytes of length, big-endian, then UTF-8). It trusts nobody: it has a gate of its own that looks at the
first word, an authorizer that denies by default, and limits set by the operating system, and would
hold if the guard had erred. It dies with the thread that started it.
"""

import base64
import ctypes
import json
import math
import os
import re
import resource
import signal
import sqlite3
import struct
import sys
import time
from collections.abc import Callable
from typing import Any
from urllib.parse import quote

PR_SET_PDEATHSIG = 1
EXACT = 2**53
STRINGS = re.compile(r"'(?:[^']|'')*'")
READING = re.compile(r"\s*\(*\s*(SELECT|WITH|VALUES)\b", re.IGNORECASE)

# Its own list, written apart from the guard's: functions that compute and stay small.
FUNCTIONS = frozenset(
    (
        "abs avg ceil ceiling coalesce count cume_dist date datetime degrees dense_rank exp first_value floor "
        "glob group_concat ifnull iif instr julianday lag last_value lead length like ln log log10 log2 lower "
        "ltrim max min mod nth_value ntile nullif percent_rank pi pow power radians rank round row_number "
        "rtrim sign sqrt strftime substr substring sum sin cos asin acos atan atan2 time total trim trunc "
        "typeof unixepoch upper current_date current_time current_timestamp"
    ).split()
)


class Denied(Exception):
    """The statement does not pass the worker's own gate."""


def confine(memory_bytes: int, parent: int) -> None:
    """Limits that only the operating system can hold; without the parent there is no worker."""
    ctypes.CDLL(None, use_errno=True).prctl(PR_SET_PDEATHSIG, signal.SIGKILL)
    if os.getppid() != parent:
        os._exit(0)
    with open("/proc/self/statm") as file:
        now = int(file.read().split()[0]) * resource.getpagesize()
    resource.setrlimit(resource.RLIMIT_AS, (now + memory_bytes, now + memory_bytes))
    resource.setrlimit(resource.RLIMIT_FSIZE, (0, 0))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    resource.setrlimit(resource.RLIMIT_NOFILE, (24, 24))
    signal.signal(signal.SIGINT, signal.SIG_IGN)


def allow_cpu(seconds: float) -> None:
    """The processor time that may still be used before the kernel ends this process."""
    used = resource.getrusage(resource.RUSAGE_SELF)
    soft = math.ceil(used.ru_utime + used.ru_stime + seconds) + 1
    resource.setrlimit(resource.RLIMIT_CPU, (soft, resource.RLIM_INFINITY))


def gate(sql: str, views: dict[str, str]) -> None:
    """The worker's own look at the text, without a parser. Raises Denied."""
    if not READING.match(sql):
        raise Denied("only a statement that begins with SELECT, WITH or VALUES may run here")
    bare = STRINGS.sub("''", sql)
    if "--" in bare or "/*" in bare:
        raise Denied("comments may not run here")
    for view in views:
        # The authorizer names a CTE and a view alike: a CTE must not pass for a view.
        named = rf"""["'`\[]?{re.escape(view)}["'`\]]?"""
        if re.search(named + r"\s*(\([^()]*\))?\s*AS\s*(NOT\s+)?(MATERIALIZED\s*)?\(", sql, re.IGNORECASE):
            raise Denied(f"a CTE may not have the name of the view {view}")


def authorizer(reads: dict[str, list[str]], objects: list[tuple[str, str, str]]) -> Callable[..., int]:
    """Denies everything but reading the named columns and calling the listed functions."""
    columns = {table.casefold(): {c.casefold() for c in names} for table, names in reads.items()}
    real = {name.casefold() for _, name, _ in objects}
    views = {name.casefold(): sql.casefold() for kind, name, sql in objects if kind == "view"}
    # What an allowed view reads, it reads on its own account, and so do the views inside it.
    trusted, waiting = set(), [v for v in views if v in columns]
    while waiting:
        view = waiting.pop()
        trusted.add(view)
        waiting += [v for v in views if v not in trusted and re.search(rf"\b{re.escape(v)}\b", views[view])]

    def decide(action: int, first: str | None, second: str | None, _: str | None, inner: str | None) -> int:
        if action in (sqlite3.SQLITE_SELECT, sqlite3.SQLITE_RECURSIVE):
            return sqlite3.SQLITE_OK
        if action == sqlite3.SQLITE_FUNCTION:
            return sqlite3.SQLITE_OK if (second or "").casefold() in FUNCTIONS else sqlite3.SQLITE_DENY
        if action == sqlite3.SQLITE_READ:
            name = (first or "").casefold()
            if inner is not None and inner.casefold() in trusted and name in real:
                return sqlite3.SQLITE_OK
            if name in columns and (not second or second.casefold() in columns[name]):
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
    for pragma in ("query_only = ON", "temp_store = MEMORY", "trusted_schema = OFF", "mmap_size = 0"):
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


def wire(value: Any) -> tuple[Any, int, str | None]:
    """A value in the form of the contract, its size in bytes and its type's name."""
    if value is None:
        return None, 1, None
    if isinstance(value, int):
        return (value if -EXACT <= value <= EXACT else str(value)), 8, "integer"
    if isinstance(value, float):
        return (value if math.isfinite(value) else None), 8, "number"
    if isinstance(value, bytes):
        return base64.b64encode(value).decode(), len(value), "bytes"
    return value, len(value.encode("utf-8", "replace")), "text"


def fetch(cursor: sqlite3.Cursor, most_rows: int, most_bytes: int) -> dict[str, Any]:
    """Rows up to the limits. The statement asked for one row more than allowed: seeing it means a cut."""
    names = [d[0] for d in cursor.description or ()]
    types: list[str | None] = [None] * len(names)
    rows: list[list[Any]] = []
    size, cut = 0, None
    for raw in cursor:
        if len(rows) >= most_rows:
            cut = "rows"
            break
        row = []
        for index, value in enumerate(raw):
            plain, weight, kind = wire(value)
            size += weight
            if kind is not None and types[index] != kind:
                mixed = {types[index], kind} == {"integer", "number"}
                types[index] = kind if types[index] is None else "number" if mixed else "text"
            row.append(plain)
        if size > most_bytes:
            cut = "bytes"
            break
        rows.append(row)
    return {"columns": names, "types": [t or "null" for t in types], "rows": rows, "cut_by": cut, "bytes": size}


def serve(request: dict[str, Any]) -> dict[str, Any]:
    """Runs or explains one statement on a fresh connection, which is closed before the reply."""
    sql = request["sql"]
    started = time.monotonic()
    deadline = started + request["seconds"]
    allow_cpu(request["seconds"])
    # The limit on one value also counts for the schema's own text, hence the floor.
    connection = connect(request["path"], max(request["max_bytes"], 200_000))
    try:
        objects = connection.execute(
            "SELECT type, name, COALESCE(sql, '') FROM sqlite_master WHERE type IN ('table', 'view')"
        ).fetchall()
        gate(sql, {name: text for kind, name, text in objects if kind == "view"})
        connection.set_authorizer(authorizer(request["reads"], objects))
        connection.set_progress_handler(lambda: time.monotonic() > deadline, 4000)
        if request["op"] == "plan":
            cursor = connection.execute("EXPLAIN QUERY PLAN " + sql)
            reply: dict[str, Any] = {"steps": [(row[0], row[1], row[3]) for row in cursor]}
        else:
            cursor = connection.execute(sql)
            reply = fetch(cursor, request["max_rows"], request["max_bytes"])
        cursor.close()
    finally:
        connection.close()
    reply["elapsed_ms"] = round((time.monotonic() - started) * 1000, 3)
    return reply


def answer(request: dict[str, Any]) -> dict[str, Any]:
    """The reply to a request; every failure has a name."""
    try:
        return {"ok": True, **serve(request)}
    except Denied as error:
        return {"ok": False, "fault": "denied", "message": str(error)}
    except MemoryError:
        return {"ok": False, "fault": "memory", "message": "it needed more memory than is allowed"}
    except sqlite3.Warning as error:
        return {"ok": False, "fault": "denied", "message": str(error)}
    except sqlite3.Error as error:
        text = str(error)
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
        if "prohibited" in text or "not authorized" in text:
            fault = "denied"
        return {"ok": False, "fault": fault, "message": text}


def read_exactly(count: int) -> bytes:
    """Reads `count` bytes or ends the program: the other side is gone."""
    data = sys.stdin.buffer.read(count)
    if len(data) < count:
        sys.exit(0)
    return data


def main() -> None:
    """Announces itself, then answers until standard input ends."""
    confine(int(sys.argv[1]), int(sys.argv[2]))
    out = sys.stdout.buffer
    out.write(struct.pack(">I", 2) + b"{}")
    out.flush()
    while True:
        (length,) = struct.unpack(">I", read_exactly(4))
        reply = answer(json.loads(read_exactly(length)))
        try:
            data = json.dumps(reply, allow_nan=False, separators=(",", ":")).encode("utf-8", "replace")
        except MemoryError:
            data = b'{"ok":false,"fault":"memory","message":"the result did not fit into memory"}'
        out.write(struct.pack(">I", len(data)) + data)
        out.flush()


if __name__ == "__main__":
    main()
