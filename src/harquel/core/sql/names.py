"""Which table and column each name in a query means, by the rules of SQL scoping.

The walk is ours rather than the library's so that every name either resolves against the catalog or
becomes a fault with its place and the nearest names, and so that nothing is skipped in silence.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field, replace
from typing import Literal

from sqlglot import exp

from harquel.core.domain.catalog import Catalog, Column, Table
from harquel.core.nearest import nearest
from harquel.core.sql.scopes import Ctes, Scope, Source, is_join, is_taken, source_of
from harquel.core.sql.tree import identifier

FaultKind = Literal["unknown-table", "unknown-column", "withheld-column", "ambiguous-column", "unresolvable"]


@dataclass(frozen=True)
class NameFault:
    """A name that cannot be resolved; `nearest` are names that exist, the likeliest first."""

    kind: FaultKind
    name: str
    node: exp.Expr
    nearest: tuple[str, ...] = ()
    elsewhere: tuple[str, ...] = ()
    """Tables that do have a column of that name."""


@dataclass
class Resolution:
    """`reads`: table to columns read. `stars`: for each `*`, the columns it stands for.

    `tables` and `columns` are the nodes that mean something of the catalog, with what they mean.
    """

    reads: dict[str, set[str]] = field(default_factory=dict)
    faults: list[NameFault] = field(default_factory=list)
    stars: list[tuple[exp.Expr, list[exp.Expr]]] = field(default_factory=list)
    tables: list[tuple[exp.Table, Table]] = field(default_factory=list)
    columns: list[tuple[exp.Expr, Column, Table]] = field(default_factory=list)
    ctes: list[tuple[exp.Table, exp.CTE]] = field(default_factory=list)
    """What is read of a CTE, and which of them is meant: several may bear one name, each where it is known."""
    loose: set[tuple[str, str]] = field(default_factory=set)
    """Table and column of what is read where no name of its own stands for it: merged by USING."""


def _starred(table: Table, column: Column) -> bool:
    return True


def resolve(
    tree: exp.Expr, catalog: Catalog, starred: Callable[[Table, Column], bool] = _starred,
    whole: Catalog | None = None,
) -> Resolution:  # fmt: skip
    """Resolves every name of a query. Never raises; what fails is in `faults`.

    `starred` says which columns of a table `*` stands for. `whole` is the catalog with what is not exposed: a bare
    name that the database would take for such a column must not pass for something else.
    """
    resolver = _Resolver(catalog, starred, whole or catalog)
    resolver.query(tree, {}, None)
    return resolver.found


def closest(name: str, known: Iterable[str], most: int = 3) -> tuple[str, ...]:
    """The known names that look most like `name`; a shortened name finds its long form."""
    known, wanted = list(known), name.casefold()
    near = [*nearest(name, known, most)]
    near += [
        k for k in known if k not in near and (k.casefold().startswith(wanted) or wanted in k.casefold().split("_"))
    ]
    return tuple(near[:most])


class _Resolver:
    def __init__(self, catalog: Catalog, starred: Callable[[Table, Column], bool], whole: Catalog) -> None:
        self.catalog, self.starred, self.whole = catalog, starred, whole
        self.found = Resolution()

    # -- queries ---------------------------------------------------------------------------------

    def query(self, node: exp.Expr, ctes: Ctes, parent: Scope | None, apart: tuple[str, ...] = ()) -> list[str] | None:
        """Resolves one query; returns its output columns, None where they cannot be known.

        `apart` are the parts that the caller resolves: the joins that hang on a query in a parenthesis.
        """
        ctes = self._with(node, ctes, parent)
        if isinstance(node, exp.Subquery):
            columns = self.query(node.this, ctes, parent)
            output = Scope({}, set(map(str.casefold, columns or [])), parent)
            self._rest(node, ctes, output, ("this", "with_", "alias", *apart))
            return columns
        if isinstance(node, exp.SetOperation):
            columns = self.query(node.this, ctes, parent)
            self.query(node.expression, ctes, parent)
            output = Scope({}, set(map(str.casefold, columns or [])), parent)
            self._rest(node, ctes, output, ("this", "expression", "with_"))
            return columns
        if isinstance(node, exp.Values):
            self._rest(node, ctes, Scope({}, set(), parent), ("alias",))
            width = len(node.expressions[0].expressions) if node.expressions else 0
            return [f"column{i + 1}" for i in range(width)]
        if isinstance(node, exp.Select):
            return self._select(node, ctes, parent)
        self.found.faults.append(NameFault("unresolvable", node.key, node))
        return None

    def _with(self, node: exp.Expr, ctes: Ctes, parent: Scope | None) -> Ctes:
        with_ = node.args.get("with_")
        if with_ is None:
            return ctes
        ctes = dict(ctes)
        here: set[str] = set()
        for cte in with_.expressions:
            name = cte.alias
            around = ctes.get(name.casefold())
            # Two of one name beside each other, or within each other and told apart by capitals only: engines differ.
            spelt = around is not None and around.cte is not None and around.cte.alias != name
            if name.casefold() in here or spelt:
                self.found.faults.append(NameFault("unresolvable", name, cte))
            here.add(name.casefold())
            given = [i.name for i in cte.args["alias"].args.get("columns") or ()]
            body = cte.this
            if with_.args.get("recursive") and isinstance(body, exp.SetOperation):
                first = given or self._peek(body, ctes)
                ctes[name.casefold()] = replace(source_of(name, first), cte=cte)
            columns = self.query(body, ctes, parent)
            ctes[name.casefold()] = replace(source_of(name, given or columns), cte=cte)
        return ctes

    def _peek(self, body: exp.SetOperation, ctes: Ctes) -> list[str] | None:
        """The columns of a recursive CTE, from its first branch, which does not mention the CTE."""
        branch: exp.Expr = body
        while isinstance(branch, exp.SetOperation):
            branch = branch.this
        probe = _Resolver(self.catalog, self.starred, self.whole)
        return probe.query(branch, ctes, None)

    def _select(self, node: exp.Select, ctes: Ctes, parent: Scope | None) -> list[str] | None:
        aliases = {p.alias.casefold() for p in node.expressions if isinstance(p, exp.Alias)}
        scope = Scope({}, aliases, parent)
        from_ = node.args.get("from_")
        if from_ is not None:
            self._add(from_.this, ctes, scope)
        self._joins(node, ctes, scope)
        columns: list[str] | None = []
        for projection in node.expressions:
            names = self._projection(projection, ctes, scope)
            columns = None if names is None or columns is None else columns + names
        self._rest(node, ctes, scope, ("expressions", "from_", "joins", "with_"))
        return columns

    def _add(self, node: exp.Expr, ctes: Ctes, scope: Scope) -> None:
        alias = node.alias_or_name
        if isinstance(node, exp.Table):
            source = self._table(node, ctes)
        elif isinstance(node, exp.Subquery | exp.Values):
            # A derived table does not see its neighbours, but a correlated one sees the outer query.
            if isinstance(node, exp.Subquery) and is_join(node) and not alias:
                self._add(node.this, ctes, scope)
                self._joins(node, ctes, scope)
                return
            columns = self.query(node, ctes, scope.parent, ("joins",))
            source = source_of(alias, columns)
        elif isinstance(node, exp.Lateral) and isinstance(node.this, exp.Subquery):
            # This one does see those that stand before it.
            columns = self.query(node.this, ctes, scope)
            source = source_of(alias, columns)
        else:
            self.found.faults.append(NameFault("unresolvable", node.key, node))
            source = source_of(alias, None)
        given = node.args.get("alias")
        renamed = [i.name for i in (given.args.get("columns") or ())] if given is not None else []
        if renamed and isinstance(node, exp.Table) and source.table is not None:
            # By position it would name columns that are not exposed.
            self.found.faults.append(NameFault("unresolvable", f"{alias}({', '.join(renamed)})", node))
        if renamed:
            source = Source(alias, {n.casefold(): n for n in renamed}, None)
        if alias.casefold() in scope.sources and alias:
            self.found.faults.append(NameFault("ambiguous-column", alias, node))
        scope.sources[(alias or f"#{len(scope.sources)}").casefold()] = source
        # A parenthesised join hangs on its first table.
        self._joins(node, ctes, scope)

    def _joins(self, node: exp.Expr, ctes: Ctes, scope: Scope) -> None:
        for join in node.args.get("joins") or ():
            self._add(join.this, ctes, scope)
            self._using(join, scope)
            if join.args.get("method"):
                self.found.faults.append(NameFault("unresolvable", "NATURAL JOIN", join))
            if join.args.get("on") is not None:
                self._visit(join.args["on"], ctes, scope)

    def _table(self, node: exp.Table, ctes: Ctes) -> Source:
        alias = node.alias_or_name
        if isinstance(node.this, exp.Anonymous) and not node.args.get("db"):
            # A table function; whether it is allowed is for the rules to say. Its column is called as it is itself.
            self._rest(node.this, ctes, Scope({}, set(), None), ("this",))
            name = alias or str(node.this.this)
            return source_of(name, [name])
        if not isinstance(node.this, exp.Identifier):
            self.found.faults.append(NameFault("unresolvable", node.sql(), node))
            return source_of(alias, None)
        name = node.name
        qualifier = node.args.get("db") or node.args.get("catalog")
        if not qualifier and name.casefold() in ctes:
            known = ctes[name.casefold()]
            if known.cte is not None:
                self.found.ctes.append((node, known.cte))
            return Source(alias, known.columns, known.table)
        full = f"{qualifier.name}.{name}" if qualifier else name
        table = None if node.args.get("catalog") else self._known(qualifier.name if qualifier else "", name)
        if table is None:
            names = [t.name for t in self.catalog.tables]
            self.found.faults.append(NameFault("unknown-table", full, node, closest(full, names)))
            return source_of(alias, None)
        self.found.tables.append((node, table))
        self.found.reads.setdefault(table.name, set())
        columns = table.folded
        stored = self.whole.table(table.name)
        hidden = stored.folded.keys() - columns.keys() if stored is not None and stored is not table else ()
        return Source(alias, columns, table, frozenset(hidden))

    def _known(self, schema: str, name: str) -> Table | None:
        """The table meant; a plain name finds a table of another schema when only one is called so."""
        if schema and schema.casefold() != self.catalog.default_schema.casefold():
            return self.catalog.table(f"{schema}.{name}")
        found = self.catalog.table(name)
        if found is not None or schema:
            return found
        alike = [t for t in self.catalog.tables if t.schema and t.plain.casefold() == name.casefold()]
        return alike[0] if len(alike) == 1 else None

    def _using(self, join: exp.Join, scope: Scope) -> None:
        for merged in join.args.get("using") or ():
            name = merged.name
            scope.joined.add(name.casefold())
            holders = [s for s in scope.sources.values() if s.columns is None or name.casefold() in s.columns]
            if self._withheld(merged, name, list(scope.sources.values())):
                pass
            elif len(holders) < 2:
                self.found.faults.append(NameFault("unknown-column", name, merged))
            for holder in holders:
                self._read(holder, name)

    # -- expressions -----------------------------------------------------------------------------

    def _projection(self, node: exp.Expr, ctes: Ctes, scope: Scope) -> list[str] | None:
        if isinstance(node, exp.Star):
            return self._star(node, list(scope.sources.values()), scope)
        if isinstance(node, exp.Column) and isinstance(node.this, exp.Star):
            source = scope.sources.get(node.table.casefold())
            if source is None:
                self.found.faults.append(NameFault("unknown-table", node.table, node, tuple(scope.sources)))
                return None
            return self._star(node, [source], scope)
        self._visit(node, ctes, scope)
        return [node.alias_or_name or node.sql()]

    def _star(self, node: exp.Expr, sources: list[Source], scope: Scope) -> list[str] | None:
        columns: list[exp.Expr] = []
        names: list[str] = []
        if not sources:
            self.found.faults.append(NameFault("unresolvable", "*", node))
        for source in sources:
            if source.columns is None:
                return None
            for folded, written in source.columns.items():
                if folded in scope.joined and written in names:
                    continue
                owned = source.table.column(written) if source.table is not None else None
                if source.table is not None and owned is not None and not self.starred(source.table, owned):
                    continue
                table = identifier(source.alias) if source.alias else None
                columns.append(exp.Column(this=identifier(written), table=table))
                names.append(written)
                self._read(source, written, star=True)
        self.found.stars.append((node, columns))
        return names

    def _rest(self, node: exp.Expr, ctes: Ctes, scope: Scope, done: tuple[str, ...]) -> None:
        for key, value in node.args.items():
            if key in done:
                continue
            for child in value if isinstance(value, list) else (value,):
                if isinstance(child, exp.Expr):
                    self._visit(child, ctes, scope)

    def _visit(self, node: exp.Expr, ctes: Ctes, scope: Scope) -> None:
        if isinstance(node, exp.Query):
            self.query(node, ctes, scope)
        elif isinstance(node, exp.Column):
            self._column(node, scope)
        elif isinstance(node, exp.Table):
            self.found.faults.append(NameFault("unresolvable", node.sql(), node))
        else:
            for child in node.iter_expressions():
                self._visit(child, ctes, scope)

    def _column(self, node: exp.Column, scope: Scope) -> None:
        if isinstance(node.this, exp.Star) or not self._qualified(node, scope):
            self.found.faults.append(NameFault("unresolvable", node.sql(), node))
            return
        level: Scope | None = scope
        seen: list[Source] = []
        while level is not None:
            # The database would find it here: neither an alias nor a table further out may lend it a meaning.
            if not node.table and is_taken(node.name.casefold(), level):
                seen += level.sources.values()
                break
            if self._column_in(node, level, own=level is scope):
                return
            seen += level.sources.values()
            level = level.parent
        qualified = [s for s in seen if s.alias.casefold() == node.table.casefold()] if node.table else seen
        if node.table and not qualified:
            near = closest(node.table, [s.alias for s in seen])
            self.found.faults.append(NameFault("unknown-table", node.table, node, near))
            return
        if self._withheld(node, node.name, qualified):
            return
        known = [c for s in qualified for c in (s.columns or {}).values()]
        elsewhere = tuple(t.name for t in self.catalog.tables if t.column(node.name) is not None)
        fault = NameFault("unknown-column", node.sql(), node, closest(node.name, known), elsewhere)
        self.found.faults.append(fault)

    def _withheld(self, node: exp.Expr, name: str, sources: list[Source]) -> bool:
        """Notes that the column is there and withheld, where that is so."""
        for source in sources:
            if source.table is not None and name.casefold() in source.hidden:
                self.found.faults.append(NameFault("withheld-column", f"{source.table.name}.{name}", node))
                return True
        return False

    def _qualified(self, node: exp.Column, scope: Scope) -> bool:
        """Whether the schema before a column's table, if one stands there, is the one that this table is of."""
        if node.args.get("catalog"):
            return False
        db, level = node.args.get("db"), scope
        while db is not None and level is not None:
            source = level.sources.get(node.table.casefold())
            if (
                source is not None
                and source.table is not None
                and source.table.plain.casefold() == source.alias.casefold()
            ):
                return self._known(db.name, source.table.plain) is source.table
            level = level.parent  # type: ignore[assignment]
        return db is None

    def _column_in(self, node: exp.Column, level: Scope, own: bool) -> bool:
        name = node.name.casefold()
        if node.table:
            source = level.sources.get(node.table.casefold())
            if source is None or (source.columns is not None and name not in source.columns):
                return False
            self._read(source, node.name, node)
            return True
        holders = [s for s in level.sources.values() if s.columns is not None and name in s.columns]
        aliased = own and name in level.aliases
        if len(holders) > 1 and name not in level.joined and not aliased:
            choices = tuple(f"{s.alias}.{node.name}" for s in holders)
            self.found.faults.append(NameFault("ambiguous-column", node.name, node, choices))
        for source in holders:
            self._read(source, node.name, node if len(holders) == 1 else None)
        unknowable = any(s.columns is None for s in level.sources.values())
        return bool(holders) or aliased or unknowable

    def _read(self, source: Source, name: str, node: exp.Expr | None = None, star: bool = False) -> None:
        if source.table is not None:
            column = source.table.column(name)
            if column is not None:
                self.found.reads[source.table.name].add(column.name)
                if node is not None:
                    self.found.columns.append((node, column, source.table))
                elif not star:
                    self.found.loose.add((source.table.name, column.name))
