"""The three databases under attack: the demo world, an account that owns the tables, and things worth attacking.

`state` is the oracle: whatever an escape could have changed, asked of the server itself by an administrator.
"""

from __future__ import annotations

import hashlib
import sqlite3
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor, wait
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import psycopg
import pymysql
from psycopg.types.string import TextLoader

from harquel.core.engines import Engine, engine_for
from harquel.core.engines.sqlite import SqliteEngine
from harquel.demo.load_servers import load_mariadb, load_postgresql
from harquel.demo.load_sqlite import load
from harquel.demo.servers import Mariadb, Postgresql

OWNER, OWNER_PASSWORD = "quartermaster", "may-write"
SCALE = 0.2
State = dict[str, str]
_TEXTS = ("interval", "date", "timestamp", "timestamptz", "time", "timetz", "json", "jsonb")


SECRETS = (
    "SELECT email, phone FROM customer", "SELECT phone FROM crew_member",
    "SELECT name FROM customer WHERE name NOT IN (SELECT name FROM crew_member)",
)  # fmt: skip


def _digest(parts: Any) -> str:
    return hashlib.sha256(repr(parts).encode()).hexdigest()[:20]


def _files() -> str:
    return _digest(sorted(f.name for f in Path("/tmp").iterdir() if "harquel-attack" in f.name))


class Target:
    """One database under attack."""

    engine: Engine
    name = ""
    functions: tuple[str, ...] = ()
    """Functions with effects that somebody put into the database; no policy names them."""

    def state(self) -> State:
        """What an escape could have changed, by name."""
        raise NotImplementedError

    def trace(self) -> State:
        """The part of the state that a later attack could cover up: asked after each one."""
        raise NotImplementedError

    def secrets(self) -> frozenset[str]:
        """Values that nobody may get to see under the policy of the attacks."""
        values: set[str] = set()
        for sql in SECRETS:
            values |= {str(v) for row in self.original(sql)[1] for v in row if v is not None}
        return frozenset(values)

    def original(self, sql: str) -> tuple[list[str], list[tuple[Any, ...]]]:
        """What the bare driver makes of a query, with the session's settings of the sandbox."""
        raise NotImplementedError

    def connections(self) -> int:
        """Sessions of the sandbox that the server still has."""
        return 0

    def running(self) -> int:
        """Statements of the sandbox that the server works on right now."""
        return 0

    def close(self) -> None:
        """Ends what was opened."""
        self.engine.close()


class SqliteTarget(Target):
    """A file beside which nothing may appear."""

    name = "sqlite"

    def __init__(self, folder: Path) -> None:
        self.path = folder / "under-attack.db"
        load(self.path, SCALE)
        self.engine = SqliteEngine(self.path)

    def state(self) -> State:
        """The file's digest, the files around it, and whether anybody may write at once."""
        writer = sqlite3.connect(self.path, timeout=0.2)
        try:
            writer.execute("BEGIN IMMEDIATE")
            writer.rollback()
            lock = "free"
        except sqlite3.OperationalError:
            lock = "held"
        finally:
            writer.close()
        whole = hashlib.sha256(self.path.read_bytes()).hexdigest()[:20]
        return {"data": whole, "locks": lock, **self.trace()}

    def trace(self) -> State:
        """Files that came or went beside it, in the root and in the temporary folder."""
        around = sorted(f.name for d in (self.path.parent, Path("/")) for f in d.iterdir())
        return {"files": _digest(around) + _files()}

    def original(self, sql: str) -> tuple[list[str], list[tuple[Any, ...]]]:
        """By the standard library."""
        connection = sqlite3.connect(f"file:{self.path}?mode=ro", uri=True)
        try:
            # SQLite does not take a parenthesis around a whole statement; the guard takes it off.
            cursor = connection.execute(sql[1:-1] if sql.startswith("(") and sql.endswith(")") else sql)
            return [d[0] for d in cursor.description], cursor.fetchall()
        finally:
            connection.close()


