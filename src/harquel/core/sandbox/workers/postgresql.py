"""The PostgreSQL worker: one statement through a server-side cursor in a read-only transaction.

The clock here is the limit; the server's own timeout, a little longer, is the second line. A connection
that was stopped, or that broke, is thrown away.
"""

import json
import os
import re
import select
import sys
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

sys.path.insert(0, str(Path(__file__).resolve().parent))
sys.path.append(sys.argv[3])
import psycopg
from frame import OUT_OF_TIME, Denied, Reply, Stoppable, allow_cpu, come_back, confine, elapsed_ms, gate
from psycopg.types.string import TextLoader

SSL_MODES = {"prefer": "prefer", "require": "require", "verify": "verify-full", "off": "disable"}
AT_ONCE = 200
GRACE_S = 1.0
# Types whose Python form would lose something: months in an interval, years after 9999, infinity.
AS_TEXT = ("interval", "date", "timestamp", "timestamptz", "time", "timetz", "json", "jsonb", "uuid", "inet", "cidr")
TEMPORAL = {1082: "date", 1114: "timestamp", 1184: "timestamp", 1083: "time", 1266: "time"}


# Its own list, written apart from the guard's. A read-only transaction stops neither locks of the session nor
# messages, other sessions' ends, files or settings; texts with escapes could hide a word from this very list.
NEVER = re.compile(
    r"""\b(pg_\w+|txid_\w+|dblink\w*|set_config|current_setting|lo_(creat|create|import|export|unlink|put|get|open|close
    |from_bytea|truncate|lseek|tell)\w*|loread|lowrite|nextval|setval|currval|lastval|\w+_to_xml\w*|ts_(rewrite|stat))\b
    |\bFOR\s+(UPDATE|SHARE|NO\s+KEY|KEY\s+SHARE)\b|\bINTO\b|\bE'|\bU&|\$\w*\$""",
    re.IGNORECASE | re.VERBOSE,
)


END_ALL = "ROLLBACK; SELECT pg_advisory_unlock_all()"
"""Locks of the session outlive the transaction: a function of somebody's own may have taken one."""


class Session:
    """One connection, kept between requests while it is in order."""

    def __init__(self) -> None:
        self.connection: Any = None
        self.server: Any = None

    def get(self, server: Any) -> Any:
        """The connection, made anew when it is gone or when it should lead elsewhere."""
        if self.connection is not None and (self.server != server or self.gone()):
            self.drop()
        if self.connection is None:
            self.connection, self.server = connect(server), server
        return self.connection

    def gone(self) -> bool:
        """Whether the server has ended the connection meanwhile: then there is something to read, and it is the end."""
        if self.connection.closed or self.connection.broken:
            return True
        readable, _, _ = select.select([self.connection.fileno()], [], [], 0)
        if not readable:
            return False
        try:
            self.connection.execute("SELECT 1")
        except psycopg.Error:
            return True
        return False

    def drop(self) -> None:
        """Throws the connection away."""
        if self.connection is not None:
            self.connection.close()
        self.connection = None


def connect(server: Any) -> Any:
    """A connection whose settings leave nothing to chance. Only pg_catalog is on the search path."""
    connection = psycopg.connect(
        host=server["host"], port=server["port"], dbname=server["database"], user=server["user"],
        password=server["password"] or None, sslmode=SSL_MODES[server["tls"]], sslrootcert=server["ca"] or None,
        connect_timeout=5, application_name="harquel", gssencmode="disable", autocommit=True,
        options="-c default_transaction_read_only=on -c search_path=pg_catalog -c TimeZone=UTC -c DateStyle=ISO "
        "-c IntervalStyle=iso_8601 -c bytea_output=hex -c standard_conforming_strings=on -c lock_timeout=2000 "
        "-c idle_in_transaction_session_timeout=60000",
    )  # fmt: skip
    for kind in AS_TEXT:
        connection.adapters.register_loader(kind, TextLoader)
    connection.prepare_threshold = None
    return connection


SESSION = Session()


def serve(request: Any) -> Reply:
    """Runs or explains one statement; rolled back right after the last fetch."""
    sql, seconds = request["sql"], request["seconds"]
    gate(sql, never=NEVER)
    allow_cpu(seconds)
    started = time.monotonic()
    connection = SESSION.get(request["server"])
    left = seconds - (time.monotonic() - started)
    with TALK.watching(lambda: connection.cancel_safe(timeout=1.0), left, SESSION.drop) as watch:
        begin(connection, seconds)
        if request.get("in_part"):
            see_to_rules(connection, sql, request["in_part"])
        reply = explain_plan(connection, sql) if request["op"] == "plan" else run(connection, sql, request)
    if watch.why:
        # The order to stop may have crossed with the end: it must not hit the next statement.
        SESSION.drop()
    reply["elapsed_ms"] = elapsed_ms(started)
    return reply


