"""PostgreSQL."""

from __future__ import annotations

import datetime as dt
import socket
import time
from collections.abc import Iterator, Sequence
from dataclasses import replace
from typing import Any

import psycopg
import sqlalchemy as sa
from sqlalchemy.exc import SQLAlchemyError

from harquel.core.clock import utc_now
from harquel.core.domain.catalog import Catalog, Table, fingerprint_of
from harquel.core.domain.policy import Policy
from harquel.core.engines.base import CheckStep
from harquel.core.engines.checking import Said, failed, skipped, timed, warned, well
from harquel.core.engines.introspect import generic_type, read_tables
from harquel.core.engines.profiling import SAMPLED_ROWS, Sampling, count_some, few_rows, relation
from harquel.core.engines.server import CONNECT_S, STRUCTURE_S, ServerEngine, clock_said, unseen_said, writes_said
from harquel.core.errors import SourceError

SSL_MODES = {"prefer": "prefer", "require": "require", "verify": "verify-full", "off": "disable"}
_SSL_REQUEST = b"\x00\x00\x00\x08\x04\xd2\x16\x2f"
_SHORT = (
    ("timestamp without time zone", "timestamp"), ("timestamp with time zone", "timestamptz"),
    ("time without time zone", "time"), ("time with time zone", "timetz"), ("character varying", "varchar"),
    ("character(", "char("),
)  # fmt: skip
_OURS = "n.nspname !~ '^pg_' AND n.nspname <> 'information_schema'"
_LOOK = f"""
SELECT count(*)::text || ':' || coalesce(sum(hashint8(x.v)), 0)::text FROM (
  SELECT c.xmin::text::bigint AS v FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace WHERE {_OURS}
  UNION ALL
  SELECT a.xmin::text::bigint FROM pg_attribute a JOIN pg_class c ON c.oid = a.attrelid
    JOIN pg_namespace n ON n.oid = c.relnamespace WHERE {_OURS} AND a.attnum > 0
  UNION ALL
  SELECT k.xmin::text::bigint FROM pg_constraint k JOIN pg_namespace n ON n.oid = k.connamespace WHERE {_OURS}
  UNION ALL
  SELECT m.xmin::text::bigint FROM pg_auth_members m
  UNION ALL
  SELECT d.xmin::text::bigint FROM pg_description d WHERE d.classoid = 'pg_class'::regclass
) AS x
"""
_RIGHTS = f"""
SELECT n.nspname, c.relname, c.reltuples::float8, pg_get_userbyid(c.relowner),
       has_schema_privilege(n.oid, 'USAGE') AND (has_table_privilege(c.oid, 'SELECT')
         OR has_any_column_privilege(c.oid, 'SELECT'))
FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
WHERE c.relkind IN ('r', 'p', 'v', 'm', 'f') AND {_OURS}
"""
_COLUMNS = f"""
SELECT n.nspname, c.relname, a.attname, format_type(a.atttypid, a.atttypmod),
       has_column_privilege(c.oid, a.attnum, 'SELECT')
FROM pg_attribute a JOIN pg_class c ON c.oid = a.attrelid JOIN pg_namespace n ON n.oid = c.relnamespace
WHERE c.relkind IN ('r', 'p', 'v', 'm', 'f') AND a.attnum > 0 AND NOT a.attisdropped AND {_OURS}
"""
_WRITES = f"""
SELECT n.nspname || '.' || c.relname FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
WHERE c.relkind IN ('r', 'p', 'v', 'm', 'f', 'S') AND {_OURS} AND CASE WHEN c.relkind = 'S'
  THEN has_sequence_privilege(c.oid, 'USAGE, UPDATE')
  ELSE has_table_privilege(c.oid, 'INSERT, UPDATE, DELETE, TRUNCATE')
    OR has_any_column_privilege(c.oid, 'INSERT, UPDATE') END
ORDER BY 1
"""
# Where nothing is written, the last transaction is old and the replica is not behind.
_REPLAYED = """
SELECT CASE WHEN NOT pg_is_in_recovery() THEN NULL
  WHEN pg_last_wal_receive_lsn() = pg_last_wal_replay_lsn() AND EXISTS (SELECT FROM pg_stat_wal_receiver)
  THEN clock_timestamp() ELSE pg_last_xact_replay_timestamp() END
"""
_ROLE = """
SELECT r.rolsuper, r.rolcreaterole, r.rolcreatedb, r.rolbypassrls, r.rolreplication,
  has_database_privilege(current_database(), 'CREATE'),
  (SELECT string_agg(n.nspname, ', ') FROM pg_namespace n
    WHERE n.nspname !~ '^pg_' AND has_schema_privilege(n.oid, 'CREATE')),
  (SELECT string_agg(p.rolname, ', ') FROM pg_roles p
    WHERE p.rolname IN ('pg_write_all_data', 'pg_write_server_files', 'pg_read_server_files',
      'pg_execute_server_program', 'pg_signal_backend', 'pg_checkpoint', 'pg_database_owner')
      AND pg_has_role(current_user, p.oid, 'MEMBER'))
FROM pg_roles r WHERE r.rolname = current_user
"""


