"""The MariaDB worker: one statement, unbuffered, in a read-only transaction.

The clock here is the limit: at its end a second connection ends the statement at the server. The
server's own limit, a little longer, is the second line. A connection that was stopped is thrown away.
"""

import datetime
import re
import ssl
import sys
import time
from collections.abc import Iterator
from functools import partial
from pathlib import Path
from typing import Any

sys.path.insert(0, str(Path(__file__).resolve().parent))
sys.path.append(sys.argv[3])
import pymysql
from frame import (
    ESCAPED_STRINGS,
    OUT_OF_TIME,
    Denied,
    Fault,
    Reply,
    Stoppable,
    allow_cpu,
    come_back,
    confine,
    elapsed_ms,
    gate,
)
from pymysql.constants import FIELD_TYPE
from pymysql.cursors import SSCursor

GRACE_S = 1.0
# The same as the parser assumes; see the engine.
SQL_MODE = (
    "STRICT_ALL_TABLES,ONLY_FULL_GROUP_BY,NO_ZERO_DATE,NO_ZERO_IN_DATE,ERROR_FOR_DIVISION_BY_ZERO,"
    "NO_ENGINE_SUBSTITUTION,PIPES_AS_CONCAT"
)
# Zero dates and times beyond a day have no Python form: all of them come as the server writes them.
TEMPORAL = {
    FIELD_TYPE.DATE: "date", FIELD_TYPE.DATETIME: "timestamp", FIELD_TYPE.TIMESTAMP: "timestamp",
    FIELD_TYPE.TIME: "time",
}  # fmt: skip
CONVERSIONS = {k: v for k, v in pymysql.converters.conversions.items() if k not in TEMPORAL}
UNDERLYING = 1345
READ_AS = 1003


# Its own list, written apart from the guard's. A read-only transaction stops neither files nor locks of the
# session, and a variable would be there for whoever asks next.
NEVER = re.compile(
    r"""@|:=|\bINTO\b|\bPROCEDURE\b|\bFOR\s+UPDATE\b|\bSHARE\s+MODE\b|\b(NEXT|PREVIOUS)\s+VALUE\b
    |\b(sleep|benchmark|\w*_lock|\w*_locks|load_file|nextval|lastval|setval|master_\w+|uuid_short|last_insert_id
    |name_const|sys_\w+|row_count|found_rows)`?\s*\(""",
    re.IGNORECASE | re.VERBOSE,
)


class Session:
    """One connection, kept between requests while it is in order."""

    def __init__(self) -> None:
        self.connection: Any = None
        self.server: Any = None

    def get(self, server: Any) -> Any:
        """The connection, made anew when it is gone or when it should lead elsewhere."""
        if self.connection is not None and (self.server != server or not self.alive()):
            self.drop()
        if self.connection is None:
            self.connection, self.server = connect(server), server
        return self.connection

    def alive(self) -> bool:
        """Whether the server still knows us."""
        try:
            self.connection.ping(reconnect=False)
        except pymysql.Error:
            return False
        return True

    def drop(self) -> None:
        """Throws the connection away, whatever it still has to say."""
        if self.connection is not None:
            self.connection._force_close()
        self.connection = None


def connect(server: Any) -> Any:
    """A connection whose settings leave nothing to chance."""
    secure: dict[str, Any] = {"off": {"ssl_disabled": True}, "prefer": {}}.get(server["tls"], {"ssl": None})
    if "ssl" in secure:
        context = ssl.create_default_context(cafile=server["ca"] or None)
        if server["tls"] == "require":
            context.check_hostname = False
            context.verify_mode = ssl.CERT_NONE
        secure["ssl"] = context
    return pymysql.connect(
        host=server["host"], port=server["port"], user=server["user"], password=server["password"].encode(),
        database=server["database"], charset="utf8mb4", connect_timeout=5, autocommit=True, program_name="harquel",
        cursorclass=SSCursor, conv=CONVERSIONS, local_infile=False,
        init_command=f"SET SESSION sql_mode='{SQL_MODE}', time_zone='+00:00', tx_read_only=1, lock_wait_timeout=2, "
        "innodb_lock_wait_timeout=2, group_concat_max_len=1048576, div_precision_increment=12, "
        # Cheap subqueries would be run while the plan is made, and be missing from what the plan says is read.
        "expensive_subquery_limit=0", **secure,
    )  # fmt: skip


SESSION = Session()


def stop_at_server(server: Any, thread: int) -> None:
    """Ends the statement of our own connection, from a second one."""
    try:
        second = connect(server)
    except pymysql.Error:
        return  # the server's own limit remains
    try:
        with second.cursor() as cursor:
            cursor.execute(f"KILL QUERY {int(thread)}")
    except pymysql.Error:
        pass  # it has ended in between
    finally:
        second.close()


def must_know(cursor: Any, zone: str) -> None:
    """Raises Fault where the server has no table of a zone: its times would all be none, without a word."""
    cursor.execute("SELECT CONVERT_TZ('2026-01-01 00:00:00', 'UTC', %s)", (zone,))
    if cursor.fetchone()[0] is None:
        raise Fault("source", f"the server has no table of the time zone {zone}: fill them with mariadb-tzinfo-to-sql")


