"""Whether an answer may be seen by others than whoever asked."""

from __future__ import annotations

from dataclasses import replace

from harquel.core.briefing import Describer
from harquel.core.domain.followed import earlier_of
from harquel.service.access.caller import Caller
from harquel.service.runtime import runtime
from harquel.service.sources.live import LiveSource

from .models import StoredInquiry
from .shapes import inquiry_of


def for_others(stored: StoredInquiry, caller: Caller, source: LiveSource) -> bool:
    """Whether nothing personal is in it: its statement is the same where every personal column may only be counted,
    whoever asks.
    """
    inquiry, core = inquiry_of(stored), source.core
    draft = earlier_of(inquiry).sql
    if not draft or inquiry.answer is None:
        return False
    strict = replace(core, describer=Describer(core.policy.for_others(), core.notes))

    def same(sql: str, ran: str) -> bool:
        found = runtime().conductors.review(sql, strict, source.now(None), caller.asker)
        return found.verdict != "refuse" and found.rewritten_sql == ran

    other = inquiry.second_opinion
    # Where another way came to something else, a caveat says to what.
    told = other.rewritten_sql if other is not None and not other.agrees else None
    return same(draft, inquiry.answer.sql) and (told is None or same(told, told))
