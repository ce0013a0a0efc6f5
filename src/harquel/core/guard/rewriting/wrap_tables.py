"""Row rules and masks: every reference to a table becomes a query of its own that holds no more than may be seen.

Nothing above it meets a forbidden row or a raw value: not a join, not a condition, not an error. The barrier keeps
the database from moving a condition of the outside to the inside (docs/engines.md).
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field

from sqlglot import exp

from harquel.core.domain.catalog import Catalog, Column, Table
from harquel.core.domain.person import Person, Value
from harquel.core.domain.terms import Terms
from harquel.core.guard.allowed import TYPES
from harquel.core.guard.rewriting.spell_names import spell_names
from harquel.core.sql.dialects import DIALECTS
from harquel.core.sql.names import Resolution, resolve
from harquel.core.sql.tree import ParseFault, identifier, parse, quoted

MASK = "•••"
"""What MariaDB's manual gives for "all rows": there is no LIMIT without a number."""


class RuleFault(Exception):
    """A row rule cannot be applied; `line` is its place in the policy."""

    def __init__(self, message: str, line: str) -> None:
        super().__init__(message)
        self.line = line


@dataclass
class Wrapping:
    """The wrapped tree, and the inside of every wrapper by the name of its table."""

    tree: exp.Expr
    insides: dict[str, exp.Select] = field(default_factory=dict)
    lines: tuple[str, ...] = ()

    def over_views(self, tree: exp.Expr, mark: str) -> tuple[exp.Expr, dict[str, exp.Select]]:
        """A wrapped tree with a view in the place of every wrapper, and what each view holds."""
        views: dict[str, exp.Select] = {}
        copy = tree.copy()
        for node, name in list(self._wrappers(copy)):
            # Numbered: two names can be the same once what is no letter has been left out.
            view = f"{_plainly(name)}_{list(self.insides).index(name)}_{mark}"
            views[view] = self.insides[name]
            table = exp.Table(this=identifier(view), alias=node.args.get("alias"))
            joins = node.args.get("joins")
            node.set("joins", None)
            copy = table if node is copy else copy
            node.replace(table)
            table.set("joins", joins or None)
        return copy, views

    def without(self, tree: exp.Expr, plain: dict[str, exp.Table]) -> exp.Expr:
        """The tree with every wrapper taken off again; `plain` says how each table is written without one."""
        copy = tree.copy()
        for node, name in list(self._wrappers(copy)):
            bare = plain[name].copy()
            bare.set("alias", node.args.get("alias"))
            joins = node.args.get("joins")
            node.set("joins", None)
            node.replace(bare)
            bare.set("joins", joins or None)
        return copy

    def _wrappers(self, tree: exp.Expr) -> Iterator[tuple[exp.Subquery, str]]:
        by_text = {inside.sql(): name for name, inside in self.insides.items()}
        tables = {_read_first(inside) for inside in self.insides.values()}
        for node in list(tree.find_all(exp.Subquery)):
            # Writing out every query within every other one would take its time.
            if isinstance(node.this, exp.Select) and _read_first(node.this) in tables:
                name = by_text.get(node.this.sql())
                if name is not None:
                    yield node, name


def wrap_tables(
    tree: exp.Expr, names: Resolution, terms: Terms, visible: Catalog, whole: Catalog, mark: str = ""
) -> Wrapping | None:
    """Wraps in place, or None where nothing concerns the tables read. `names` must come from this very tree.

    `visible` is what exists for the person, `whole` what the conditions of the rules may speak of. With `mark` every
    table inside a wrapper bears an alias that ends with it, by which the database's own reading of the statement can
    be held against ours. Raises RuleFault.
    """
    done = Wrapping(tree)
    lines: list[str] = []
    for node, table in names.tables:
        inside = done.insides.get(table.name)
        if inside is None:
            made = _inside(visible.table(table.name) or table, terms, whole, mark)
            if made is None:
                continue
            inside, said = made
            done.insides[table.name] = inside
            lines += said
        alias = node.args.get("alias") or exp.TableAlias(this=identifier(node.name))
        # Moved, not copied: in a parenthesis the joined tables hang here, and each is wrapped in its turn.
        joins = node.args.get("joins")
        node.set("joins", None)
        wrapper = exp.Subquery(this=inside.copy(), alias=alias.copy())
        if node is tree:
            done.tree = wrapper
        node.replace(wrapper)
        wrapper.set("joins", joins or None)
    done.lines = tuple(dict.fromkeys(lines))
    return done if done.insides else None


