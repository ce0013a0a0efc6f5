"""MariaDB."""

from __future__ import annotations

import datetime as dt
import re
import socket
import time
from collections.abc import Iterator, Sequence
from dataclasses import replace
from typing import Any, Final

import pymysql
import sqlalchemy as sa
from sqlalchemy.exc import SQLAlchemyError

from harquel.core.clock import utc_now
from harquel.core.domain.catalog import Catalog, Column, ForeignKey, Table, fingerprint_of
from harquel.core.domain.personal import propose
from harquel.core.domain.policy import Policy
from harquel.core.engines.base import CheckStep
from harquel.core.engines.checking import Said, failed, skipped, timed, warned, well
from harquel.core.engines.introspect import choices_of, generic_type, read_tables
from harquel.core.engines.mariadb_connection import PlainConnection, quoted, tls_options
from harquel.core.engines.postgresql import tls_said
from harquel.core.engines.profiling import Sampling, count_some, few_rows
from harquel.core.engines.server import CONNECT_S, STRUCTURE_S, ServerEngine, clock_said, unseen_said, writes_said
from harquel.core.errors import SourceError

SQL_MODE: Final = (
    "STRICT_ALL_TABLES,ONLY_FULL_GROUP_BY,NO_ZERO_DATE,NO_ZERO_IN_DATE,ERROR_FOR_DIVISION_BY_ZERO,"
    "NO_ENGINE_SUBSTITUTION,PIPES_AS_CONCAT"
)
_SYSTEM = ("information_schema", "mysql", "performance_schema", "sys")
_HARMLESS = {"SELECT", "USAGE", "SHOW VIEW", "SHOW DATABASES", "REFERENCES", "PROXY"}
_ADMINISTERS = {"ALL PRIVILEGES", "SUPER", "GRANT OPTION", "CREATE USER", "SET USER", "RELOAD", "SHUTDOWN"}
_GRANT = re.compile(r"GRANT (?P<rights>.+?) ON (?P<place>.+?) TO ")
_ROLE_GRANT = re.compile(r"GRANT [`'](?P<role>[^`']+)[`'] TO ")
_LITERALS = re.compile(r"'((?:[^']|'')*)'")
_JSON = re.compile(r"^json_valid\(`(.+)`\)$")
_SSL_CAPABILITY = 0x0800
# What the server says of columns, keys and tables, folded into one digest.
_LOOK = """
SELECT CONCAT(
  (SELECT CONCAT(COUNT(*), ':', COALESCE(SUM(CRC32(CONCAT_WS('|', table_schema, table_name, column_name,
     ordinal_position, column_type, is_nullable, column_default, column_key, column_comment))), 0))
   FROM information_schema.columns WHERE table_schema IN ({places})), '/',
  (SELECT CONCAT(COUNT(*), ':', COALESCE(SUM(CRC32(CONCAT_WS('|', table_schema, table_name, constraint_name,
     column_name, referenced_table_name, referenced_column_name))), 0))
   FROM information_schema.key_column_usage WHERE table_schema IN ({places})))
"""


