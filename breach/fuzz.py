"""Statements from a grammar, honest parts and attacks mixed: whatever the guard lets run, the sandbox bears.

The grammar makes SQL that mostly parses, over the tables of the demo and over what must not be touched.
"""

from __future__ import annotations

import random
import time
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field

from breach.attack import POLICY
from breach.corpus import attacks, honest
from breach.targets import Target
from harquel.core.domain.statements import DraftedStatement
from harquel.core.errors import SandboxError
from harquel.core.guard import rule_on_text
from harquel.core.sandbox import Sandbox, SandboxLimits
from harquel.core.scanning import CatalogKeeper

_TABLES = {
    "harbour": "id name code island latitude has_ramp", "vessel": "id name built_year status",
    "route": "id code active",
    "customer": "id name email phone joined_on is_staff", "booking": "id customer_id sailing_id status total_cents",
    "crew_member": "id name rank manager_id phone", "incident": "id category severity note",
    "sqlite_master": "name sql", "pg_class": "relname oid", "mysql.user": "User Password", "hidden.secret": "secret",
    "information_schema.tables": "table_name table_schema", "pg_catalog.pg_authid": "rolname rolpassword",
}  # fmt: skip
_FUNCTIONS = (
    "COUNT SUM MAX MIN UPPER LOWER LENGTH COALESCE ROUND ABS pg_sleep SLEEP load_extension randomblob pg_read_file "
    "LOAD_FILE set_config nextval lo_import GET_LOCK BENCHMARK query_to_xml sneaky public.sneaky REPEAT printf "
    "pg_terminate_backend current_setting VERSION DATABASE zeroblob writefile"
).split()
_TAILS = (
    "", "", "", "", " LIMIT 3", " ORDER BY 1", " FOR UPDATE", " INTO OUTFILE '/tmp/harquel-attack-f'",
    "; DELETE FROM booking",
    " UNION SELECT email FROM customer", " UNION ALL SELECT 1", " /*! INTO @x */", " -- x", " OFFSET 1",
    ";", " INTO loot",
    " LOCK IN SHARE MODE", " PROCEDURE ANALYSE()", " FETCH FIRST 2 ROWS ONLY", " WINDOW w AS (ORDER BY 1)",
)  # fmt: skip
_HEADS = (
    "", "", "", "", "EXPLAIN ", "EXPLAIN ANALYZE ", "WITH c AS (SELECT 1 AS x) ", "(", "/**/", "DO ",
    "WITH c AS (DELETE FROM booking RETURNING id) ", "CREATE TABLE loot AS ", "INSERT INTO vessel ",
    "SET STATEMENT max_statement_time=0 FOR ",
)  # fmt: skip


@dataclass
class FuzzReport:
    """What became of the statements; `stumbles` are those over which the guard itself broke."""

    engine: str
    count: int = 0
    verdicts: Counter[str] = field(default_factory=Counter)
    stumbles: int = 0
    escapes: dict[str, str] = field(default_factory=dict)