def quoted(name: str) -> str:
    """A name as PostgreSQL wants it, whatever is in it."""
    return '"' + name.replace('"', '""') + '"'


class PostgresqlEngine(ServerEngine):
    """One database of a PostgreSQL server."""

    name, label, program, driver = "postgresql", "PostgreSQL", "postgresql.py", "postgresql+psycopg"

    def _connect(self, seconds: float = STRUCTURE_S, tls: str | None = None) -> Any:
        at = self.at
        return psycopg.connect(
            host=at.host, port=at.port, dbname=at.database, user=at.user, password=at.password or None,
            sslmode=SSL_MODES[tls or at.tls], sslrootcert=at.ca or None, connect_timeout=CONNECT_S,
            application_name="harquel", gssencmode="disable",
            options=f"-c default_transaction_read_only=on -c statement_timeout={int(seconds * 1000)} "
            "-c lock_timeout=3000 -c TimeZone=UTC -c DateStyle=ISO",
        )  # fmt: skip

    def _limit(self, connection: sa.Connection, seconds: float) -> None:
        connection.exec_driver_sql(f"SET statement_timeout = {max(1, int(seconds * 1000))}")

    def _look(self, connection: sa.Connection) -> str:
        return str(connection.exec_driver_sql(_LOOK).scalar())

    def _replayed(self, connection: sa.Connection) -> dt.datetime | None:
        at = connection.exec_driver_sql(_REPLAYED).scalar()
        return at if isinstance(at, dt.datetime) else None

    # -- structure -------------------------------------------------------------------------------

    def _schemas(self, connection: sa.Connection) -> tuple[str, list[str | None]]:
        default = str(connection.exec_driver_sql("SELECT coalesce(current_schema(), 'public')").scalar())
        if self.at.schemas:
            wanted = list(self.at.schemas)
        else:
            found = connection.exec_driver_sql(
                f"SELECT n.nspname FROM pg_namespace n WHERE {_OURS} AND has_schema_privilege(n.oid, 'USAGE')"
            )
            wanted = sorted(row[0] for row in found)
        return default, [None if s == default else s for s in wanted]

    def _read(self, connection: sa.Connection) -> Catalog:
        default, schemas = self._schemas(connection)
        tables = read_tables(connection, schemas, generic_type)
        rights = {(r[0], r[1]): (r[2], r[4]) for r in connection.exec_driver_sql(_RIGHTS)}
        columns = {(r[0], r[1], r[2]): (_type(r[3]), r[4]) for r in connection.exec_driver_sql(_COLUMNS)}
        made = tuple(_with_rights(t, t.schema or default, rights, columns) for t in tables)
        return Catalog(self.name, made, fingerprint_of(made), utc_now(), default)

    def _sampling(self, connection: sa.Connection, table: Table, columns: Sequence[str]) -> Sampling:
        schema = table.schema or self._schemas(connection)[0]
        estimate = table.row_count
        if estimate is None or estimate <= SAMPLED_ROWS:
            few = count_some(connection, table, schema)
            if few is not None:
                return Sampling(few_rows(table, columns, True, schema), few, False, True)
        if table.kind != "table" or not estimate:
            return Sampling(few_rows(table, columns, False, schema), estimate, True, False)
        # Whole pages from all over the table: the first rows are often the oldest ones.
        share = min(100.0, 100.0 * SAMPLED_ROWS / estimate)
        part = sa.tablesample(relation(table, schema), sa.func.system(share), name="part")
        return Sampling(part, estimate, True, False)

    # -- checking --------------------------------------------------------------------------------

    def _probe(self) -> Said:
        at = self.at
        try:
            with socket.create_connection((at.host, at.port), timeout=CONNECT_S) as sock:
                sock.settimeout(CONNECT_S)
                sock.sendall(_SSL_REQUEST)
                said = sock.recv(1)
        except OSError:
            said = b""
        if said not in (b"S", b"N"):
            return failed(
                "wrong-port", f"What answers on port {at.port} is not PostgreSQL.",
                "Check the port: another program listens there. PostgreSQL's usual one is 5432.",
            )  # fmt: skip
        return tls_said(said == b"S", at.tls, at.host)

    def _explained(self, error: BaseException) -> Said:
        at, text = self.at, " ".join(str(error).split())
        low = text.lower()
        if "password authentication failed" in low or "no password supplied" in low:
            return failed(
                "wrong-password", f"The server does not accept the password of {at.user}.",
                "Check user and password, and that the reference to it holds what you expect.",
            )  # fmt: skip
        if "database" in low and "does not exist" in low:
            return failed(
                "wrong-database", f"There is no database {at.database} on this server.",
                "Check its name: upper and lower case count.",
            )  # fmt: skip
        if "role" in low and "does not exist" in low:
            return failed("wrong-password", f"There is no account {at.user}.", "Check the user's name.")
        if "no pg_hba.conf entry" in low or "pg_hba.conf rejects" in low:
            if "no encryption" in low and self._lets_in_with_tls():
                return failed(
                    "tls-required", "The server lets this account in over TLS only.",
                    "Set tls to require, or to verify with the certificate of the authority.",
                )  # fmt: skip
            return failed(
                "not-allowed-from-here", f"The server does not let {at.user} in from this machine.",
                "Add a line for it to the server's pg_hba.conf.",
            )  # fmt: skip
        if "permission denied for database" in low:
            return failed(
                "no-connect",
                f"{at.user} may not connect to {at.database}.",
                f"GRANT CONNECT ON DATABASE {quoted(at.database)} TO {quoted(at.user)};",
            )
        if "certificate" in low:
            return failed(
                "certificate", f"The server's certificate does not hold: {self._words(error)}.", "Check ca and host."
            )
        if (
            "connection refused" in low
            or "could not connect" in low
            or "closed the connection" in low
            or "timeout expired" in low
        ):
            return failed(
                "server-down", f"PostgreSQL does not answer at {at.host}:{at.port}.",
                "Check that the server is running, and host and port.",
            )  # fmt: skip
        if "too many connections" in low or "remaining connection slots" in low:
            return failed("crowded", "The server takes no more connections.", "Wait, or raise the account's limit.")
        if isinstance(error, psycopg.errors.QueryCanceled):
            return failed("slow", "The server took too long to answer.", "Try again when it is less busy.")
        return failed("refused", f"PostgreSQL says: {self._words(error)}.", "Check the fields of the source.")

    def _lets_in_with_tls(self) -> bool:
        try:
            self._connect(tls="require").close()
        except psycopg.Error as error:
            return "no pg_hba.conf entry" not in str(error)
        return True

    def _steps(self, connection: sa.Connection, policy: Policy) -> Iterator[CheckStep]:
        with timed("version") as step:
            number = int(str(connection.exec_driver_sql("SHOW server_version_num").scalar()))
            version = str(connection.exec_driver_sql("SHOW server_version").scalar()).split()[0]
            step.result = well(f"PostgreSQL {version}.")
            if number < 130000:
                step.result = warned("old-version", f"PostgreSQL {version} is old.", "Tried with 15; 13 should do.")
        yield step.made()
        with timed("clock") as step:
            before = utc_now()
            there: dt.datetime = connection.exec_driver_sql("SELECT clock_timestamp()").scalar_one()
            step.result = clock_said((there - before - (utc_now() - before) / 2).total_seconds())
        yield step.made()
        with timed("tables") as step:
            step.result = self._check_tables(policy, self._read(connection))
        yield step.made()
        role = connection.exec_driver_sql(_ROLE).one()
        with timed("administrator") as step:
            step.result = well("The account is an ordinary one.")
            if role[0]:
                step.result = warned(
                    "superuser", f"{self.at.user} is a superuser: no right of the database holds it back.",
                    "Make an account that may only read: harquel source account NAME prints the script.",
                )  # fmt: skip
        yield step.made()
        with timed("writing") as step:
            step.result = writes_said(self._write_reasons(connection, role), policy)
        yield step.made()
        with timed("time limit") as step:
            step.result = self._check_limit(connection)
        yield step.made()

    @staticmethod
    def _write_reasons(connection: sa.Connection, role: Any) -> list[str]:
        if role[0]:
            return ["superuser"]
        words = ("may make roles", "may make databases", "passes row security", "may replicate")
        reasons = [word for word, has in zip(words, role[1:5], strict=True) if has]
        tables = [row[0] for row in connection.exec_driver_sql(_WRITES)]
        if tables:
            more = f" and {len(tables) - 3} more" if len(tables) > 3 else ""
            reasons.insert(0, f"may change {', '.join(tables[:3])}{more}")
        if role[5]:
            reasons.append("may make schemas")
        if role[6]:
            reasons.append(f"may make tables in {role[6]}")
        if role[7]:
            reasons.append(f"is a member of {role[7]}")
        return reasons

    def _check_limit(self, connection: sa.Connection) -> Said:
        started = time.monotonic()
        try:
            self._limit(connection, 0.2)
            connection.exec_driver_sql("SELECT pg_sleep(2)")
        except SQLAlchemyError:
            took = time.monotonic() - started
            return well(f"A statement over its limit of 200 ms was ended by the server after {took * 1000:.0f} ms.")
        finally:
            self._limit(connection, STRUCTURE_S)
        return skipped("The server did not end a statement at its limit; the sandbox ends it by itself.")

    # -- accounts --------------------------------------------------------------------------------

    def grant(self, table: str) -> str:
        """See Engine."""
        schema, _, plain = table.rpartition(".")
        return f"GRANT SELECT ON {quoted(schema or 'public')}.{quoted(plain)} TO {quoted(self.at.user)};"

    def account_script(self, policy: Policy, account: str, whole_schema: bool, known: Catalog | None = None) -> str:
        """See Engine. It looks which tables and owners there are, if it can."""
        owners: list[tuple[str, str]] = []
        unseen: list[str] = []
        try:
            with self.connection() as connection:
                catalog = self._read(connection)
                owners = sorted({(r[0], r[3]) for r in connection.exec_driver_sql(_RIGHTS)})
        except SourceError as error:
            default = self.at.schemas[0] if self.at.schemas else "public"
            catalog = known or Catalog(self.name, (), "", utc_now(), default)
            whole_schema = whole_schema or known is None
            unseen = unseen_said(error, known is not None)
        shown = [t for t in catalog.tables if policy.shows(t.name, None) and t.columns]
        role, limits = quoted(account), policy.limits
        seen = {t.schema or catalog.default_schema for t in shown}
        schemas = sorted(seen or set(self.at.schemas) or {catalog.default_schema})
        lines = [
            f"-- An account for Harquel that may only read, on the database {self.at.database}.",
            "-- Run it as an administrator, connected to that database; put a password in the marked place.",
            *unseen,
            f"CREATE ROLE {role} LOGIN PASSWORD 'put-a-password-here' CONNECTION LIMIT 20;",
            "-- Second lines of defence; temp_file_limit can be set by an administrator only.",
            f"ALTER ROLE {role} SET default_transaction_read_only = on;",
            f"ALTER ROLE {role} SET statement_timeout = '{int(limits.query_s * 1000) + 2000}ms';",
            f"ALTER ROLE {role} SET idle_in_transaction_session_timeout = '60s';",
            f"ALTER ROLE {role} SET lock_timeout = '3s';",
            f"ALTER ROLE {role} SET temp_file_limit = '1GB';",
            f"GRANT CONNECT ON DATABASE {quoted(self.at.database)} TO {role};",
        ]
        for schema in schemas:
            lines.append(f"GRANT USAGE ON SCHEMA {quoted(schema)} TO {role};")
            if whole_schema:
                lines += _whole_schema(schema, role, [owner for place, owner in owners if place == schema])
        if not whole_schema:
            lines += _exactly(shown, policy, catalog.default_schema, role)
        return "\n".join(lines) + "\n"