class MariaDbEngine(ServerEngine):
    """One database of a MariaDB server, and others beside it that the source names."""

    name, label, program, driver = "mariadb", "MariaDB", "mariadb.py", "mariadb+pymysql"

    def _connect(self, seconds: float = STRUCTURE_S, tls: str | None = None) -> Any:
        at = self.at
        return PlainConnection(
            host=at.host, port=at.port, user=at.user, password=at.password.encode(), database=at.database,
            charset="utf8mb4", connect_timeout=CONNECT_S,
            read_timeout=int(STRUCTURE_S) + 10, program_name="harquel", autocommit=True,
            init_command=f"SET SESSION sql_mode='{SQL_MODE}', time_zone='+00:00', tx_read_only=1, "
            f"max_statement_time={seconds}, lock_wait_timeout=3", **tls_options(tls or at.tls, at.ca),
        )  # fmt: skip

    def _limit(self, connection: sa.Connection, seconds: float) -> None:
        connection.exec_driver_sql(f"SET SESSION max_statement_time = {max(0.01, seconds):.3f}")

    def _places(self) -> list[str]:
        return [self.at.database, *(s for s in self.at.schemas if s != self.at.database)]

    def _look(self, connection: sa.Connection) -> str:
        places = ", ".join("'" + p.replace("\\", "\\\\").replace("'", "''") + "'" for p in self._places())
        return str(connection.exec_driver_sql(_LOOK.replace("{places}", places.replace("%", "%%"))).scalar())

    # -- structure -------------------------------------------------------------------------------

    def _read(self, connection: sa.Connection) -> Catalog:
        schemas: list[str | None] = [None if p == self.at.database else p for p in self._places()]
        tables = read_tables(connection, schemas, _type)
        rows = {
            (r[0], r[1]): r[2]
            for r in connection.execute(
                sa.text(
                    "SELECT table_schema, table_name, table_rows FROM information_schema.tables "
                    "WHERE table_type = 'BASE TABLE' AND table_schema NOT IN :system"
                ).bindparams(sa.bindparam("system", _SYSTEM, expanding=True))
            )
        }
        checks: dict[tuple[str, str], list[str]] = {}
        for place, name, clause in connection.exec_driver_sql(
            "SELECT constraint_schema, table_name, check_clause FROM information_schema.check_constraints"
        ):
            checks.setdefault((place, name), []).append(clause)
        tables = [self._without_definition(connection, t) if t.problem else t for t in tables]
        made = tuple(
            _with_more(
                t,
                rows.get((t.schema or self.at.database, t.plain)),
                checks.get((t.schema or self.at.database, t.plain), []),
            )
            for t in tables
        )
        return Catalog(self.name, made, fingerprint_of(made), utc_now(), self.at.database)

    def _without_definition(self, connection: sa.Connection, table: Table) -> Table:
        """A table of which the account may read some columns only: it may not see how the whole was made."""
        place = {"place": table.schema or self.at.database, "name": table.plain}
        found = connection.execute(
            sa.text(
                "SELECT column_name, column_type, is_nullable, column_default, column_key, column_comment "
                "FROM information_schema.columns WHERE table_schema = :place AND table_name = :name "
                "AND FIND_IN_SET('select', privileges) ORDER BY ordinal_position"
            ),
            place,
        ).all()
        if not found or table.kind != "table":
            return table
        keys = connection.execute(
            sa.text(
                "SELECT constraint_name, column_name, referenced_table_schema, referenced_table_name, "
                "referenced_column_name FROM information_schema.key_column_usage WHERE table_schema = :place "
                "AND table_name = :name AND referenced_table_name IS NOT NULL "
                "ORDER BY constraint_name, ordinal_position"
            ),
            place,
        ).all()
        columns = tuple(
            Column(
                r[0], _short(str(r[1]).upper()), r[2] == "YES", r[4] == "PRI", r[4] in ("PRI", "UNI"),
                None if r[3] is None else str(r[3]), str(r[5] or ""),
                tuple(v.replace("''", "'") for v in _LITERALS.findall(r[1])) if str(r[1]).startswith("enum") else (),
            )
            for r in found
        )  # fmt: skip
        foreign: dict[str, list[Any]] = {}
        for row in keys:
            foreign.setdefault(row[0], []).append(row)
        made = tuple(
            ForeignKey(
                tuple(r[1] for r in rows),
                rows[0][3] if rows[0][2] == self.at.database else f"{rows[0][2]}.{rows[0][3]}",
                tuple(r[4] for r in rows),
            )
            for rows in foreign.values()
        )
        return propose(replace(table, columns=columns, foreign_keys=made, problem=""))

    def _sampling(self, connection: sa.Connection, table: Table, columns: Sequence[str]) -> Sampling:
        few = count_some(connection, table)
        rows = few_rows(table, columns, few is not None)
        return Sampling(rows, few if few is not None else table.row_count, few is None, few is not None)

    # -- checking --------------------------------------------------------------------------------

    def _probe(self) -> Said:
        at = self.at
        try:
            with socket.create_connection((at.host, at.port), timeout=CONNECT_S) as sock:
                sock.settimeout(CONNECT_S)
                greeting = sock.recv(512)
        except OSError:
            greeting = b""
        # Length (3), number, protocol 10, the version's text ended by zero, thread (4), salt (8), zero, capabilities.
        if len(greeting) < 7 or greeting[4] not in (10, 255):
            return failed(
                "wrong-port", f"What answers on port {at.port} is not MariaDB.",
                "Check the port: another program listens there. MariaDB's usual one is 3306.",
            )  # fmt: skip
        if greeting[4] == 255:
            said = greeting[7:].decode("utf-8", "replace").strip("\x00")
            return failed("not-allowed-from-here", f"MariaDB turns this machine away: {said}.", "Check its accounts.")
        end = greeting.index(b"\x00", 5)
        capabilities = int.from_bytes(greeting[end + 14 : end + 16], "little")
        return tls_said(bool(capabilities & _SSL_CAPABILITY), at.tls, at.host)

    def _explained(self, error: BaseException) -> Said:
        at = self.at
        code = error.args[0] if error.args and isinstance(error.args[0], int) else 0
        if code == 1045 or code == 1698:
            if at.tls == "off" and self._lets_in_with_tls():
                return self._tls_required()
            return failed(
                "wrong-password", f"The server does not accept the password of {at.user}.",
                "Check user and password, and that the reference to it holds what you expect.",
            )  # fmt: skip
        if code in (3159, 4151):
            return self._tls_required()
        if code == 1049:
            return failed(
                "wrong-database", f"There is no database {at.database} on this server.",
                "Check its name: upper and lower case count.",
            )  # fmt: skip
        if code == 1044:
            return failed(
                "no-connect", f"{at.user} may not use {at.database}, or there is no such database.",
                f"GRANT SELECT ON {quoted(at.database)}.* TO {_account(at.user)};",
            )  # fmt: skip
        if code == 1130:
            return failed(
                "not-allowed-from-here", f"The server does not let {at.user} in from this machine.",
                "Make the account for this host, or for '%'.",
            )  # fmt: skip
        if code == 2026:
            return failed("no-tls", "The server offers no TLS, and the source asks for it.", "Switch TLS on there.")
        if code in (1040, 1203, 1226):
            return failed("crowded", "The server takes no more connections.", "Wait, or raise the account's limit.")
        if code in (2003, 2006, 2013, 0):
            return failed(
                "server-down", f"MariaDB does not answer at {at.host}:{at.port}.",
                "Check that the server is running, and host and port.",
            )  # fmt: skip
        return failed("refused", f"MariaDB says: {self._words(error)}.", "Check the fields of the source.")

    @staticmethod
    def _tls_required() -> Said:
        return failed(
            "tls-required", "The server lets this account in over TLS only.",
            "Set tls to require, or to verify with the certificate of the authority.",
        )  # fmt: skip

    def _lets_in_with_tls(self) -> bool:
        try:
            self._connect(tls="require").close()
        except (pymysql.Error, OSError):
            return False
        return True

    def _steps(self, connection: sa.Connection, policy: Policy) -> Iterator[CheckStep]:
        with timed("version") as step:
            version = str(connection.exec_driver_sql("SELECT VERSION()").scalar())
            numbers = tuple(int(n) for n in re.findall(r"\d+", version)[:2])
            step.result = well(f"MariaDB {version.split('-')[0]}.")
            if "mariadb" not in version.lower():
                step.result = warned("other-server", f"This is not MariaDB but {version}.", "Not tried with it.")
            elif numbers < (10, 6):
                step.result = warned("old-version", f"MariaDB {version} is old.", "Tried with 10.11; 10.6 should do.")
        yield step.made()
        with timed("clock") as step:
            before = utc_now()
            there: dt.datetime = connection.exec_driver_sql("SELECT UTC_TIMESTAMP(6)").scalar_one()
            apart = there.replace(tzinfo=dt.UTC) - before - (utc_now() - before) / 2
            step.result = clock_said(apart.total_seconds())
        yield step.made()
        with timed("tables") as step:
            step.result = self._check_tables(policy, self._read(connection))
        yield step.made()
        rights = self._rights(connection)
        with timed("administrator") as step:
            everywhere = {r for r, place in rights if place == "*.*"} & _ADMINISTERS
            step.result = well("The account is an ordinary one.")
            if everywhere:
                step.result = warned(
                    "superuser", f"{self.at.user} administers the server ({', '.join(sorted(everywhere))}).",
                    "Make an account that may only read: harquel source account NAME prints the script.",
                )  # fmt: skip
        yield step.made()
        with timed("writing") as step:
            reasons = [f"{r} on {place}" for r, place in rights if r not in _HARMLESS]
            step.result = writes_said(reasons, policy)
        yield step.made()
        with timed("time limit") as step:
            step.result = self._check_limit(connection)
        yield step.made()

    @staticmethod
    def _rights(connection: sa.Connection) -> list[tuple[str, str]]:
        """(right, place) of the account and of every role it may take on, from the server's own tables."""
        found, waiting, seen = [], ["SHOW GRANTS"], set()
        while waiting:
            ask = waiting.pop()
            for (line,) in connection.exec_driver_sql(ask.replace("%", "%%")):
                if role := _ROLE_GRANT.match(line):
                    if role["role"] not in seen:
                        seen.add(role["role"])
                        waiting.append(f"SHOW GRANTS FOR {quoted(role['role'])}")
                elif match := _GRANT.match(line):
                    bare = re.sub(r"\([^)]*\)", "", match["rights"])
                    found += [(r.strip().upper(), match["place"]) for r in bare.split(",")]
                    if "WITH GRANT OPTION" in line:
                        found.append(("GRANT OPTION", match["place"]))
        return found

    def _check_limit(self, connection: sa.Connection) -> Said:
        started = time.monotonic()
        try:
            self._limit(connection, 0.2)
            connection.exec_driver_sql("SELECT SLEEP(2)")
        except SQLAlchemyError:
            pass  # some versions report the end as an error, some as success
        finally:
            self._limit(connection, STRUCTURE_S)
        took = time.monotonic() - started
        if took > 1.5:
            return skipped("The server did not end a statement at its limit; the sandbox ends it by itself.")
        return well(f"A statement over its limit of 200 ms was ended by the server after {took * 1000:.0f} ms.")

    # -- accounts --------------------------------------------------------------------------------

    def grant(self, table: str) -> str:
        """See Engine."""
        schema, _, plain = table.rpartition(".")
        place = f"{quoted(schema or self.at.database)}.{quoted(plain)}"
        return f"GRANT SELECT, SHOW VIEW ON {place} TO {_account(self.at.user)};"

    def account_script(self, policy: Policy, account: str, whole_schema: bool, known: Catalog | None = None) -> str:
        """See Engine. It looks which tables there are, if it can."""
        unseen: list[str] = []
        try:
            catalog = self.structure()
        except SourceError as error:
            catalog = known or Catalog(self.name, (), "", utc_now(), self.at.database)
            whole_schema = whole_schema or known is None
            unseen = unseen_said(error, known is not None)
        shown = [t for t in catalog.tables if policy.shows(t.name, None) and t.columns]
        who, limits = _account(account), policy.limits
        lines = [
            f"-- An account for Harquel that may only read, on the database {self.at.database}.",
            "-- Run it as an administrator; put a password in the marked place, and for '%' the host of Harquel.",
            *unseen,
            f"CREATE USER {who} IDENTIFIED BY 'put-a-password-here'",
            f"  WITH MAX_USER_CONNECTIONS 20 MAX_STATEMENT_TIME {int(limits.query_s) + 2};",
        ]
        if whole_schema:
            lines.append("-- The whole of each database; tables made later come along:")
            lines += [f"GRANT SELECT, SHOW VIEW ON {_pattern(p)}.* TO {who};" for p in self._places()]
        else:
            lines.append("-- Exactly what the policy exposes; a table made later needs a line of its own:")
            for t in shown:
                kept = [c.name for c in t.columns if policy.shows(t.name, c.name)]
                listed = f" ({', '.join(map(quoted, kept))})" if len(kept) < len(t.columns) else ""
                place = f"{quoted(t.schema or self.at.database)}.{quoted(t.plain)}"
                lines.append(f"GRANT SELECT{listed} ON {place} TO {who};")
                if t.kind == "view":
                    lines.append(f"GRANT SHOW VIEW ON {place} TO {who};")
        return "\n".join(lines) + "\n"


