"""What models are told of a source for one inquiry: put together once for all that are asked, anew where it must be."""

from __future__ import annotations

from typing import Final

from harquel.contract import events
from harquel.core.briefing.brief import Briefing, brief
from harquel.core.domain.catalog import Catalog
from harquel.core.inquiry.course import Course
from harquel.core.inquiry.doubt import asked
from harquel.core.llm.model import Message
from harquel.core.prompts import compose

_LEAST: Final = 400
"""Tokens of a briefing of which no half is tried."""


class Briefed:
    """The briefing of an inquiry: more of the catalog where a model asks for it, less where one cannot read so much."""

    def __init__(self, course: Course) -> None:
        self._course = course
        self.wanted: tuple[str, ...] = ()
        """What a model asked to see beyond it."""
        self._budget = course.source.policy.limits.prompt_tokens
        self._made: tuple[tuple[str, ...], int, Catalog, Briefing] | None = None

    def now(self) -> Briefing:
        """From the catalog as it is now."""
        course, made = self._course, self._made
        if made is None or made[:2] != (self.wanted, self._budget) or made[2] is not course.catalog:
            with course.clock.phase("briefing"):
                found = brief(
                    asked(course), course.index, course.usable_examples(), self._budget, course.source.gauge,
                    self.wanted,
                )  # fmt: skip
            self._made = made = (self.wanted, self._budget, course.catalog, found)
        return made[3]

    def more(self, wanted: tuple[str, ...]) -> bool:
        """Whether there is something among it that was not asked for before; it is shown from now on."""
        if set(wanted) <= set(self.wanted):
            return False
        self.wanted += wanted
        return True

    def less(self) -> bool:
        """Whether half of it can be tried; it is from now on."""
        shown = min(self._budget, self.now().summary.tokens)
        if shown < _LEAST:
            return False
        self._budget = shown // 2
        return True

    def open_conversation(self) -> list[Message]:
        """The first messages to who drafts."""
        course, briefing = self._course, self.now()
        picked = course.inquiry.briefing = briefing.summary
        course.tell(
            events.Briefed(
                tables=[t.name for t in picked.tables], examples=len(briefing.examples), tokens=picked.tokens,
                catalog=course.catalog.fingerprint,
            )
        )  # fmt: skip
        with course.clock.phase("prompt"):
            return compose(
                asked(course), briefing, course.now, course.inquiry.asked_by, prompts=course.source.prompts
            )  # fmt: skip
