"""The two rulings: on the text of a draft, and on the plan of the statement made from it."""

from __future__ import annotations

import logging
from collections import Counter
from dataclasses import dataclass
from fnmatch import fnmatchcase
from secrets import token_hex
from typing import Final, Literal

from sqlglot import exp

from harquel.core.domain.catalog import Catalog, Table
from harquel.core.domain.findings import Finding, Ruling
from harquel.core.domain.person import NOBODY, Person
from harquel.core.domain.policy import Policy
from harquel.core.domain.result import Plan
from harquel.core.domain.statements import DraftedStatement, RuledStatement, SeenThrough
from harquel.core.domain.terms import TABLES, Terms
from harquel.core.guard.context import GuardContext, Objection, object_to
from harquel.core.guard.proof import Unproved, prove, restricted_tables
from harquel.core.guard.rewriting import RuleFault, expand_stars, rename_ctes, spell_names, wrap_tables, write_row_limit
from harquel.core.guard.rewriting.wrap_tables import Wrapping
from harquel.core.guard.rules import RULES, Rule
from harquel.core.guard.rules.personal import personal
from harquel.core.guard.shares import row_limit
from harquel.core.guard.size import LONGEST, MOST_NODES, TooLarge, oversized
from harquel.core.language.say import said_as
from harquel.core.sql.dialects import DIALECTS
from harquel.core.sql.names import Resolution, resolve
from harquel.core.sql.tree import ParseFault, aliases, parse, render, strings, strings_and_literals

log = logging.getLogger("harquel.guard")

POLICY_RULES = frozenset(
    (
        "reads-only unknown-construct function-not-allowed type-not-allowed plan-too-large grows-without-bound "
        "personal-column withheld-column row-rule listing-share"
    ).split()
)
"""Rules whose refusal is a matter of policy; the others point at a mistake in the draft."""


@dataclass(frozen=True)
class TextRuling:
    """`statement` is there exactly when the verdict is to run or to hold; `tree` is what the draft said."""

    ruling: Ruling
    findings: tuple[Finding, ...]
    statement: RuledStatement | None = None
    tree: exp.Expr | None = None


def rule_on_text(
    draft: DraftedStatement, engine: str, catalog: Catalog, policy: Policy, person: Person = NOBODY,
    whole: Catalog | None = None,
) -> TextRuling:  # fmt: skip
    """Decides on a draft, as `rule_by_terms` does, for a person seen by a policy."""
    return rule_by_terms(draft, engine, catalog, Terms(policy, person), whole)


def rule_by_terms(
    draft: DraftedStatement, engine: str, catalog: Catalog, terms: Terms, whole: Catalog | None = None
) -> TextRuling:  # fmt: skip
    """Decides on a draft; what is nested too deeply to be looked through is refused.

    `catalog` is the one visible to the person: what it lacks does not exist. `whole` is what the conditions of row
    rules may speak of.
    """
    try:
        return _Text(draft, engine, catalog, terms, whole or catalog).rule()
    except RecursionError:
        return _refused([_unparsable(ParseFault("it is nested too deeply"))])
    except Exception:  # a tree of a shape that nobody thought of: refused, and told to whoever runs this
        log.exception("the guard stumbled over a statement for %s", engine)
        return _refused([_unparsable(ParseFault("it has a shape that is not known here"))])


