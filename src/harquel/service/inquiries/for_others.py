"""Whether an answer may be seen by others than whoever asked.

What must hold: nobody sees a row or a value of an answer that a question of their own would not show them, as policy
and rights are now. It is found out by the statement: it has to come out of guard and rewriting, for whoever is to see
the answer, as the very statement that ran.
"""

from __future__ import annotations

from dataclasses import replace

from harquel.core.briefing import Describer
from harquel.core.domain.followed import earlier_of
from harquel.core.domain.person import Person as Asker
from harquel.core.inquiry.source import Source
from harquel.service.access.caller import Caller
from harquel.service.access.models import asker
from harquel.service.runtime import runtime
from harquel.service.sources.live import LiveSource

from .models import StoredInquiry
from .shapes import inquiry_of


def for_others(stored: StoredInquiry, caller: Caller, source: LiveSource) -> bool:
    """Whether nothing personal is in it: its statement is the same where every personal column may only be counted,
    whoever asks.
    """
    core = source.core
    strict = replace(core, describer=Describer(core.policy.for_others(), core.notes))
    return _same(stored, strict, source, caller.asker, ("run", "hold"))


def sees_as_much(stored: StoredInquiry, caller: Caller) -> bool:
    """Whether somebody who did not ask may see the answer: asked by them, it would be of the same statement, which
    nobody would have to release; and where more than the rows is told, the same exists for both. What was different
    before is another answer's: it is not spoken of here.
    """
    source = runtime().sources.get(stored.source)
    if source is None or not source.enabled or not caller.sees(stored.source):
        return False
    answer = inquiry_of(stored).answer
    if answer is None or answer.delivery is not None:
        return False
    # What is doubted may tell of rows beside those of the statement.
    if answer.caveats and not _same_exists(stored, caller, source):
        return False
    return _same(stored, source.core, source, caller.asker, ("run",))


def _same(
    stored: StoredInquiry, core: Source, source: LiveSource, person: Asker, verdicts: tuple[str, ...]
) -> bool:  # fmt: skip
    inquiry = inquiry_of(stored)
    draft = earlier_of(inquiry).sql
    if not draft or inquiry.answer is None:
        return False

    def same(sql: str, ran: str) -> bool:
        found = runtime().conductors.review(sql, core, source.now(None), person)
        return found.verdict in verdicts and found.rewritten_sql == ran

    other = inquiry.second_opinion
    # Where another way came to something else, a caveat says to what.
    told = other.rewritten_sql if other is not None and not other.agrees else None
    return same(draft, inquiry.answer.sql) and (told is None or same(told, told))


def _same_exists(stored: StoredInquiry, caller: Caller, source: LiveSource) -> bool:
    catalog = source.keeper.known()
    if catalog is None:
        return False
    describer = source.core.describer
    marked = describer.marked(catalog)
    then = asker(stored.person.name, list(stored.roles), dict(stored.values))
    return describer.terms(then).sight(marked) == describer.terms(caller.asker).sight(marked)
