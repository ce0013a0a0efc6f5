"""Two worlds of one engine for whoever is restricted: the whole one, and one from which the rest was taken away.

What somebody gets under a policy from the first must be what anybody gets without one from the second.
"""

from __future__ import annotations

import shutil
import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from functools import cached_property
from pathlib import Path
from typing import Any

from harquel.core.domain.catalog import Catalog
from harquel.core.domain.person import Person
from harquel.core.domain.policy import ColumnTreatment, Limits, Personal, Policy, RowRule
from harquel.core.domain.statements import DraftedStatement
from harquel.core.domain.terms import Terms
from harquel.core.engines import Engine, engine_for
from harquel.core.engines.sqlite import SqliteEngine
from harquel.core.errors import SandboxError
from harquel.core.guard import TextRuling, rule_on_text
from harquel.core.sandbox import Sandbox, SandboxLimits
from harquel.core.scanning import CatalogKeeper
from harquel.demo.load_servers import READER, READER_PASSWORD, load_mariadb, load_postgresql
from harquel.demo.load_sqlite import load
from harquel.demo.servers import Mariadb, Postgresql

LIMITS = Limits(rows=5000, query_s=20)
MINE = "home_harbour IN (SELECT id FROM harbour WHERE island IN (:islands))"
POLICY = Policy(
    withhold_delicate=False,
    personal=Personal(
        treatments=(
            ColumnTreatment(column="customer.email", treatment="mask"),
            ColumnTreatment(column="customer.joined_on", treatment="mask"),
        )
    ),
    rows=(
        RowRule(table="customer", where=MINE, unless=("head-office",)),
        RowRule(table="booking", where=f"customer_id IN (SELECT id FROM customer WHERE {MINE})"),
        RowRule(table="incident", where="severity <= :level"),
        RowRule(table="vessel", where="id <> 3"),
    ),
    limits=LIMITS,
)
CLERK = Person("Ada Brinewell", frozenset({"clerk"}), {"islands": ("Marrow", "Ember"), "level": 3})
CUT = (
    "DELETE FROM booking WHERE customer_id NOT IN (SELECT id FROM customer WHERE home_harbour IN "
    "(SELECT id FROM harbour WHERE island IN ('Marrow', 'Ember')))",
    "DELETE FROM customer WHERE home_harbour NOT IN (SELECT id FROM harbour WHERE island IN ('Marrow', 'Ember'))",
    "DELETE FROM incident WHERE severity > 3",
    "DELETE FROM vessel WHERE id = 3",
)
MASK = "UPDATE customer SET email = '•••', joined_on = NULL"
Server = Postgresql | Mariadb | None


class Side:
    """One of the two databases, asked under a policy by somebody."""

    def __init__(self, policy: Policy, person: Person, whole: Catalog, sandbox: Sandbox) -> None:
        self.policy, self.person, self.whole, self.sandbox = policy, person, whole, sandbox

    def __repr__(self) -> str:
        # What was found to be wrong is said beside it, and read by people.
        return f"{self.person.name} on {self.whole.engine}"

    @cached_property
    def visible(self) -> Catalog:
        """What exists for the person."""
        return Terms(self.policy, self.person).visible(self.whole)

    def ruled(self, sql: str) -> TextRuling:
        """What the guard says."""
        return rule_on_text(
            DraftedStatement(sql), self.whole.engine, self.visible, self.policy, self.person, self.whole
        )

    def answer(self, sql: str) -> tuple[str, list[tuple[str, ...]]]:
        """The rows, or the kind of error."""
        ruled = self.ruled(sql)
        if ruled.statement is None:
            return f"refused: {ruled.findings[0].rule}", []
        try:
            return "rows", [tuple(map(plain, row)) for row in self.sandbox.run(ruled.statement).rows]
        except SandboxError as error:
            return f"error: {error.fault}", []


def plain(value: Any) -> str:
    """Figures to six digits."""
    try:
        return f"{float(value):.6g}"
    except (TypeError, ValueError):
        return str(value)


@contextmanager
def two_sides(
    engine: str, folder: Path, server: Server = None, scale: float = 0.1, seconds: float = 20
) -> Iterator[tuple[Side, Side]]:
    """(restricted on the whole world, unrestricted on the cut one); `server` for engines that have one."""
    engines = dict(zip(("whole", "cut"), _ENGINES[engine](server, folder, scale), strict=True))
    made = []
    for name, each in engines.items():
        policy, person = (
            (POLICY, CLERK) if name == "whole" else (Policy(withhold_delicate=False, limits=LIMITS), Person())
        )
        whole = CatalogKeeper(each, lambda policy=policy: policy).current()  # type: ignore[misc]
        made.append(
            Side(
                policy,
                person,
                whole,
                Sandbox(each, SandboxLimits.of(LIMITS.model_copy(update={"query_s": seconds})), size=1),
            )
        )
    try:
        yield made[0], made[1]
    finally:
        for side, each in zip(made, engines.values(), strict=True):
            side.sandbox.close()
            each.close()


def _sqlite(_: Any, folder: Path, scale: float) -> tuple[Engine, Engine]:
    paths = folder / "whole.db", folder / "cut.db"
    load(paths[0], scale)
    shutil.copyfile(*paths)
    connection = sqlite3.connect(paths[1])
    # The column takes no null in the demo; the mask does.
    connection.executescript(
        "PRAGMA writable_schema = ON;"
        "UPDATE sqlite_master SET sql = REPLACE(sql, 'NOT NULL', '') WHERE name = 'customer'"
    )
    connection.close()
    connection = sqlite3.connect(paths[1])
    connection.executescript(";".join((*CUT, MASK)))
    connection.close()
    return SqliteEngine(paths[0]), SqliteEngine(paths[1])


def _postgresql(server: Any, folder: Path, scale: float) -> tuple[Engine, Engine]:
    load_postgresql(server, "rules_whole", scale)
    server.run("CREATE DATABASE rules_cut TEMPLATE rules_whole")
    with server.connect("rules_cut") as connection:
        connection.execute("SET session_replication_role = replica")
        connection.execute("ALTER TABLE customer ALTER COLUMN joined_on DROP NOT NULL")
        for statement in (*CUT, MASK):
            connection.execute(statement)
    urls = [server.url(name, READER, READER_PASSWORD) for name in ("rules_whole", "rules_cut")]
    return engine_for(urls[0], folder), engine_for(urls[1], folder)


def _mariadb(server: Any, folder: Path, scale: float) -> tuple[Engine, Engine]:
    load_mariadb(server, "rules_whole", scale)
    load_mariadb(server, "rules_cut", like="rules_whole")
    with server.connect("rules_cut") as connection, connection.cursor() as cursor:
        cursor.execute("SET foreign_key_checks = 0")
        cursor.execute("ALTER TABLE customer MODIFY joined_on DATE NULL")
        for statement in (*CUT, MASK):
            cursor.execute(statement)
        connection.commit()
    urls = [server.url(name, READER, READER_PASSWORD) for name in ("rules_whole", "rules_cut")]
    return engine_for(urls[0], folder), engine_for(urls[1], folder)


_ENGINES = {"sqlite": _sqlite, "postgresql": _postgresql, "mariadb": _mariadb}