@dataclass(frozen=True)
class _Text:
    """One draft on its way.

    1. one statement, and one that parses
    2. every rule over the tree, names resolved
    3. rewriting: stars expanded, CTEs told apart from tables, names spelt as the database does, the row limit
       written in
    4. our rendering, which must parse back to the same tree, hold the same texts, and pass every rule again
    5. for a person with row rules or masks: each table in a wrapper; that too must parse back to the same tree,
       be the tree of step 4 once the wrappers are taken off, and pass every rule
    6. code that shares nothing with the rewriting proves that no restricted table stands outside a wrapper; what
       the sandbox needs to see to that once more goes along
    """

    draft: DraftedStatement
    engine: str
    catalog: Catalog
    terms: Terms
    whole: Catalog

    def rule(self) -> TextRuling:
        """The ruling."""
        # 1
        if len(self.draft) > LONGEST:
            message = f"The statement has {len(self.draft):,} characters; at most {LONGEST:,} are read."
            hint = "Compare with a range or a subquery rather than a long list."
            return _refused([object_to("too-long", message, hint, "statement.length")])
        try:
            trees = parse(self.draft, self.engine)
        except ParseFault as fault:
            return _refused([_unparsable(fault)])
        if len(trees) != 1:
            message = f"There must be exactly one statement; this text holds {len(trees)}."
            hint = "Answer with a single SELECT and no semicolon inside."
            return _refused([object_to("one-statement", message, hint, "statement.one")])
        tree = trees[0]
        if (large := oversized(tree)) is not None:
            return _refused([large])
        # 2
        objections = self.ask_rules(tree, self.catalog)
        if objections:
            return _refused(objections, tree)
        try:
            # 3, 4
            written, rows = self.rewritten(tree)
            final, sql = self.rendered(written, self.draft)
            objections = self.ask_rules(final, self.catalog)
            if objections:
                return _refused(objections, tree)
            # 5
            line, reason = "statement", "Reads only what is exposed."
            plain = final
            wrapped = self.wrapped(final)
            if wrapped is not None:
                final, sql, line = wrapped
                reason = "Reads only the rows and values that may be seen here."
                # The wrappers themselves read personal columns; outside them step 4 has seen to it.
                objections = self.ask_rules(final, self.whole, tuple(r for r in RULES if r is not personal))
                if objections:
                    return _refused(objections, tree)
            # 6
            restricted = restricted_tables(self.terms, self.whole)
            prove(final, self.terms, self.whole, restricted)
            reads = {table: frozenset(columns) for table, columns in resolve(final, self.whole).reads.items()}
            seen_through = self.seen_through(plain, restricted, reads) if wrapped is not None else None
        except TooLarge as fault:
            return _refused([fault.args[0]])
        except ParseFault as fault:
            return _refused([_unparsable(fault)], tree)
        except Unproved as fault:
            log.exception("a row rule does not hold in %r", str(self.draft))
            message = said_as("guard-rows-unproved", table=str(fault.args[0]))
            hint = "Write each table plainly in FROM or JOIN, and give no CTE the name of a table."
            return _refused([object_to("row-rule", message, hint, "rows")], tree)
        except RuleFault as fault:
            hint = said_as("guard-row-rule-hint")
            return _refused([object_to("row-rule", str(fault), hint, fault.line)], tree)
        ruling = self.held(reads) or Ruling(on="text", verdict="run", policy_line=line, reason=reason)
        return TextRuling(ruling, (), RuledStatement(sql, reads, rows, seen_through, aliases(final)), tree)

    def rewritten(self, tree: exp.Expr) -> tuple[exp.Expr, int]:
        """The tree with stars, names and limit written in, and the limit."""
        rewritten = tree.copy()
        if self.spell_out_stars(rewritten) and (fault := oversized(rewritten)) is not None:
            raise TooLarge(fault)
        names = self.names(rewritten, self.catalog)
        if rename_ctes(rewritten, names, self.catalog):
            _told_apart(rewritten, names, self.names(rewritten, self.catalog), self.catalog)
        spell_names(rewritten, names, self.catalog)
        rows = row_limit(rewritten, names, self.terms.policy, self.whole)
        limited = write_row_limit(rewritten, rows)
        self.spell_out_stars(limited)
        return limited, rows

    def spell_out_stars(self, tree: exp.Expr) -> bool:
        """Writes the columns that its stars stand for into a tree; whether there were any."""
        found = any(not isinstance(star.parent, exp.Count) for star in tree.find_all(exp.Star))
        if found:
            expand_stars(tree, self.names(tree, self.catalog))
        return found

    def rendered(self, tree: exp.Expr, said: str) -> tuple[exp.Expr, str]:
        """Our text for a tree, and the tree that this text is read as. Raises ParseFault when they differ."""
        sql = render(tree, self.engine)
        again = parse(sql, self.engine)
        if (
            len(again) != 1
            or not DIALECTS[self.engine].same(again[0], tree)
            or _texts_changed(said, sql, self.engine, tree)
        ):
            raise ParseFault("it reads differently once it is written out again")
        return again[0], sql

    def wrapped(self, tree: exp.Expr, mark: str = "") -> tuple[exp.Expr, str, str] | None:
        """Tree, text and policy line with row rules and masks in it. Raises ParseFault, RuleFault."""
        if not self.terms.may_restrict():
            return None
        made = self._wrapping(tree, mark)
        return (made[0], made[1], ", ".join(made[2].lines)) if made is not None else None

    def _wrapping(self, tree: exp.Expr, mark: str) -> tuple[exp.Expr, str, Wrapping] | None:
        copy = tree.copy()
        wrapping = wrap_tables(copy, self.names(copy, self.catalog), self.terms, self.catalog, self.whole, mark)
        if wrapping is None:
            return None
        if (fault := oversized(wrapping.tree, 2 * MOST_NODES)) is not None:
            raise TooLarge(fault)
        sql = render(wrapping.tree, self.engine)
        again = parse(sql, self.engine)
        if len(again) != 1 or not DIALECTS[self.engine].same(again[0], wrapping.tree):
            raise ParseFault("with the row rules in it, it reads differently once it is written out again")
        plain = {table.name: node.copy() for node, table in self.names(tree, self.catalog).tables}
        without = _aliased(wrapping.without(again[0], plain))
        if not DIALECTS[self.engine].same(without, _aliased(tree.copy())):
            raise ParseFault("the row rules could not be written into it")
        return again[0], sql, wrapping

    def seen_through(
        self, plain: exp.Expr, restricted: dict[str, list[Table]], reads: dict[str, frozenset[str]]
    ) -> SeenThrough:
        """The same statement as the sandbox runs it: so written that the database itself can tell of a gap.

        Raises ParseFault, RuleFault, Unproved.
        """
        mark = token_hex(6)
        made = self._wrapping(plain, mark)
        if made is None:
            raise ParseFault("the row rules could not be written into it")
        final, sql, wrapping = made
        prove(final, self.terms, self.whole, restricted, mark)
        views: dict[str, str] = {}
        if DIALECTS[self.engine].views_for_one:
            final, insides = wrapping.over_views(final, mark)
            prove(final, self.terms, self.whole, restricted, mark)
            # SQLite takes a view apart that could be read in place; not one with an offset.
            views = {n: f"{render(i, self.engine)} OFFSET 0" for n, i in insides.items()}
            sql = render(final, self.engine)
        kinds = {t.name: t.kind for t in self.whole.tables}
        views_read = any(kinds.get(name) not in TABLES for name in reads)
        schema = self.whole.default_schema
        tables = tuple(
            (t.schema or schema, t.plain) for alike in restricted.values() for t in alike if t.kind in TABLES
        )
        return SeenThrough(sql, mark, () if views_read and not DIALECTS[self.engine].views_for_one else tables, views)

    def held(self, reads: dict[str, frozenset[str]]) -> Ruling | None:
        """The ruling to wait for a release, where the policy asks for one whatever the plan says."""
        approval, roles = self.terms.policy.approval, self.terms.person.roles
        if approval.always:
            return hold("text", "approval.always", said_as("held-always"))
        for table in sorted(reads):
            if any(fnmatchcase(table.lower(), p.lower()) for p in approval.tables):
                return hold("text", "approval.tables", said_as("held-table", table=table))
        mine = sorted(set(approval.roles) & roles)
        if mine:
            return hold("text", "approval.roles", said_as("held-role", role=mine[0]))
        return None

    def names(self, tree: exp.Expr, catalog: Catalog) -> Resolution:
        """Resolved; a star stands for what may be shown."""
        return resolve(
            tree, catalog, lambda table, column: self.terms.treatment(table.name, column)[0] in ("show", "mask"),
            self.whole,
        )  # fmt: skip

    def ask_rules(self, tree: exp.Expr, catalog: Catalog, rules: tuple[Rule, ...] = RULES) -> list[Objection]:
        """What the first rule that objects has to say."""
        context = GuardContext(tree, self.engine, catalog, self.terms, self.names(tree, catalog))
        for rule in rules:
            objections = rule(context)
            if objections:
                return objections
        return []


