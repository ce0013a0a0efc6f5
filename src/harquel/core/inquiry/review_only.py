"""A SQL text that somebody wrote, looked at without running it: guard, review, dry run."""

from __future__ import annotations

import datetime as dt

from harquel.core.answers import read_back
from harquel.core.clock import utc_now
from harquel.core.domain.inquiry import DryRun
from harquel.core.domain.person import NOBODY, Person
from harquel.core.domain.reviewed import Reviewed
from harquel.core.domain.statements import DraftedStatement
from harquel.core.domain.terms import Terms
from harquel.core.guard import rule_on_plan, rule_on_text
from harquel.core.inquiry.source import Source
from harquel.core.review import review_draft
from harquel.core.review.statement import statement_of


def review_sql(sql: str, source: Source, person: Person = NOBODY, now: dt.datetime | None = None) -> Reviewed:
    """Guard, review and dry run for a text that somebody wrote, without running it. `now` is what it takes for now.

    Raises SourceError, SandboxError.
    """
    whole = source.catalog(lambda: False)
    index = source.describer.of(whole, person)
    catalog = index.catalog
    ruling = rule_on_text(DraftedStatement(sql), source.engine, catalog, source.policy, person, whole)
    if ruling.statement is None:
        return Reviewed(verdict="refuse", rulings=[ruling.ruling], findings=list(ruling.findings))
    assert ruling.tree is not None
    found = review_draft(ruling.tree, index, now or utc_now()).findings
    plan = source.sandbox.plan(ruling.statement)
    on_plan, rows = rule_on_plan(plan, whole, source.policy)
    restricted = Terms(source.policy, person).restricts(source.policy.visible(whole))
    return Reviewed(
        verdict=on_plan.verdict if ruling.ruling.verdict == "run" else ruling.ruling.verdict,
        rulings=[ruling.ruling, on_plan],
        findings=[*ruling.findings, *found],
        read_back=read_back(statement_of(ruling.tree, catalog), source.notes),
        rewritten_sql=ruling.statement.sql,
        dry_run=None if restricted else DryRun(steps=list(plan.steps), rows=rows, cost=plan.cost),
    )