def _inside(table: Table, terms: Terms, whole: Catalog, mark: str) -> tuple[exp.Select, list[str]] | None:
    rules = terms.rules(table.name)
    masked = {
        c.name: line for c in table.columns if (t := terms.treatment(table.name, c))[0] == "mask" for line in [t[1]]
    }
    if not rules and not masked:
        return None
    columns = [
        exp.alias_(_mask(c, whole.engine), identifier(c.name))
        if c.name in masked
        else exp.Column(this=identifier(c.name))
        for c in table.columns
    ]
    select = exp.Select(expressions=columns)
    conditions = []
    for place, text in rules:
        condition, source = _condition(table, text, f"rows[{place}].where", terms.person, whole, mark)
        select.set("from_", exp.From(this=source))
        conditions.append(condition)
    if not rules:
        select.set("from_", exp.From(this=_condition(table, "1 = 1", "", terms.person, whole, mark)[1]))
    for condition in conditions:
        select = select.where(condition, copy=False)
    DIALECTS[whole.engine].wall(select)
    return select, [f"rows[{place}].where" for place, _ in rules] + sorted(set(masked.values()))


def _mask(column: Column, engine: str) -> exp.Expr:
    """The same for every row, whatever stands there: not even whether something does can be seen."""
    if column.kind == "text":
        return exp.Literal.string(MASK)
    if not DIALECTS[engine].typed_nulls or column.kind == "other":
        return exp.Null()
    # There a bare NULL is a text to whatever stands above it, and no function of times takes one.
    to = exp.DataType.build(column.type, dialect="postgres")
    return exp.Cast(this=exp.Null(), to=to) if to.this in TYPES[engine] else exp.Null()


def _condition(
    table: Table, text: str, line: str, person: Person, whole: Catalog, mark: str
) -> tuple[exp.Expr, exp.Table]:
    """A rule's condition with the person's values in it, and the table as the engine is to find it.

    Names in it are bound to the real tables, whatever CTEs the statement has into which it is put.
    """
    schema = f"{quoted(table.schema, whole.engine)}." if table.schema else ""
    try:
        (tree,) = parse(f"SELECT 1 FROM {schema}{quoted(table.plain, whole.engine)} WHERE {text}", whole.engine)
    except (ParseFault, ValueError) as fault:
        raise RuleFault(f"The condition {text!r} cannot be read.", line) from fault
    for holder in list(tree.find_all(exp.Placeholder)):
        _put_value(holder, person, line)
    names = resolve(tree, whole)
    if names.faults or not isinstance(tree, exp.Select):
        raise RuleFault(f"The condition {text!r} speaks of something that is not there.", line)
    parts = {key for key, value in tree.args.items() if value}
    if parts != {"expressions", "from_", "where"} or tree.args["from_"].this.args.get("joins"):
        raise RuleFault(f"The condition {text!r} is more than a condition.", line)
    spell_names(tree, names, whole, bound=True)
    if mark:
        _marked(tree, mark)
    return tree.args["where"].this, tree.args["from_"].this


def _marked(tree: exp.Expr, mark: str) -> None:
    """Every table under an alias with the mark, and every column that names its table likewise: scopes stay."""
    for column in tree.find_all(exp.Column):
        if column.table:
            column.set("table", identifier(f"{column.table}_{mark}"))
    named = (*tree.find_all(exp.Table), *tree.find_all(exp.Subquery), *tree.find_all(exp.CTE))
    ctes = {c.alias.casefold() for c in tree.find_all(exp.CTE)}
    for node in named:
        if isinstance(node, exp.Table) and not node.args.get("db") and node.name.casefold() in ctes:
            bare = f"{node.name}_{mark}"
            node.set("alias", exp.TableAlias(this=identifier(f"{node.alias_or_name}_{mark}")))
            node.set("this", identifier(bare))
        elif node.alias_or_name:
            alias = node.args.get("alias") or exp.TableAlias()
            alias.set("this", identifier(f"{node.alias_or_name}_{mark}"))
            node.set("alias", alias)


def _read_first(select: exp.Select) -> str | None:
    """The table at the head of FROM; None for anything else."""
    from_ = select.args.get("from_")
    first = from_.this if from_ is not None else None
    return first.name if isinstance(first, exp.Table) and isinstance(first.this, exp.Identifier) else None


def _plainly(name: str) -> str:
    return "".join(c if c.isascii() and c.isalnum() else "_" for c in name.lower())


def _put_value(holder: exp.Placeholder, person: Person, line: str) -> None:
    name = str(holder.this)
    given = person.values.get(name)
    if given is None:
        who = person.name or "you"
        raise RuleFault(f"Which rows may be seen depends on “{name}”, which is not known of {who}.", line)
    values = [_literal(v) for v in given] if isinstance(given, tuple) else [_literal(given)]
    if isinstance(holder.parent, exp.In):
        others = [e for e in holder.parent.expressions if e is not holder]
        holder.parent.set("expressions", others + (values or [exp.Null()]))
    elif len(values) == 1:
        holder.replace(values[0])
    else:
        raise RuleFault(f"“{name}” has several values: write IN (:{name}).", line)


def _literal(value: Value) -> exp.Expr:
    if isinstance(value, int | float) and not isinstance(value, bool):
        return exp.Literal.number(value) if value >= 0 else exp.Neg(this=exp.Literal.number(-value))
    return exp.Literal.string(str(value))