def _told_apart(tree: exp.Expr, before: Resolution, after: Resolution, catalog: Catalog) -> None:
    """Raises ParseFault unless each CTE has a name of its own now, and everything is read from where it was before."""
    named = Counter(cte.alias.casefold() for cte in tree.find_all(exp.CTE))
    tables = {table.plain.casefold() for table in catalog.tables}
    same = [
        (Counter(table.name for _, table in found.tables), [id(cte) for _, cte in found.ctes])
        for found in (before, after)
    ]
    if tables & set(named) or any(count > 1 for count in named.values()) or same[0] != same[1]:
        raise ParseFault("names of subqueries in it cannot be told apart")


def hold(on: Literal["text", "plan"], line: str, reason: str) -> Ruling:
    """A ruling that waits for somebody."""
    return Ruling(on=on, verdict="hold", policy_line=line, reason=reason)


def _aliased(tree: exp.Expr) -> exp.Expr:
    """Every table with the alias that it has anyway, so that trees can be compared."""
    for node in tree.find_all(exp.Table):
        if not node.alias and isinstance(node.this, exp.Identifier):
            node.set("alias", exp.TableAlias(this=node.this.copy()))
    return tree


MOST_GATHERED: Final = 1_000_000
"""Values that an aggregate may put together into one, by what the plan expects."""