def _account(user: str) -> str:
    return "'" + user.replace("\\", "\\\\").replace("'", "''") + "'@'%'"


def _pattern(database: str) -> str:
    """A database's name in a grant, where _ and % would stand for others too."""
    return quoted(database.replace("_", "\\_").replace("%", "\\%"))


def _type(kind: Any) -> str:
    """What MariaDB calls it; the library's own word for a number of one digit is a boolean."""
    text = generic_type(kind)
    if text.startswith("TINYINT") and getattr(kind, "display_width", None) == 1:
        return "BOOLEAN"
    return _short(text)


def _short(text: str) -> str:
    """Without widths that mean nothing and without the collation."""
    if text == "TINYINT(1)":
        return "BOOLEAN"
    return re.sub(r"^(BIGINT|INTEGER|INT|SMALLINT|MEDIUMINT|TINYINT)\(\d+\)", r"\1", text).split(" COLLATE ")[0]


def _with_more(table: Table, rows: int | None, checks: list[str]) -> Table:
    """Adds what the library does not tell: the estimate of rows and the checks of columns."""
    choices = choices_of(tuple(checks))
    # JSON is text with a check; and the library hands a backtick in a name over as it is written in SQL.
    json = {c.casefold() for text in checks for c in _JSON.findall(text)}
    columns = tuple(
        replace(
            c, name=c.name.replace("``", "`"), options=c.options or choices.get(c.name.casefold(), ()),
            type="JSON" if c.name.casefold() in json else c.type,
        )
        for c in table.columns
    )  # fmt: skip
    return replace(
        table, columns=columns, row_count=rows, estimated=rows is not None, checks=tuple(checks) or table.checks
    )