def _whole_schema(schema: str, role: str, owners: list[str]) -> list[str]:
    lines = [f"GRANT SELECT ON ALL TABLES IN SCHEMA {quoted(schema)} TO {role};"]
    if owners:
        lines.append("-- Tables made later come along, whoever of these makes them:")
    place = quoted(schema)
    return lines + [
        f"ALTER DEFAULT PRIVILEGES FOR ROLE {quoted(owner)} IN SCHEMA {place} GRANT SELECT ON TABLES TO {role};"
        for owner in owners
    ]


def _exactly(tables: list[Table], policy: Policy, default_schema: str, role: str) -> list[str]:
    lines = ["-- Exactly what the policy exposes; a table made later needs a line of its own:"]
    for t in tables:
        kept = [c.name for c in t.columns if policy.shows(t.name, c.name)]
        listed = f" ({', '.join(map(quoted, kept))})" if len(kept) < len(t.columns) else ""
        place = f"{quoted(t.schema or default_schema)}.{quoted(t.plain)}"
        lines.append(f"GRANT SELECT{listed} ON {place} TO {role};")
    return lines


def tls_said(offered: bool, wanted: str, host: str) -> Said:
    """What the server's offer of TLS means for what the source wants."""
    if not offered and wanted in ("require", "verify"):
        return failed(
            "no-tls", "The server offers no TLS, and the source asks for it.",
            "Switch TLS on at the server, or set tls to prefer where the network is trusted.",
        )  # fmt: skip
    here = host in ("127.0.0.1", "::1", "localhost")
    if not offered and not here:
        return warned("plain", "The connection is not encrypted: the server offers no TLS.", "Switch TLS on there.")
    if not offered or wanted == "off":
        return well(
            "Not encrypted, on this machine." if host in ("127.0.0.1", "::1", "localhost") else "Not encrypted."
        )
    return well(
        "Encrypted" + (", the certificate checked." if wanted == "verify" else "; the certificate is not checked.")
    )


def _type(text: str) -> str:
    for long, short in _SHORT:
        text = text.replace(long, short)
    return text.upper()


def _with_rights(
    table: Table, schema: str, rights: dict[tuple[str, str], tuple[float, bool]],
    columns: dict[tuple[str, str, str], tuple[str, bool]],
) -> Table:  # fmt: skip
    """Adds what the library does not tell: exact types, rights, the planner's estimate."""
    estimate, readable = rights.get((schema, table.plain), (-1.0, True))
    made = []
    for column in table.columns:
        kind, may = columns.get((schema, table.plain, column.name), (column.type, True))
        made.append(replace(column, type=kind, readable=may))
    rows = int(estimate) if estimate >= 0 and table.kind != "view" else None
    return replace(table, columns=tuple(made), readable=readable, row_count=rows, estimated=rows is not None)
