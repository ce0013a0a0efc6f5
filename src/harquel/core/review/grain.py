"""How the rows of a query come about: which joins multiply which rows."""

from __future__ import annotations

from collections import defaultdict
from functools import cached_property

from sqlglot import exp

from harquel.core.domain.catalog import Table
from harquel.core.review.statement import Condition, Level, Part, Statement

Edge = tuple[str, str]


class Grain:
    """The joins of one query as a graph over what stands in its FROM."""

    def __init__(self, level: Level, statement: Statement) -> None:
        self.level, self.statement = level, statement
        self.links: dict[Edge, list[tuple[exp.Column, exp.Column]]] = defaultdict(list)
        """For each ordered pair of aliases the columns that are set equal."""
        self.loose: set[Edge] = set()
        """Pairs that some other condition ties: a comparison of times, an OR."""
        self._pinned: dict[str, set[str]] = defaultdict(set)
        self._read()

    @property
    def parts(self) -> dict[str, Part]:
        """What stands in FROM."""
        return self.level.parts

    def multipliers(self, alias: str) -> frozenset[str]:
        """The parts that make several rows of one row of a part."""
        return self._multipliers[alias]

    def within_groups(self, alias: str) -> frozenset[str]:
        """The parts that make several rows of one within a group: a key of theirs that is grouped by settles them."""
        return frozenset(m for m in self.multipliers(alias) if not self._grouped_apart(m))

    def _grouped_apart(self, alias: str) -> bool:
        grouped = {
            (found, g.name.casefold()) for g in self.level.groups
            if isinstance(g, exp.Column) and (found := self._alias(g)) is not None
        }  # fmt: skip
        columns = [here for (one, _), pairs in self.links.items() if one == alias for here, _ in pairs]
        settled = [
            here for (one, other), pairs in self.links.items() if one == alias for here, there in pairs
            if (other, there.name.casefold()) in grouped
        ]  # fmt: skip
        settled += [exp.column(name, table=alias) for found, name in grouped if found == alias]
        return bool(settled) and self._unique(alias, [*columns, *settled])

    def way(self, start: str, goal: str) -> frozenset[str] | None:
        """The parts on the shortest way of equal columns from one to another, that one included; None without any."""
        came, todo = {start: ""}, [start]
        for here in todo:
            for one, other in self.links:
                if one == here and other not in came:
                    came[other] = here
                    todo.append(other)
        if goal not in came:
            return None
        found = set()
        while goal != start:
            found.add(goal)
            goal = came[goal]
        return frozenset(found)

    @cached_property
    def components(self) -> list[set[str]]:
        """Parts that hang together by conditions; a query without a missing join has one."""
        ties: dict[str, set[str]] = defaultdict(set)
        for one, other in (*self.links, *self.loose):
            ties[one].add(other)
            ties[other].add(one)
        left, found = set(self.parts), []
        while left:
            group, todo = set(), [next(iter(left))]
            while todo:
                here = todo.pop()
                if here not in group:
                    group.add(here)
                    todo += ties[here]
            left -= group
            found.append(group & set(self.parts))
        return found

    @cached_property
    def _multipliers(self) -> dict[str, frozenset[str]]:
        found = {}
        for alias in self.parts:
            seen, todo, many = {alias}, [alias], set()
            while todo:
                here = todo.pop()
                for one, other in self.links:
                    if one == here and other not in seen:
                        seen.add(other)
                        todo.append(other)
                        if not self._unique(other, [there for _, there in self.links[one, other]]):
                            many.add(other)
            for other, part in self.parts.items():
                if other not in seen and not part.one_row and (alias, other) not in self.loose:
                    many.add(other)
            found[alias] = frozenset(m for m in many if not self._anti(m))
        return found

    def one_row(self, alias: str) -> bool:
        """Whether a part can only be a single row here: a bare aggregate, or one held by its keys to constants."""
        return self._unique(alias, [])

    def _unique(self, alias: str, columns: list[exp.Column]) -> bool:
        """Whether a part has at most one row for values of these columns."""
        part = self.parts[alias]
        if part.one_row:
            return True
        names = {c.name.casefold() for c in columns} | self._pinned[alias]
        if part.table is not None:
            table = self.statement.catalog.behind(part.table) or part.table
            return any(key and {k.casefold() for k in key} <= names for key in _keys(table))
        return part.derived is not None and self._once_each(part.derived, names)

    def _once_each(self, inner: Level, names: set[str]) -> bool:
        """Whether a query gives at most one row for values of these outputs."""
        if inner.groups:
            wanted = {
                name for name, node in inner.outputs.items()
                if any(node == g or node is g for g in inner.groups)
            }  # fmt: skip
            return len(wanted) >= len(inner.groups) and wanted <= names
        if inner.select.args.get("distinct"):
            return set(inner.outputs) <= names
        return self._passed_on(inner, names)

    def _passed_on(self, inner: Level, names: set[str]) -> bool:
        """Whether a query gives on the key of something that it takes from FROM once each."""
        if inner.set_parent is not None or inner.limit == 0:
            return False
        grain = Grain(inner, self.statement)
        for alias in inner.parts:
            keys = [
                node for name, node in inner.outputs.items()
                if name in names and isinstance(node, exp.Column) and grain._alias(node) == alias
            ]  # fmt: skip
            if keys and not grain.multipliers(alias) and grain._unique(alias, keys):
                return True
        return False

    def _anti(self, alias: str) -> bool:
        """Whether a part is joined only to find rows that it has nothing for."""
        return self.parts[alias].side == "left" and any(
            c.op == "is null" and c.place == "where" and isinstance(c.subject, exp.Column)
            and (found := self.statement.part(c.subject, self.level)) is not None and found[0] is self.parts[alias]
            for c in self.level.conditions
        )  # fmt: skip

    def _read(self) -> None:
        for condition in self.level.conditions:
            if condition.place in ("where", "on"):
                self._compared(condition)
        for join in self.level.select.args.get("joins") or ():
            using = join.args.get("using")
            if using:
                self._using(join.this.alias_or_name.casefold(), [u.name for u in using])

    def _compared(self, condition: Condition) -> None:
        """Two columns set equal link their parts, another condition over both ties them, a constant pins a column."""
        subject, other = condition.subject, condition.other
        here, there = self._alias(subject), self._alias(other)
        if here is not None and condition.op == "=" and condition.values and isinstance(subject, exp.Column):
            self._pinned[here].add(subject.name.casefold())
        if here is None or there is None or condition.op != "=":
            one, far = here or self._any_alias(subject), there or self._any_alias(other)
            if one is not None and far is not None and one != far:
                self._tie(one, far)
        elif here != there and isinstance(subject, exp.Column) and isinstance(other, exp.Column):
            self.links[here, there].append((subject, other))
            self.links[there, here].append((other, subject))

    def _using(self, alias: str, names: list[str]) -> None:
        others = list(self.parts)
        for other in others[: others.index(alias)] if alias in others else ():
            if all(_has(self.parts[other], n) for n in names):
                pairs = [(exp.column(n, table=other), exp.column(n, table=alias)) for n in names]
                self.links[other, alias] += pairs
                self.links[alias, other] += [(b, a) for a, b in pairs]
                return

    def _tie(self, one: str, other: str) -> None:
        self.loose |= {(one, other), (other, one)}

    def _alias(self, node: exp.Expr | None) -> str | None:
        if not isinstance(node, exp.Column):
            return None
        found = self.statement.part(node, self.level)
        if found is None or found[1] is not self.level:
            return None
        return next((a for a, p in self.parts.items() if p is found[0]), None)

    def _any_alias(self, node: exp.Expr | None) -> str | None:
        if node is None:
            return None
        return next((a for c in node.find_all(exp.Column) if (a := self._alias(c)) is not None), None)


def _keys(table: Table) -> list[tuple[str, ...]]:
    """What no two rows of a table have alike."""
    keys = [tuple(c.name for c in table.columns if c.primary_key), *table.unique]
    keys += [(c.name,) for c in table.columns if c.unique]
    return keys + [tuple(i.columns) for i in table.indexes if i.unique]


def _has(part: Part, name: str) -> bool:
    """Whether a part has a column of that name, as far as one can see: a star may stand for any."""
    if part.table is not None:
        return part.table.column(name) is not None
    inner = part.derived
    return inner is not None and (name.casefold() in inner.outputs or bool(inner.select.is_star))
