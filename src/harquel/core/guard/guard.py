"""The two rulings: on the text of a draft, and on the plan of the statement made from it."""

from __future__ import annotations

from dataclasses import dataclass

from sqlglot import exp

from harquel.contract import Finding, Ruling
from harquel.core.domain.catalog import Catalog
from harquel.core.domain.policy import Policy
from harquel.core.domain.result import Plan
from harquel.core.domain.statements import DraftedStatement, RuledStatement
from harquel.core.guard.context import GuardContext, Objection, object_to
from harquel.core.guard.rewriting import expand_stars, write_row_limit
from harquel.core.guard.rules import RULES
from harquel.core.sql.names import resolve
from harquel.core.sql.tree import ParseFault, parse, render

POLICY_RULES = frozenset({"reads-only", "unknown-construct", "function-not-allowed", "plan-too-large"})
"""Rules whose refusal is a matter of policy; the others point at a mistake in the draft."""


@dataclass(frozen=True)
class TextRuling:
    """`statement` is there exactly when the verdict is to run; `tree` is what the draft said."""

    ruling: Ruling
    findings: tuple[Finding, ...]
    statement: RuledStatement | None = None
    tree: exp.Expr | None = None


def rule_on_text(draft: DraftedStatement, engine: str, catalog: Catalog, policy: Policy) -> TextRuling:
    """Decides on a draft; what is nested too deeply to be looked through is refused."""
    try:
        return _rule_on_text(draft, engine, catalog, policy)
    except RecursionError:
        return _refused([_unparsable(ParseFault("it is nested too deeply"))])


def _rule_on_text(draft: DraftedStatement, engine: str, catalog: Catalog, policy: Policy) -> TextRuling:
    """Decides on a draft. `catalog` is the visible one: what it lacks does not exist.

    1. one statement, and one that parses
    2. every rule over the tree, names resolved
    3. rewriting: stars expanded, the row limit written in
    4. our rendering, which must parse back to the same tree and pass every rule again
    """
    # 1
    try:
        trees = parse(draft, engine)
    except ParseFault as fault:
        return _refused([_unparsable(fault)])
    if len(trees) != 1:
        message = f"There must be exactly one statement; this text holds {len(trees)}."
        hint = "Answer with a single SELECT and no semicolon inside."
        return _refused([object_to("one-statement", message, hint, "statement.one")])
    tree = trees[0]
    # 2
    objections = _ask_rules(tree, engine, catalog, policy)
    if objections:
        return _refused(objections, tree)
    # 3
    try:
        rewritten = tree.copy()
        expand_stars(rewritten, resolve(rewritten, catalog))
        rewritten = write_row_limit(rewritten, policy.limits.rows)
        expand_stars(rewritten, resolve(rewritten, catalog))
        # 4
        sql = render(rewritten, engine)
        again = parse(sql, engine)
    except ParseFault as fault:
        return _refused([_unparsable(fault)], tree)
    if len(again) != 1 or again[0] != rewritten:
        return _refused([_unparsable(ParseFault("it reads differently once it is written out again"))], tree)
    objections = _ask_rules(again[0], engine, catalog, policy)
    if objections:
        return _refused(objections, tree)
    reads = {table: frozenset(columns) for table, columns in resolve(again[0], catalog).reads.items()}
    statement = RuledStatement(sql, reads, policy.limits.rows)
    ruling = Ruling(on="text", verdict="run", policy_line="statement", reason="Reads only what is exposed.")
    return TextRuling(ruling, (), statement, tree)


def rule_on_plan(plan: Plan, catalog: Catalog, policy: Policy) -> tuple[Ruling, int | None]:
    """Decides on the dry run; also returns how many rows the full scans would read, where known."""
    counts = [t.row_count for name in plan.full_scans if (t := catalog.table(name)) is not None]
    rows = sum(c for c in counts if c is not None) if counts else 0
    limit = policy.limits.plan_rows
    if limit is not None and rows > limit:
        reason = f"The plan would read about {rows:,} rows; at most {limit:,} are allowed."
        return Ruling(on="plan", verdict="refuse", policy_line="limits.plan_rows", reason=reason), rows
    line = "limits.plan_rows" if limit is not None else "limits"
    reason = f"Reads about {rows:,} rows in full scans." if rows else "Reads no table from end to end."
    return Ruling(on="plan", verdict="run", policy_line=line, reason=reason), rows


def _ask_rules(tree: exp.Expr, engine: str, catalog: Catalog, policy: Policy) -> list[Objection]:
    context = GuardContext(tree, engine, catalog, policy, resolve(tree, catalog))
    for rule in RULES:
        objections = rule(context)
        if objections:
            return objections
    return []


def _unparsable(fault: ParseFault) -> Objection:
    hint = "Write plain SQL of the given dialect."
    return object_to(
        "unparsable", f"The SQL cannot be read: {fault}.", hint, "statement.parse", (fault.start, fault.end)
    )


def _refused(objections: list[Objection], tree: exp.Expr | None = None) -> TextRuling:
    first = objections[0]
    ruling = Ruling(on="text", verdict="refuse", policy_line=first.policy_line, reason=first.finding.message)
    return TextRuling(ruling, tuple(o.finding for o in objections), None, tree)