class Grammar:
    """Makes statements; the same seed makes the same ones."""

    def __init__(self, engine: str, seed: int) -> None:
        self.random = random.Random(f"{engine}:{seed}")
        self.corpus = [*honest(engine), *(a.sql for a in attacks(engine) if a.kind != "resource")]

    def statement(self) -> str:
        """One statement: from the grammar, or two of the corpus grown together."""
        pick = self.random
        if pick.random() < 0.35:
            one, two = (pick.choice(self.corpus).split(" ") for _ in range(2))
            return " ".join(one[: pick.randint(1, len(one))] + two[pick.randint(0, len(two) - 1) :])
        return pick.choice(_HEADS) + self.query(2) + pick.choice(_TAILS)

    def query(self, depth: int) -> str:
        """A SELECT."""
        pick = self.random
        table = pick.choice(list(_TABLES))
        columns = _TABLES[table].split()
        shown = ", ".join(self.expression(columns, depth) for _ in range(pick.randint(1, 3)))
        source = table if depth == 0 or pick.random() < 0.7 else f"({self.query(depth - 1)}) AS q"
        text = f"SELECT {pick.choice(('', '', '', 'DISTINCT ', 'ALL '))}{shown} FROM {source}"
        if pick.random() < 0.3:
            other = pick.choice(list(_TABLES))
            text += f" {pick.choice(('JOIN', 'LEFT JOIN', 'CROSS JOIN', ','))} {other} AS o"
            text += " ON " + self.condition(columns, depth) if pick.random() < 0.7 else ""
        if pick.random() < 0.5:
            text += " WHERE " + self.condition(columns, depth)
        if pick.random() < 0.2:
            text += " GROUP BY " + pick.choice(columns)
        return text

    def expression(self, columns: list[str], depth: int) -> str:
        """Something that has a value."""
        pick, column = self.random, self.random.choice(columns)
        if depth <= 0:
            return column
        return pick.choice(
            (
                column, "*", "1", "'x'", f"{pick.choice(_FUNCTIONS)}({self.expression(columns, depth - 1)})",
                f"CASE WHEN {self.condition(columns, depth - 1)} THEN {column} END", f"({self.query(depth - 1)})",
                f"CAST({column} AS {pick.choice(('INT', 'TEXT', 'regclass', 'DATE', 'CHAR', 'spelt'))})",
                f"{column} || '{pick.choice(('a', '; DROP', '--'))}'", "@x := 1", f"{column} COLLATE nocase",
                f"SUM({column}) OVER (PARTITION BY {pick.choice(columns)})", '"email"', "$$x$$", "E'\\''", "0x41",
            )
        )  # fmt: skip

    def condition(self, columns: list[str], depth: int) -> str:
        """Something that is true or false."""
        pick, column = self.random, self.random.choice(columns)
        plain = (f"{column} = 1", f"{column} LIKE 'a%'", f"{column} IS NULL", f"{column} IN (1, 2)", "1 = 1")
        if depth <= 0:
            return pick.choice(plain)
        return pick.choice(
            (*plain, f"{column} IN ({self.query(depth - 1)})", f"EXISTS ({self.query(depth - 1)})",
             f"{self.expression(columns, depth - 1)} = 1", f"NOT {self.condition(columns, depth - 1)}",
             f"{self.condition(columns, depth - 1)} OR {self.condition(columns, depth - 1)}")
        )  # fmt: skip


def run_fuzz(target: Target, count: int, seconds: float, progress: Callable[[str], None]) -> FuzzReport:
    """Up to `count` statements or `seconds`, whatever comes first."""
    report, grammar = FuzzReport(target.name), Grammar(target.name, 1)
    whole = CatalogKeeper(target.engine, lambda: POLICY).current()
    catalog = POLICY.visible(whole)
    sandbox = Sandbox(target.engine, SandboxLimits.of(POLICY.limits))
    secrets, before, trace = target.secrets(), target.state(), target.trace()
    long_secrets = [s for s in secrets if len(s) > 8]
    deadline = time.monotonic() + seconds
    try:
        while report.count < count and time.monotonic() < deadline:
            sql = grammar.statement()
            report.count += 1
            ruled = rule_on_text(DraftedStatement(sql), target.name, catalog, POLICY, whole=whole)
            if ruled.statement is None:
                report.stumbles += ruled.ruling.reason.endswith("not known here.")
                report.verdicts["refused"] += 1
            else:
                try:
                    rows = sandbox.run(ruled.statement).rows
                    report.verdicts["ran"] += 1
                    text = repr(rows)
                    if any(s in text for s in long_secrets):
                        report.escapes[sql] = "showed what the policy withholds"
                except SandboxError as error:
                    report.verdicts[f"ended: {error.fault}"] += 1
                if (now := target.trace()) != trace:
                    report.escapes[sql], trace = "changed locks, files or another session", now
            if report.count % 2000 == 0:
                progress(f"{target.name}, generated: {report.count:,} of {count:,}")
        if target.state() != before:
            report.escapes["one of those generated"] = "changed the database"
    finally:
        sandbox.close()
    return report