class PostgresqlTarget(Target):
    """A server with a sequence, a large object, functions with effects, a hidden schema, and a session that listens."""

    name = "postgresql"
    functions = ("sneaky", "innocent")

    def __init__(self, folder: Path) -> None:
        self.server = Postgresql(folder / "postgresql")
        self.server.__enter__()
        load_postgresql(self.server, scale=SCALE)
        with self.server.connect("ferries") as admin:
            admin.execute(f"CREATE ROLE {OWNER} LOGIN PASSWORD '{OWNER_PASSWORD}'")
            admin.execute(f"GRANT ALL ON SCHEMA public TO {OWNER}; GRANT ALL ON DATABASE ferries TO {OWNER}")
            admin.execute(f"CREATE SCHEMA hidden AUTHORIZATION {OWNER}")
            for (table,) in admin.execute("SELECT tablename FROM pg_tables WHERE schemaname = 'public'").fetchall():
                admin.execute(f'ALTER TABLE "{table}" OWNER TO {OWNER}')
            admin.execute(f"ALTER VIEW route_day OWNER TO {OWNER}; SET ROLE {OWNER}")
            admin.execute("CREATE TABLE hidden.secret (secret text); INSERT INTO hidden.secret VALUES ('x')")
            admin.execute("CREATE SEQUENCE booking_number START 500")
            admin.execute("SELECT nextval('booking_number'), lo_from_bytea(4710, 'cargo')")
            admin.execute(
                "CREATE FUNCTION sneaky() RETURNS int LANGUAGE sql AS 'UPDATE public.vessel SET name = name || 1; "
                "SELECT 1'"
            )
            admin.execute(
                "CREATE FUNCTION innocent(int) RETURNS int IMMUTABLE LANGUAGE plpgsql AS "
                "'BEGIN RETURN public.sneaky(); END'"
            )
            admin.execute("CREATE PROCEDURE sweep() LANGUAGE sql AS 'DELETE FROM public.booking'")
            admin.execute("CREATE FUNCTION plus3(int, int) RETURNS int LANGUAGE sql AS 'SELECT public.sneaky()'")
            admin.execute("CREATE OPERATOR public.|+| (LEFTARG = int, RIGHTARG = int, FUNCTION = plus3)")
            admin.execute("CREATE DOMAIN spelt AS text CHECK (public.sneaky() > 0)")
        url = self.server.url("ferries", OWNER, OWNER_PASSWORD)
        self.engine = engine_for(url, folder)
        self.admin = self.server.connect("ferries")
        self.canary = psycopg.connect(url, autocommit=True)
        self.canary.execute("LISTEN harquel")
        self.reference = psycopg.connect(
            url,
            autocommit=True,
            options="-c default_transaction_read_only=on -c TimeZone=UTC -c IntervalStyle=iso_8601",
        )
        for kind in _TEXTS:
            self.reference.adapters.register_loader(kind, TextLoader)

    def state(self) -> State:
        """Rows, structure, sequences, large objects, rights, settings, locks, files and the other session."""
        ask = self._ask
        tables = [t for (t,) in ask("SELECT tablename FROM pg_tables WHERE schemaname = 'public' ORDER BY 1")]
        rows = [ask(f'SELECT COUNT(*), SUM(hashtextextended(t::text, 0)) FROM public."{t}" t') for t in tables]
        return {
            "data": _digest(rows),
            "structure": _digest(
                ask(
                    "SELECT oid, relname, relkind, relnatts, relacl::text, relfilenode FROM pg_class "
                    "WHERE relnamespace IN (SELECT oid FROM pg_namespace WHERE nspname NOT LIKE 'pg_toast%' "
                    "AND nspname <> 'information_schema') ORDER BY oid"
                )
                + ask("SELECT oid, proname FROM pg_proc WHERE oid > 16383 ORDER BY oid")
            ),
            "sequences": _digest(ask("SELECT last_value, is_called FROM public.booking_number")),
            "large objects": _digest(ask("SELECT loid, pageno, data FROM pg_largeobject ORDER BY 1, 2")),
            "settings": _digest(
                ask("SELECT name, setting FROM pg_settings WHERE name NOT LIKE 'transaction%' ORDER BY 1")
                + ask("SELECT setdatabase, setrole, setconfig FROM pg_db_role_setting ORDER BY 1, 2")
                + ask("SELECT pg_conf_load_time()")
            ),
            "prepared": _digest(ask("SELECT gid FROM pg_prepared_xacts")),
            "folder": _digest(ask("SELECT pg_ls_dir('.') ORDER BY 1")),
            **self.trace(),
        }

    def trace(self) -> State:
        """Locks that are still held, the other session, files."""
        held = "SELECT locktype, mode FROM pg_locks WHERE locktype = 'advisory' AND granted"
        return {"locks": _digest(self._ask(held)), "other sessions": self._canary_state(), "files": _files()}

    def connections(self) -> int:
        """See Target."""
        ((count,),) = self._ask(
            f"SELECT COUNT(*) FROM pg_stat_activity WHERE usename = '{OWNER}' AND application_name = 'harquel'"
        )
        return int(count)

    def running(self) -> int:
        """See Target."""
        ((count,),) = self._ask(
            f"SELECT COUNT(*) FROM pg_stat_activity WHERE usename = '{OWNER}' AND state = 'active' "
            "AND application_name = 'harquel'"
        )
        return int(count)

    def _ask(self, sql: str) -> list[tuple[Any, ...]]:
        return list(self.admin.execute(sql).fetchall())

    def _canary_state(self) -> str:
        try:
            heard = list(self.canary.notifies(timeout=0, stop_after=1))
            self.canary.execute("SELECT 1")
        except psycopg.Error as error:
            self.canary = psycopg.connect(self.server.url("ferries", OWNER, OWNER_PASSWORD), autocommit=True)
            self.canary.execute("LISTEN harquel")
            return f"ended: {error}"
        return f"heard {heard}" if heard else "at peace"

    def original(self, sql: str) -> tuple[list[str], list[tuple[Any, ...]]]:
        """By psycopg."""
        cursor = self.reference.execute(sql)
        return [d.name for d in cursor.description or ()], cursor.fetchall()

    def close(self) -> None:
        """Ends the server too."""
        super().close()
        for connection in (self.admin, self.canary, self.reference):
            connection.close()
        self.server.stop()


