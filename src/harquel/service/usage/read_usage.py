"""What calls of language models came to."""

from __future__ import annotations

import datetime as dt
from decimal import Decimal
from typing import Any, Final

from django.db.models import Count, Q, QuerySet, Sum

from harquel.contract.usage import BudgetLine, UsageLine, UsageQuery, UsageReport
from harquel.core.clock import utc_now
from harquel.service.access.caller import Caller
from harquel.service.errors import ProblemError
from harquel.service.operations import NO_SUBJECT, Call, operation
from harquel.service.runtime import runtime

from .meter import NANO
from .models import ModelCall

_DAYS: Final = 30
_MOST: Final = 500
_SUMS: Final = {
    "calls": Count("pk"), "prompt_tokens": Sum("prompt_tokens"), "completion_tokens": Sum("completion_tokens"),
    "reasoning_tokens": Sum("reasoning_tokens"), "cached_tokens": Sum("cached_tokens"),
    "estimated": Count("pk", filter=Q(estimated=True)), "nano": Sum("cost_nano"),
}  # fmt: skip


@operation(
    "usage.read", takes=UsageQuery, gives=UsageReport, about=NO_SUBJECT,
    rule="one's own calls; with the scope audit those of all on the sources of the token",
)  # fmt: skip
def read_usage(call: Call[UsageQuery, None]) -> UsageReport:
    """Tokens and cost of calls of language models in some days, added up; and what of today's budgets is spent."""
    until = _day(call.asked.until) or utc_now().date()
    since = _day(call.asked.since) or until - dt.timedelta(days=_DAYS)
    found = _visible(call.caller).filter(day__gte=since, day__lte=until)
    by = call.asked.by
    grouped = found.values(by).annotate(**_SUMS)
    ordered = grouped.order_by("day") if by == "day" else grouped.order_by("-nano", "-prompt_tokens", by)
    lines = [_line(str(row[by]), row) for row in ordered[:_MOST]]
    live = runtime()
    # What others spend is for auditors.
    audits = call.caller.may("audit")
    seen = [name for name in live.sources if audits and call.caller.sees(name)]
    budgets = [
        BudgetLine(name=b.name, unit=b.unit, limit=f"{b.limit:f}", spent=f"{b.spent:f}")
        for b in live.meter.standing(call.caller.name, seen, audits and call.caller.everywhere)
    ]
    return UsageReport(
        since=since, until=until, by=by, lines=lines, total=_line("", found.aggregate(**_SUMS)), budgets=budgets
    )  # fmt: skip


def _visible(caller: Caller) -> QuerySet[ModelCall]:
    """Those that somebody may know of."""
    found = ModelCall.objects.all() if caller.everywhere else ModelCall.objects.filter(source__in=caller.sources)
    return found if caller.may("audit") else found.filter(person=caller.name)


def _day(text: str | None) -> dt.date | None:
    if not text:
        return None
    try:
        return dt.date.fromisoformat(text)
    except ValueError as error:
        raise ProblemError(422, "invalid-day", "problem-invalid-day", day=text[:40]) from error


def _line(name: str, row: dict[str, Any]) -> UsageLine:
    figures = {key: row[key] or 0 for key in _SUMS if key != "nano"}
    return UsageLine(name=name, cost=f"{Decimal(row['nano'] or 0) / NANO:f}", **figures)
