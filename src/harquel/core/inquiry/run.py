"""From a statement that may run to its result: dry run, ruling on the plan, run; and what to say when that fails."""

from __future__ import annotations

import json
from dataclasses import dataclass, replace

from harquel.contract import events
from harquel.core.domain.findings import Finding, Ruling
from harquel.core.domain.inquiry import Attempt, DryRun, RunFigures
from harquel.core.domain.result import Plan, Result
from harquel.core.domain.statements import RuledStatement
from harquel.core.errors import CoreError, SandboxError, SourceError
from harquel.core.guard import TextRuling, rule_on_plan
from harquel.core.inquiry import endings
from harquel.core.inquiry.course import Course
from harquel.core.language.say import said_as

_PLAINLY = {
    "time": "the statement did not end in time and was stopped", "memory": "it needed more memory than is allowed",
    "source": "it did not answer",
}  # fmt: skip


@dataclass
class Run:
    """A statement to be run, and what came of it.

    `came` is the result; a Finding when the plan is refused; Held when it waits for a release; the error when the
    database turned it down. None as long as it has not been tried.
    """

    attempt: Attempt
    ruled: TextRuling
    duty: str = ""
    """What it is run for, where that is not what its inquiry is at; told with all that happens to it."""
    came: Result | Finding | SandboxError | endings.Held | None = None


def run_statement(course: Course, attempt: Attempt, ruled: TextRuling) -> Result | Finding:
    """Dry run, ruling on the plan, run; a Finding when the plan is refused. Raises Held, SandboxError."""
    one = Run(attempt, ruled)
    run_beside(course, one)
    return result_of(one)


def result_of(one: Run) -> Result | Finding:
    """What came of a statement. Raises Held, SandboxError."""
    assert one.came is not None
    if isinstance(one.came, Exception):
        raise one.came
    return one.came


def run_beside(course: Course, first: Run, *others: Run) -> None:
    """Runs statements at the same time, each after a dry run and the ruling on its plan; nobody waits for them in turn.

    The others do not run where the first one cannot. Raises Cancelled.
    """
    runs = [first, *others]
    stopped, sandbox = course.watcher.cancelled, course.source.sandbox
    plan_beside(course, *runs)
    ready = [r for r in runs if r.came is None] if first.came is None else []
    if not ready:
        return
    with course.clock.phase("database"):
        results = sandbox.run_each([_statement(r) for r in ready], stopped, course.clock.left())
    for one, result in zip(ready, results, strict=True):
        with course.doing(one.duty or course.duty):
            one.came = _ran(course, one, result)


def plan_beside(course: Course, *runs: Run) -> None:
    """Dry runs and the rulings on them: where one may not go on, why not is what came of it. Raises Cancelled."""
    with course.clock.phase("database"):
        plans = course.source.sandbox.plan_each(
            [_statement(r) for r in runs], course.watcher.cancelled, course.clock.left()
        )
    for one, plan in zip(runs, plans, strict=True):
        with course.doing(one.duty or course.duty):
            one.came = _refused(course, one, plan)


def _statement(one: Run) -> RuledStatement:
    assert one.ruled.statement is not None
    return one.ruled.statement


def _refused(course: Course, one: Run, plan: Plan | CoreError) -> Finding | SandboxError | endings.Held | None:
    """Why a statement may not run by its plan; None when it may."""
    if isinstance(plan, CoreError):
        return _of_the_sandbox(plan)
    attempt = one.attempt
    with course.clock.phase("guard"):
        on_plan, rows = rule_on_plan(plan, course.whole, course.source.policy)
    # What a plan expects, it expects of all rows.
    shown = () if course.restricted else plan.steps
    if not course.restricted:
        attempt.dry_run = DryRun(steps=list(shown), rows=rows, cost=plan.cost)
    expected = None if course.restricted else rows
    course.tell(events.Planned(number=attempt.number, steps=list(shown), rows=expected))
    if course.restricted:
        on_plan = replace(on_plan, reason=_without_figures(on_plan))
    on_plan = course.released(on_plan)
    course.ruled(attempt, on_plan, {})
    if on_plan.verdict == "hold":
        return endings.Held(on_plan)
    if on_plan.verdict == "refuse":
        hint = said_as("plan-cheaper")
        finding = Finding(rule="plan-too-large", severity="error", message=on_plan.reason, hint=hint)
        course.found(attempt, [finding])
        return finding
    return None


def _ran(course: Course, one: Run, result: Result | CoreError) -> Result | SandboxError:
    if isinstance(result, CoreError):
        return _of_the_sandbox(result)
    attempt = one.attempt
    attempt.run = RunFigures(row_count=len(result.rows), bytes=result.bytes, elapsed_ms=result.elapsed_ms)
    rows_text = json.dumps(result.rows, ensure_ascii=False, separators=(",", ":"))
    ran = events.Ran(
        number=attempt.number, row_count=len(result.rows), bytes=result.bytes, cut_by=result.cut_by,
        elapsed_ms=result.elapsed_ms,
    )  # fmt: skip
    course.tell(ran, {"sql": _statement(one).sql, "rows": rows_text})
    return result


def _of_the_sandbox(error: CoreError) -> SandboxError:
    if not isinstance(error, SandboxError):
        raise error
    return error


def may_go(ruling: Ruling) -> None:
    """Raises Held for what waits for a release that nobody has given."""
    if ruling.verdict == "hold":
        raise endings.Held(ruling)


def stumbled(course: Course, attempt: Attempt, error: SandboxError) -> str:
    """A run that did not come to an end: what the model is told, unless the model is not to blame.

    Raises End while everything stands still, SourceError when the database does not answer.
    """
    # The words of a database can hold a value of a row that this person may not see.
    words = str(error)
    if course.restricted:
        words = _PLAINLY.get(error.fault, "the database turned the statement down")
    attempt.error = words
    course.tell(events.Stumbled(number=attempt.number, fault=error.fault), {"error": words})
    if error.fault == "still":
        raise endings.standing_still()
    if error.fault == "source":
        raise SourceError(said_as("error-unreadable", why=words), said_as("error-unreadable.hint"))
    if error.fault == "time":
        limit = course.source.policy.limits.query_s
        return f"The statement ran longer than {limit:g} s and was stopped. Make it read less."
    if error.fault == "memory":
        return "The statement needed more memory than it may. Aggregate or narrow it."
    return words


def _without_figures(ruling: Ruling) -> str:
    """Why a plan was ruled so, without what it says about rows that somebody may not see."""
    return {"run": "The plan keeps to the limits.", "hold": said_as("plan-large-held")}.get(
        ruling.verdict, said_as("plan-large-refused")
    )
