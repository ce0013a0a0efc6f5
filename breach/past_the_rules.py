"""A grammar of its own against row rules and masks: parentheses, shadowing, laterals, sets, recursion, odd aliases.

Nothing here was taken from the honest corpus or the attacks. What somebody restricted gets must be what the cut world
gives to anybody; a refusal is right, another row is an escape.
"""

from __future__ import annotations

import random
import time
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field

from breach.restricted import Side

_COLUMNS = {
    "customer": ("id", "name", "email", "home_harbour", "joined_on"),
    "vessel": ("id", "name", "status", "built_year"),
    "incident": ("id", "sailing_id", "category", "severity"),
    "harbour": ("id", "name", "island"),
    "booking": ("id", "customer_id", "sailing_id", "channel", "total_cents"),
}
_WHOLE = {"id", "home_harbour", "built_year", "sailing_id", "severity", "customer_id", "total_cents", "n"}
_TEXTS = {"name", "email", "status", "category", "island", "channel"}
_SMALL = ("customer", "customer", "vessel", "incident", "harbour")
_FIGURES = (
    "COUNT(*)", "COUNT(DISTINCT {c})", "MIN({c})", "MAX({c})", "COUNT({c})",
    "SUM(CASE WHEN {c} IS NULL THEN 1 ELSE 0 END)",
)  # fmt: skip


@dataclass
class RestrictedReport:
    """What became of the statements; `escapes` gave other rows than the cut world, or showed what is masked."""

    engine: str
    count: int = 0
    verdicts: Counter[str] = field(default_factory=Counter)
    stumbles: int = 0
    escapes: dict[str, str] = field(default_factory=dict)


