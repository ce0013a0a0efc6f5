"""Connects tables along the keys that the prompt declares, cheapest way first."""

from __future__ import annotations

import heapq
from dataclasses import dataclass, field

from .prompt import Prompt, Table
from .words import stems


class NoPath(Exception):
    """Two tables cannot be connected by what the prompt declares."""


@dataclass(frozen=True)
class Step:
    """`table.column` = `target.key`; `down` when the key lies on the far side (one to many)."""

    table: str
    column: str
    target: str
    key: str
    down: bool


@dataclass
class JoinTree:
    """Grows from one table. `role_words` are words of the question that can name a key's role."""

    prompt: Prompt
    base: str
    role_words: frozenset[str]
    pairing: bool = False
    """Whether the question speaks of two ends ("between … and …")."""
    clauses: list[str] = field(default_factory=list)
    aliases: dict[str, list[str]] = field(default_factory=dict)
    fans_out: bool = False

    def __post_init__(self) -> None:
        self.quote = self.prompt.dialect.quote
        self.aliases[self.base] = [self.base]

    def reach(self, table: str, via: str | None = None, both: bool = False) -> list[str]:
        """Joins a table and returns its aliases: several when it is reached by keys of equal standing.

        `via` is a key column by which it must be reached, `both` asks for all such keys.
        """
        if table in self.aliases and via is None:
            return self.aliases[table]
        if via is not None:
            owner = self._owner(via, table)
            self.reach(owner)
            return [self._join(Step(owner, via, table, self.prompt.tables[owner].links[via][1], False))]
        steps = self._path(table)
        for step in steps[:-1]:
            self._join(step)
        final = steps[-1]
        twins = [
            Step(final.table, c, t, k, False)
            for c, (t, k) in self.prompt.tables[final.table].links.items()
            if t == final.target and not final.down
        ]
        if both and len(twins) > 1 and not self._role_said(final.column, final.target, strictly=True):
            made = [self._join(step, alias=_role(step.column)) for step in twins]
            self.aliases[table] = made
            return made
        return [self._join(final)]

    def keys_to(self, via: str, table: str) -> list[str]:
        """The keys to follow from the base to a table by a key of another, each to one row. Raises NoPath."""
        owner = self._owner(via, table)
        steps = [] if owner == self.base else self._path(owner)
        if any(step.down for step in steps):
            raise NoPath(f"rows of {self.base} lead to many of {owner}")
        return [*(step.column for step in steps), via]

    def _owner(self, via: str, table: str) -> str:
        owners = [t.name for t in self.prompt.tables.values() if t.links.get(via, ("", ""))[0] == table]
        if not owners:
            raise NoPath(f"no key {via} leads to {table}")
        return min(owners, key=lambda name: (name not in self.aliases, self.distance(name)))

    def distance(self, table: str) -> float:
        """How far away a table is; infinite when it cannot be reached."""
        if table in self.aliases:
            return 0
        try:
            return sum(4 if s.down else 1 for s in self._path(table))
        except NoPath:
            return float("inf")

    def _role_said(self, column: str, target: str, strictly: bool = False) -> bool:
        role = [s for s in stems(column) if s not in stems(target) and s != "id"]
        if self.pairing and not strictly and any(r in ("from", "to") for r in role):
            return True
        return (not role and not strictly) or any(r in self.role_words for r in role)

    def _edges(self, name: str) -> list[tuple[int, Step]]:
        table: Table = self.prompt.tables[name]
        edges = []
        for column, (target, key) in table.links.items():
            if target in self.prompt.tables:
                cost = 1 if self._role_said(column, target) else 3
                edges.append((cost, Step(name, column, target, key, False)))
        for other in self.prompt.tables.values():
            for column, (target, key) in other.links.items():
                if target == name and other.name != name:
                    edges.append((5, Step(name, key, other.name, column, True)))
        return edges

    def _path(self, table: str) -> list[Step]:
        if table not in self.prompt.tables:
            raise NoPath(f"there is no table {table}")
        waiting: list[tuple[int, int, str, list[Step]]] = []
        count = 0
        for start in self.aliases:
            heapq.heappush(waiting, (0, count, start, []))
            count += 1
        seen: set[str] = set()
        while waiting:
            cost, _, name, steps = heapq.heappop(waiting)
            if name == table and steps:
                return steps
            if name in seen:
                continue
            seen.add(name)
            for extra, step in self._edges(name):
                count += 1
                heapq.heappush(waiting, (cost + extra, count, step.target, [*steps, step]))
        raise NoPath(f"nothing connects {self.base} with {table}")

    def _join(self, step: Step, alias: str | None = None) -> str:
        if step.target in self.aliases and alias is None:
            alias = _role(step.column)
            if alias in self.aliases[step.target]:
                return alias
        name = alias or step.target
        written = self.quote(step.target) if name == step.target else f"{self.quote(step.target)} AS {self.quote(name)}"
        near = self.aliases[step.table][0]
        there, here = f"{self.quote(name)}.{self.quote(step.key)}", f"{self.quote(near)}.{self.quote(step.column)}"
        self.clauses.append(f"JOIN {written} ON {there} = {here}")
        self.aliases.setdefault(step.target, []).append(name)
        self.fans_out = self.fans_out or step.down
        return name


def _role(column: str) -> str:
    return column.removesuffix("_id")