def serve(request: Any) -> Reply:
    """Runs or explains one statement; rolled back right after the last fetch."""
    sql, seconds = request["sql"], request["seconds"]
    gate(sql, ESCAPED_STRINGS, NEVER)
    allow_cpu(seconds)
    started = time.monotonic()
    connection = SESSION.get(request["server"])
    left = seconds - (time.monotonic() - started)
    stop = partial(stop_at_server, request["server"], connection.thread_id())
    with TALK.watching(stop, left, SESSION.drop) as watch:
        cursor = connection.cursor()
        cursor.execute(f"SET SESSION max_statement_time={seconds + GRACE_S:.3f}")
        cursor.execute("START TRANSACTION READ ONLY")
        if "CONVERT_TZ" in sql.upper():
            must_know(cursor, request["zone"])
        if request.get("in_part"):
            see_to_rules(cursor, sql, request["in_part"])
        reply = explain_plan(cursor, sql) if request["op"] == "plan" else run(cursor, sql, request)
        if reply.get("cut_by") == "bytes":
            # What the server still wants to send is of no use to anybody.
            SESSION.drop()
        else:
            cursor.close()
            connection.rollback()
            # Locks of the session outlive the transaction: a function of somebody's own may have taken one.
            connection.query("DO RELEASE_ALL_LOCKS()")
    if watch.why:
        # SLEEP and the like report success when they are ended: what came back is not to be trusted.
        SESSION.drop()
        raise Fault("time", OUT_OF_TIME)
    reply["elapsed_ms"] = elapsed_ms(started)
    return reply


def run(cursor: Any, sql: str, request: Any) -> Reply:
    """The rows as they come."""
    cursor.execute(sql)
    described = cursor.description or ()
    names, kinds = [d[0] for d in described], [TEMPORAL.get(d[1]) for d in described]
    reply = come_back(request, names, rows(cursor, kinds))
    reply["types"] = [k or t for k, t in zip(kinds, reply["types"], strict=True)]
    return reply


def rows(cursor: Any, kinds: list[str | None]) -> Iterator[Any]:
    """Rows with times in ISO 8601."""
    stamps = [i for i, kind in enumerate(kinds) if kind == "timestamp"]
    for raw in cursor.fetchall_unbuffered():
        row = [plain(v) for v in raw]
        for index in stamps:
            if row[index] is not None:
                row[index] = row[index].replace(" ", "T", 1)
        yield row


def plain(value: Any) -> Any:
    """What the contract has no word for, as text."""
    return str(value) if isinstance(value, datetime.timedelta | set) else value


def explain_plan(cursor: Any, sql: str) -> Reply:
    """The plan as the server's own JSON; without rights on what lies under a view there is none."""
    try:
        cursor.execute("EXPLAIN FORMAT=JSON " + sql)
    except pymysql.Error as error:
        if error.args and error.args[0] == UNDERLYING:
            return {"plan": None}
        raise
    (text,) = cursor.fetchone()
    return {"plan": text}


NAMED = re.compile(r"""'(?:[^'\\]|\\.|'')*'|(`(?:[^`]|``)+`(?:\.`(?:[^`]|``)+`)*)(?:\s+(`(?:[^`]|``)+`))?""", re.DOTALL)
"""A text, or a name of one part or several and the alias right behind it: what holds a quote is passed over whole."""


def see_to_rules(cursor: Any, sql: str, in_part: Any) -> None:
    """Looks at how the server itself reads the statement: a table that may be seen in part only stands there under a
    marked alias. Raises Denied.
    """
    partly = {tuple(map(str.casefold, table)) for table in in_part["tables"]}
    if not partly:
        return
    cursor.execute("EXPLAIN EXTENDED " + sql)
    cursor.fetchall()
    cursor.execute("SHOW WARNINGS")
    said = [text for level, code, text in cursor.fetchall() if code == READ_AS]
    if not said:
        raise Denied("the server does not tell how it reads the statement")
    for text in said:
        for name, alias in NAMED.findall(text):
            parts = tuple(p.replace("``", "`").casefold() for p in re.findall(r"`((?:[^`]|``)+)`", name))
            if parts in partly and not alias.endswith(f"_{in_part['mark']}`"):
                raise Denied("a table would be read past its row rule")


def explain(error: Exception) -> tuple[str, str]:
    """Fault and message of an error of the driver."""
    code = error.args[0] if error.args and isinstance(error.args[0], int) else 0
    text = " ".join(str(error.args[-1] if error.args else error).split())[:500]
    password = (SESSION.server or {}).get("password")
    text = text.replace(password, "•••") if password else text
    if code in (1969, 1317, 3024):
        return "time", OUT_OF_TIME
    if code in (1142, 1143, 1044, 1227, 1370, 1792):
        return "denied", text
    if code in (1037, 1038, 1041, 1153, 1114):
        return "memory", text
    if code in (1040, 1045, 1049, 1053, 1130, 1203, 1226, 2002, 2003, 2006, 2013, 2026):
        return "source", text
    return "statement", text


if __name__ == "__main__":
    confine(int(sys.argv[1]), int(sys.argv[2]), files=64)
    TALK = Stoppable()
    TALK.go_on(serve, explain)