class Maze:
    """Makes statements; the same seed makes the same ones. Each gives few rows, so that many can be compared."""

    def __init__(self, engine: str, schema: str, seed: int) -> None:
        self.engine, self.schema = engine, schema
        self.pick = random.Random(f"maze:{engine}:{seed}")
        self.ctes: dict[str, tuple[str, ...]] = {}
        self.names = 0

    def statement(self) -> str:
        """One statement."""
        self.ctes, self.names = {}, 0
        body = self.figures(3)
        if self.pick.random() < 0.3:
            word = self.pick.choice(("UNION ALL", "UNION", "EXCEPT", "INTERSECT"))
            body = f"{body} {word} {self.figures(2, bare=True)}"
        return body

    def figures(self, depth: int, bare: bool = False) -> str:
        """One row of figures over something; `bare`: without a WITH of its own."""
        before = dict(self.ctes)
        head = self.with_(depth) if not bare and self.pick.random() < 0.5 else ""
        source, scope = self.source(depth)
        shown = ", ".join(f"{self.figure(scope)} AS f{i}" for i in range(2))
        text = f"{head}SELECT {shown} FROM {source}"
        if self.pick.random() < 0.5:
            text += " WHERE " + self.condition(scope, depth)
        self.ctes = before
        return text

    def figure(self, scope: list[tuple[str, str]]) -> str:
        """A figure over one column of those in scope."""
        alias, column = self.pick.choice(scope)
        return self.pick.choice(_FIGURES).format(c=f"{alias}.{column}")

    def with_(self, depth: int) -> str:
        """CTEs, named like tables more often than not; they are in `ctes` from here on."""
        parts: list[str] = []
        for _ in range(self.pick.randint(1, 2)):
            name = self.pick.choice((*_COLUMNS, *_COLUMNS, "c1", "c2", "x"))
            if any(name == p.split(" ")[0].split("(")[0] for p in parts):
                continue
            body, columns = self.rows(depth - 1)
            called = f"{name}({', '.join(columns)})" if self.pick.random() < 0.3 else name
            parts.append(f"{called} AS ({body})")
            self.ctes[name] = columns
        if self.pick.random() < 0.2:
            table = self.pick.choice(("customer", "vessel"))
            parts.append(
                f"walk AS (SELECT MIN(id) AS id, 0 AS n FROM {table} UNION ALL "
                f"SELECT t.id, w.n + 1 FROM walk w JOIN {table} t ON t.id = w.id + 1 WHERE w.n < 5)"
            )
            self.ctes["walk"] = ("id", "n")
            return f"WITH RECURSIVE {', '.join(parts)} "
        return f"WITH {', '.join(parts)} "

    def rows(self, depth: int) -> tuple[str, tuple[str, ...]]:
        """A query of many rows, and what its columns are called."""
        before = dict(self.ctes)
        head = self.with_(depth) if depth > 0 and self.pick.random() < 0.25 else ""
        source, scope = self.source(depth)
        first = self.pick.choice([c for c in scope if c[1] in _WHOLE] or [("", "")])
        second = self.pick.choice([c for c in scope if c[1] in _TEXTS] or [("", "")])
        whole, said = f"{first[0]}.{first[1]}" if first[1] else "1", f"{second[0]}.{second[1]}" if second[1] else "'x'"
        text = f"{head}SELECT {whole} AS id, {said} AS name FROM {source}"
        if self.pick.random() < 0.4:
            text += " WHERE " + self.condition(scope, depth)
        if not head and self.pick.random() < 0.15:
            table = self.pick.choice(_SMALL)
            if {first[1], second[1]} <= set(self.columns(table)):
                text += f" UNION SELECT {first[1]}, {second[1]} FROM {self.table(table)}"
        self.ctes = before
        return text, ("id", "name")

    def columns(self, table: str) -> tuple[str, ...]:
        """Of a CTE, where one shadows the table."""
        return self.ctes.get(table, _COLUMNS.get(table, ()))

    def table(self, name: str) -> str:
        """A table as one may write it."""
        if name in self.ctes:
            return name
        quote = "`" if self.engine == "mariadb" else '"'
        forms = [name, name, f"{self.schema}.{name}", f"{quote}{name}{quote}"]
        if self.engine != "mariadb":
            forms.append(name.upper())
        return self.pick.choice(forms)

    def alias(self) -> str:
        """A name of its own, or that of another table."""
        self.names += 1
        odd = [t for t in _COLUMNS if t not in self.ctes]
        return self.pick.choice((f"a{self.names}", f"a{self.names}", *odd)) if odd else f"a{self.names}"

    def source(self, depth: int) -> tuple[str, list[tuple[str, str]]]:
        """What may stand in FROM, and the columns that it brings."""
        kind = self.pick.random()
        if depth <= 0 or kind < 0.3:
            return self.one()
        if kind < 0.5:
            text, columns = self.rows(depth - 1)
            alias = self.alias()
            return f"({text}) AS {alias}", [(alias, c) for c in columns]
        left, scope = self.source(depth - 1)
        right, other = self.source(depth - 1) if self.pick.random() < 0.4 else self.one()
        if {a for a, _ in scope} & {a for a, _ in other}:
            return left, scope
        if self.engine == "postgresql" and self.pick.random() < 0.15:
            return self.lateral(left, scope)
        return self.joined(left, scope, right, other)

    def lateral(self, left: str, scope: list[tuple[str, str]]) -> tuple[str, list[tuple[str, str]]]:
        """A query that reads what stands left of it."""
        table, alias = self.pick.choice(_SMALL), f"l{self.names}"
        columns = self.columns(table)
        outer = self.pick.choice(scope)
        same = f"CAST(i.{columns[0]} AS TEXT) = CAST({outer[0]}.{outer[1]} AS TEXT)"
        inner = f"SELECT * FROM {self.table(table)} AS i WHERE {same}"
        return f"{left} CROSS JOIN LATERAL ({inner}) AS {alias}", scope + [(alias, c) for c in columns]

    def joined(
        self, left: str, scope: list[tuple[str, str]], right: str, other: list[tuple[str, str]]
    ) -> tuple[str, list[tuple[str, str]]]:
        """Two sources beside each other, in parentheses or not."""
        word = self.pick.choice(("JOIN", "LEFT JOIN", "JOIN", "LEFT JOIN", "CROSS JOIN"))
        on = ""
        if "id" not in {c for _, c in scope} or "id" not in {c for _, c in other}:
            word, on = "CROSS JOIN", ""
        if word != "CROSS JOIN":
            holder = next(a for a, c in scope if c == "id")
            on = f" ON {holder}.id = {next(a for a, c in other if c == 'id')}.id"
        if "JOIN" in right and right[0] != "(":
            right = f"({right})"
        both = f"{left} {word} {right}{on}"
        if self.pick.random() < 0.45:
            both = f"({both})"
        return both, scope + other

    def one(self) -> tuple[str, list[tuple[str, str]]]:
        """One table or CTE."""
        name = self.pick.choice((*_SMALL, *self.ctes)) if self.pick.random() < 0.85 else "booking"
        alias = self.alias() if self.pick.random() < 0.8 or name in self.ctes else ""
        written = self.table(name)
        called = alias or name
        text = f"{written} AS {alias}" if alias else written
        return text, [(called, c) for c in self.columns(name)]

    def condition(self, scope: list[tuple[str, str]], depth: int) -> str:
        """Something true or false, with subqueries that look outside."""
        alias, column = self.pick.choice(scope)
        table = self.pick.choice(_SMALL)
        key = self.columns(table)[0]
        named = self.table(table)
        choices = [
            f"{alias}.{column} IS NOT NULL", f"{alias}.{column} IS NULL",
            f"EXISTS (SELECT 1 FROM {named} AS e WHERE e.{key} = e.{key})",
            f"(SELECT COUNT(*) FROM {named} AS e) > {self.pick.randint(0, 90)}",
            f"NOT EXISTS (SELECT 1 FROM ({named} AS e CROSS JOIN vessel AS v) WHERE e.{key} IS NULL)",
        ]  # fmt: skip
        if column == "id" and key == "id":
            choices += [
                f"{alias}.id IN (SELECT e.{key} FROM {named} AS e)",
                f"{alias}.id < {self.pick.randint(2, 400)}",
            ]
        said = self.pick.choice(choices)
        if depth > 0 and self.pick.random() < 0.25:
            said = f"({said} {self.pick.choice(('AND', 'OR'))} {self.condition(scope, depth - 1)})"
        return said


