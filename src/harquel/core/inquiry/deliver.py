"""All rows of an earlier answer, written to a file: its statement runs once more, within bounds of its own.

What must hold: no row and no value leaves in a delivery that a question of the same person would not show, but for how
many; and none of a personal column, where the policy does not say that they may. So the statement is ruled on twice,
by what holds for questions and by what holds for deliveries, and what runs has passed both.
"""

from __future__ import annotations

from babel.numbers import format_decimal

from harquel.contract import events
from harquel.core.briefing import CatalogIndex
from harquel.core.domain.again import Before
from harquel.core.domain.catalog import Catalog
from harquel.core.domain.delivery import Delivered, Delivery
from harquel.core.domain.findings import Finding, Ruling
from harquel.core.domain.inquiry import Attempt, Caveat
from harquel.core.domain.joins import with_declared
from harquel.core.domain.policy import Policy
from harquel.core.domain.result import Result
from harquel.core.domain.statements import DraftedStatement
from harquel.core.domain.terms import Terms
from harquel.core.errors import SandboxError
from harquel.core.guard import TextRuling
from harquel.core.inquiry import endings
from harquel.core.inquiry.answer import fill_answer, language
from harquel.core.inquiry.course import Course
from harquel.core.inquiry.repair import Candidate
from harquel.core.inquiry.run import Run, may_go, plan_beside, stumbled
from harquel.core.language.say import said_as, say
from harquel.core.prompts import SqlReply


def deliver(course: Course, attempt: Attempt, before: Before) -> None:
    """Fills the answer with what was delivered. Raises End, Held, SourceError."""
    policy = course.source.policy
    _may_deliver(course, policy)
    draft = DraftedStatement(before.sql)
    ruled = _ruled(course, attempt, draft)
    plainly = ruled.ruling
    _take_terms(course, policy.delivering())
    ruled = _ruled(course, attempt, draft)
    ruling = _held(policy, plainly, ruled.ruling)
    if ruling.verdict == "hold":
        ruling = course.released(ruling)
        course.ruled(attempt, ruling, {})
        may_go(ruling)
    assert ruled.statement is not None
    attempt.rewritten_sql = ruled.statement.sql
    delivered = _delivered(course, Run(attempt, ruled))
    candidate = Candidate(attempt, SqlReply(draft, before.explanation), ruled, ruling, [])
    candidate.result = Result(
        delivered.columns, delivered.types, delivered.sample, delivered.cut_by, delivered.bytes, delivered.elapsed_ms
    )
    fill_answer(course, candidate, [])
    _told(course, before, delivered)


def _told(course: Course, before: Before, delivered: Delivered) -> None:
    inquiry, said = course.inquiry, language(course)
    answer = inquiry.answer
    assert answer is not None
    answer.delivery = Delivery(
        rows=delivered.rows, bytes=delivered.bytes, cut_by=delivered.cut_by, digest=delivered.digest,
        until=delivered.until,
    )  # fmt: skip
    answer.chart, answer.chart_note, answer.remark = None, "", ""
    written = format_decimal(delivered.rows, locale=said)
    answer.text = say(said, "delivered", rows=delivered.rows, written=written)
    # Doubts about the statement are those of then: it is the same.
    caveats = [Caveat(rule=rule, message=message) for rule, message in before.caveats if rule != "result-cut"]
    if delivered.cut_by is not None:
        message = say(said, f"delivered-cut-{delivered.cut_by}", written=written)
        caveats.append(Caveat(rule="delivery-cut", message=message))
    kept_back = [name for name in before.columns if name not in delivered.columns]
    if kept_back:
        message = say(said, "delivered-without", columns=", ".join(kept_back))
        caveats.append(Caveat(rule="delivery-without", message=message))
    answer.caveats = [*caveats, *(c for c in answer.caveats if c.rule not in {known.rule for known in caveats})]
    inquiry.trust = "caution" if answer.caveats else before.trust


def _may_deliver(course: Course, policy: Policy) -> None:
    """Raises End where the policy of the source, or nobody but others, may have it done."""
    if policy.delivery is None or course.source.deliver is None:
        raise endings.no_delivery(
            said_as("end-no-delivery"), said_as("end-no-delivery-hint"),
            "delivery",
        )  # fmt: skip
    roles = policy.delivery.roles
    if roles and not set(roles) & course.terms.person.roles:
        raise endings.no_delivery(
            said_as("end-delivery-roles"), said_as("end-delivery-roles-hint", roles=", ".join(roles)), "delivery.roles",
        )  # fmt: skip


def _ruled(course: Course, attempt: Attempt, draft: DraftedStatement) -> TextRuling:
    """Raises End where it may not run by the terms that hold now."""
    ruled = course.rule(draft)
    course.ruled(attempt, ruled.ruling, {"draft": str(draft)})
    if ruled.statement is not None:
        return ruled
    course.found(attempt, list(ruled.findings))
    if any(f.rule == "personal-column" for f in ruled.findings):
        raise endings.no_delivery(
            ruled.ruling.reason, said_as("end-delivery-personal-hint"),
            "delivery.personal",
        )  # fmt: skip
    raise endings.no_usable_draft(course.inquiry.attempts)


def _take_terms(course: Course, policy: Policy) -> None:
    """From here on these hold: nothing exists that did not exist before, and less of it is shown."""
    known = {table.name: {column.name for column in table.columns} for table in course.catalog.tables}

    def kept(table: str, column: str | None) -> bool:
        return table in known and (column is None or column in known[table])

    notes = course.source.notes
    course.terms = Terms(policy, course.terms.person)
    visible: Catalog = course.terms.visible(course.whole).only(kept)
    with course.clock.phase("briefing"):
        course.index = CatalogIndex.build(with_declared(visible, notes), notes, policy)
    course.restricted = course.terms.restricts(visible) or course.restricted


def _held(policy: Policy, plainly: Ruling, now: Ruling) -> Ruling:
    """What of them waits for somebody: the delivery as such, or what the statement reads."""
    assert policy.delivery is not None
    if policy.delivery.approval:
        return Ruling(
            on="text", verdict="hold", policy_line="delivery.approval",
            reason=said_as("held-whole"),
        )  # fmt: skip
    return plainly if plainly.verdict == "hold" else now


def _delivered(course: Course, one: Run) -> Delivered:
    """Dry run, ruling on the plan, then the run. Raises End, Held, SourceError."""
    plan_beside(course, one)
    try:
        if one.came is None:
            return _written(course, one)
        if isinstance(one.came, Exception):
            raise one.came
    except SandboxError as error:
        if error.fault == "store":
            raise endings.not_stored(error.said) from error
        stumbled(course, one.attempt, error)
        raise endings.no_usable_draft(course.inquiry.attempts) from error
    assert isinstance(one.came, Finding)
    raise endings.no_usable_draft(course.inquiry.attempts)


def _written(course: Course, one: Run) -> Delivered:
    write, statement = course.source.deliver, one.ruled.statement
    assert write is not None
    assert statement is not None
    with course.clock.phase("database"):
        done = write(statement, course.watcher.cancelled, course.clock.left())
    told = events.Delivered(
        number=one.attempt.number, row_count=done.rows, bytes=done.bytes, cut_by=done.cut_by,
        elapsed_ms=done.elapsed_ms, digest=done.digest,
    )  # fmt: skip
    course.tell(told, {"sql": statement.sql})
    return done