def rule_on_plan(plan: Plan, catalog: Catalog, policy: Policy) -> tuple[Ruling, int | None]:
    """Decides on the dry run; also returns how many rows it would read, as far as that is known."""
    rows = _rows_read(plan, catalog)
    limits, approval = policy.limits, policy.approval
    cheaper = _cheaper(plan, catalog)
    if plan.gathered > MOST_GATHERED:
        reason = said_as("plan-gathers", n=f"{plan.gathered:,}", most=f"{MOST_GATHERED:,}")
        return Ruling(on="plan", verdict="refuse", policy_line="statement.growth", reason=reason), rows
    if limits.plan_rows is not None and rows > limits.plan_rows:
        reason = said_as("plan-rows-refused", n=f"{rows:,}", most=f"{limits.plan_rows:,}", cheaper=cheaper)
        return Ruling(on="plan", verdict="refuse", policy_line="limits.plan_rows", reason=reason), rows
    if limits.plan_cost is not None and plan.cost is not None and plan.cost > limits.plan_cost:
        most = f"{limits.plan_cost:,.0f}"
        reason = said_as("plan-cost-refused", cost=f"{plan.cost:,.0f}", most=most, cheaper=cheaper)
        return Ruling(on="plan", verdict="refuse", policy_line="limits.plan_cost", reason=reason), rows
    if approval.rows is not None and rows > approval.rows:
        reason = said_as("plan-rows-held", n=f"{rows:,}", most=f"{approval.rows:,}", cheaper=cheaper)
        return hold("plan", "approval.rows", reason), rows
    if approval.cost is not None and plan.cost is not None and plan.cost > approval.cost:
        most = f"{approval.cost:,.0f}"
        reason = said_as("plan-cost-held", cost=f"{plan.cost:,.0f}", most=most, cheaper=cheaper)
        return hold("plan", "approval.cost", reason), rows
    line = "limits.plan_rows" if limits.plan_rows is not None else "limits"
    kept = f"Reads about {rows:,} rows in full scans." if rows else "Reads no table from end to end."
    return Ruling(on="plan", verdict="run", policy_line=line, reason=kept), rows


def _rows_read(plan: Plan, catalog: Catalog) -> int:
    """Rows of the tables that are read from end to end; where the catalog knows no count, what the plan expects."""
    counts = [t.row_count for name in plan.full_scans if (t := catalog.table(name)) is not None]
    known = sum(c for c in counts if c is not None)
    return known if counts and all(c is not None for c in counts) else max(known, plan.rows or 0)


def _cheaper(plan: Plan, catalog: Catalog) -> str:
    """What would make it read less: a condition on a column that has an index, first of all on a time."""
    for name in plan.full_scans:
        table = catalog.table(name)
        if table is None:
            continue
        led = [c for i in table.indexes if (c := table.column(i.columns[0])) is not None]
        times = [c.name for c in led if c.kind == "temporal"]
        if times:
            return said_as("plan-cheaper-period", column=f"{name}.{times[0]}")
        if led:
            return said_as("plan-cheaper-condition", column=f"{name}.{led[0].name}")
    return said_as("plan-cheaper") if plan.full_scans else ""


def _texts_changed(draft: str, sql: str, engine: str, rewritten: exp.Expr) -> bool:
    """Whether a text came or went. A span may be written as a text, a text in the place of an alias as a name."""
    ours, (theirs, literals) = strings(sql, engine), strings_and_literals(draft, engine)
    spans = {f"-{text}" for text in literals}
    named = {
        str(node.args["alias"].name).casefold() for node in rewritten.find_all(exp.Alias) if node.args.get("alias")
    }
    if any(rewritten.find_all(exp.GroupConcat)):
        named.add(",")
        ours.discard(",")
    return bool(ours - literals - spans or theirs - ours - named)


def _unparsable(fault: ParseFault) -> Objection:
    hint = "Write plain SQL of the given dialect."
    return object_to(
        "unparsable", f"The SQL cannot be read: {fault}.", hint, "statement.parse", (fault.start, fault.end)
    )


def _refused(objections: list[Objection], tree: exp.Expr | None = None) -> TextRuling:
    first = objections[0]
    ruling = Ruling(on="text", verdict="refuse", policy_line=first.policy_line, reason=first.finding.message)
    return TextRuling(ruling, tuple(o.finding for o in objections), None, tree)