def run_maze(
    engine: str, sides: tuple[Side, Side], count: int, seconds: float, progress: Callable[[str], None] | None = None,
    seed: int = 1,
) -> RestrictedReport:  # fmt: skip
    """Up to `count` statements or `seconds`, whatever comes first."""
    restricted, cut = sides
    report, maze = RestrictedReport(engine), Maze(engine, restricted.whole.default_schema, seed)
    deadline = time.monotonic() + seconds
    while report.count < count and time.monotonic() < deadline:
        # The two databases of a server have names of their own.
        sql = maze.statement()
        there = sql.replace(f"{restricted.whole.default_schema}.", f"{cut.whole.default_schema}.")
        report.count += 1
        kind, rows = restricted.answer(sql)
        report.verdicts[kind] += 1
        if kind == "refused: row-rule":
            report.stumbles += 1
        if kind != "rows":
            continue
        wanted = cut.answer(there)
        if wanted[0] != "rows":
            report.verdicts[f"elsewhere {wanted[0]}"] += 1
        elif Counter(rows) != Counter(wanted[1]):
            report.escapes[sql] = f"{rows[:3]} instead of {wanted[1][:3]}"
        if "@" in str(rows):
            report.escapes[sql] = f"a masked value: {rows[:3]}"
        if progress is not None and report.count % 4000 == 0:
            progress(f"{engine}, past the rules: {report.count:,} of {count:,}")
    return report