class MariadbTarget(Target):
    """A server with a sequence, functions with effects, a hidden schema, and an account that may write files."""

    name = "mariadb"
    functions = ("sneaky",)

    def __init__(self, folder: Path) -> None:
        self.server = Mariadb(folder / "mariadb")
        self.server.__enter__()
        load_mariadb(self.server, scale=SCALE)
        with self.server.connect("ferries") as admin, admin.cursor() as cursor:
            for statement in (
                f"CREATE USER '{OWNER}'@'%' IDENTIFIED BY '{OWNER_PASSWORD}'",
                "CREATE DATABASE hidden", "CREATE TABLE hidden.secret (secret TEXT)",
                "INSERT INTO hidden.secret VALUES ('x')",
                f"GRANT ALL ON ferries.* TO '{OWNER}'@'%'", f"GRANT ALL ON hidden.* TO '{OWNER}'@'%'",
                f"GRANT FILE, PROCESS ON *.* TO '{OWNER}'@'%'",
                "SET GLOBAL log_bin_trust_function_creators = 1",
                "CREATE SEQUENCE booking_number START WITH 500", "SELECT NEXTVAL(booking_number)",
                "CREATE FUNCTION sneaky() RETURNS INT "
                "BEGIN UPDATE vessel SET built_year = built_year + 1; RETURN 1; END",
                "CREATE PROCEDURE sweep() DELETE FROM booking",
            ):  # fmt: skip
                cursor.execute(statement)
                cursor.fetchall()
            admin.commit()
        self.url = self.server.url("ferries", OWNER, OWNER_PASSWORD)
        self.engine = engine_for(self.url, folder)
        self.admin = self.server.connect("ferries")
        self.canary = self._connect()
        self.reference = self._connect()
        self.plain = self._connect()
        self._own = 3
        with self.reference.cursor() as cursor:
            cursor.execute(
                "SET SESSION sql_mode='STRICT_ALL_TABLES,ONLY_FULL_GROUP_BY,NO_ZERO_DATE,NO_ZERO_IN_DATE,"
                "ERROR_FOR_DIVISION_BY_ZERO,NO_ENGINE_SUBSTITUTION,PIPES_AS_CONCAT', time_zone='+00:00', "
                "div_precision_increment=12, group_concat_max_len=1048576"
            )

    def _connect(self) -> Any:
        return pymysql.connect(
            host="127.0.0.1", port=self.server.port, user=OWNER, password=OWNER_PASSWORD, database="ferries",
            charset="utf8mb4", autocommit=True, ssl_disabled=True,
        )  # fmt: skip

    def state(self) -> State:
        """Rows, structure, sequences, settings, rights, locks, files and the other session."""
        ask = self._ask
        tables = [t for (t,) in ask("SELECT table_name FROM information_schema.tables WHERE table_schema = 'ferries' "
                                    "AND table_type = 'BASE TABLE' ORDER BY 1")]  # fmt: skip
        return {
            "data": _digest([ask(f"CHECKSUM TABLE `{t}`") for t in tables]),
            "structure": _digest(
                ask("SELECT table_schema, table_name, table_type, create_time FROM information_schema.tables "
                    "WHERE table_schema NOT IN ('information_schema', 'performance_schema', 'sys') ORDER BY 1, 2")
                + ask("SELECT routine_name, created FROM information_schema.routines WHERE routine_schema = 'ferries'")
                + ask("SELECT event_name FROM information_schema.events")
            ),
            "sequences": _digest(ask("SELECT next_not_cached_value FROM booking_number")),
            "settings": _digest(
                ask("SELECT variable_name, variable_value FROM information_schema.global_variables "
                    "WHERE variable_name NOT LIKE 'gtid%' AND variable_name NOT LIKE '%timestamp%' ORDER BY 1")
            ),
            "rights": _digest(ask("SELECT user, host, priv FROM mysql.global_priv ORDER BY 1, 2")
                              + ask("SELECT * FROM mysql.db ORDER BY 1, 2, 3")),
            "folder": _digest(sorted(f.name for f in (self.server.folder).rglob("*") if f.is_file() and not
                                    f.name.startswith(("aria_log", "ib_logfile", "#sql", "ibtmp")))),
            **self.trace(),
        }  # fmt: skip

    def trace(self) -> State:
        """Locks that are still held, the other session, files."""
        free = str(self._ask("SELECT IS_FREE_LOCK('harquel')"))
        return {"locks": free, "other sessions": self._canary_state(), "files": _files()}

    def connections(self) -> int:
        """See Target; the sessions of the oracle itself, and the look of the engine, do not count."""
        ((count,),) = self._ask(f"SELECT COUNT(*) FROM information_schema.processlist WHERE user = '{OWNER}'")
        return int(count) - self._own

    def running(self) -> int:
        """See Target."""
        ((count,),) = self._ask(
            f"SELECT COUNT(*) FROM information_schema.processlist WHERE user = '{OWNER}' "
            "AND info LIKE '%weather_reading%' AND command = 'Query'"
        )
        return int(count)

    def _ask(self, sql: str) -> list[tuple[Any, ...]]:
        with self.admin.cursor() as cursor:
            cursor.execute(sql)
            return list(cursor.fetchall())

    def _canary_state(self) -> str:
        try:
            with self.canary.cursor() as cursor:
                cursor.execute("SELECT 1")
        except pymysql.Error as error:
            self.canary = self._connect()
            return f"ended: {error}"
        return "at peace"

    def original(self, sql: str) -> tuple[list[str], list[tuple[Any, ...]]]:
        """By pymysql; beside && the pipes are OR, as in a session that nobody has set otherwise."""
        ors = "&&" in sql
        with (self.plain if ors else self.reference).cursor() as cursor:
            cursor.execute(sql)
            return [d[0] for d in cursor.description or ()], list(cursor.fetchall())

    def close(self) -> None:
        """Ends the server too."""
        super().close()
        for connection in (self.admin, self.canary, self.reference, self.plain):
            connection.close()
        self.server.stop()


@contextmanager
def targets(folder: Path, wanted: tuple[str, ...]) -> Iterator[list[Target]]:
    """Those engines, started beside each other; ended after the block."""
    makers = {"sqlite": SqliteTarget, "postgresql": PostgresqlTarget, "mariadb": MariadbTarget}
    # The kernel ends a server when the thread that started it ends: the threads stay until the end.
    with ThreadPoolExecutor(len(wanted)) as starters:
        orders = [starters.submit(makers[name], folder) for name in wanted]
        wait(orders)
        made = [order.result() for order in orders if order.exception() is None]
        try:
            for order in orders:
                order.result()
            yield made
        finally:
            for target in made:
                target.close()