def begin(connection: Any, seconds: float) -> None:
    """A transaction that cannot write, with the server's own limits as the second line."""
    connection.execute(
        "BEGIN TRANSACTION ISOLATION LEVEL REPEATABLE READ READ ONLY; "
        f"SELECT set_config('statement_timeout', '{int((seconds + GRACE_S) * 1000)}', true), "
        "set_config('client_connection_check_interval', '1000', true)"
    )


def run(connection: Any, sql: str, request: Any) -> Reply:
    """The rows, through a cursor of the server's: it takes one statement, and one that only reads."""
    cursor = connection.cursor(name="harquel", scrollable=False, withhold=False)
    cursor.execute(sql)
    described = cursor.description or ()
    names = [d.name for d in described]
    kinds = [TEMPORAL.get(d.type_code) for d in described]
    reply = come_back(request, names, rows(cursor, kinds))
    reply["types"] = [k or t for k, t in zip(kinds, reply["types"], strict=True)]
    # Closing it ends with the transaction, which is rolled back at once: a trip to the server less.
    connection.execute(END_ALL)
    cursor.close()
    return reply


def rows(cursor: Any, kinds: list[str | None]) -> Iterator[Any]:
    """Rows with times in ISO 8601; few at once, so that a limit on bytes is felt soon."""
    stamps = [i for i, kind in enumerate(kinds) if kind == "timestamp"]
    while True:
        batch = cursor.fetchmany(AT_ONCE)
        for row in batch:
            if stamps:
                row = list(row)
                for index in stamps:
                    if row[index] is not None:
                        row[index] = row[index].replace(" ", "T", 1)
            yield row
        if len(batch) < AT_ONCE:
            return


def explain_plan(connection: Any, sql: str) -> Reply:
    """The plan as the server's own JSON; the extended protocol takes one statement only."""
    cursor = connection.execute("EXPLAIN (FORMAT JSON, VERBOSE false) " + sql, binary=True)
    (text,) = cursor.fetchone()
    connection.execute(END_ALL)
    return {"plan": text if isinstance(text, str) else json.dumps(text)}


KIN = """
WITH RECURSIVE kin (oid) AS (
  SELECT c.oid FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
  JOIN unnest(%s::text[], %s::text[]) AS w (schema, name) ON n.nspname = w.schema AND c.relname = w.name
  UNION SELECT i.inhrelid FROM pg_inherits i JOIN kin ON i.inhparent = kin.oid)
SELECT n.nspname, c.relname FROM kin JOIN pg_class c ON c.oid = kin.oid JOIN pg_namespace n ON n.oid = c.relnamespace
"""
"""What may be seen in part only, with the partitions and children of it."""


def see_to_rules(connection: Any, sql: str, in_part: Any) -> None:
    """Looks at the plan: a table that may be seen in part only is read under a marked alias. Raises Denied."""
    schemas, names = zip(*in_part["tables"], strict=True) if in_part["tables"] else ((), ())
    if not names:
        return
    partly = set(connection.execute(KIN, (list(schemas), list(names))).fetchall())
    (text,) = connection.execute("EXPLAIN (FORMAT JSON, VERBOSE true) " + sql, binary=True).fetchone()
    waiting = list(json.loads(text) if isinstance(text, str) else text)
    while waiting:
        part = waiting.pop()
        if isinstance(part, list):
            waiting += part
        elif isinstance(part, dict):
            waiting += part.values()
            read = (part.get("Schema"), part.get("Relation Name"))
            if read in partly and f"_{in_part['mark']}" not in part.get("Alias", ""):
                raise Denied("a table would be read past its row rule")


def explain(error: Exception) -> tuple[str, str]:
    """Fault and message of an error of the driver."""
    text = " ".join((getattr(getattr(error, "diag", None), "message_primary", None) or str(error)).split())[:500]
    if isinstance(error, psycopg.errors.QueryCanceled):
        return "time", OUT_OF_TIME
    if isinstance(error, psycopg.errors.OutOfMemory | psycopg.errors.ConfigurationLimitExceeded):
        return "memory", text
    if isinstance(error, psycopg.errors.InsufficientPrivilege | psycopg.errors.ReadOnlySqlTransaction):
        return "denied", text
    if isinstance(error, psycopg.OperationalError) and getattr(error, "sqlstate", None) in (None, "57P01", "57P03"):
        password = (SESSION.server or {}).get("password")
        return "source", text.replace(password, "•••") if password else text
    return "statement", text


if __name__ == "__main__":
    confine(int(sys.argv[1]), int(sys.argv[2]), files=64)
    os.environ.pop("PGSERVICEFILE", None)
    TALK = Stoppable()
    TALK.go_on(serve, explain)
