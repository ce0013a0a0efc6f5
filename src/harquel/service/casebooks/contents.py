"""What a casebook shows to somebody: its text with figures filled in, its answers, what has moved.

What must hold: a figure stands in the text only for whom its answer would be shown; each reader's page is made for
that reader.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Final

from harquel.contract import (
    Casebook,
    CasebookAnswer,
    CasebookBlock,
    CasebookLine,
    Inquiry,
    ShownAnswer,
)
from harquel.core.answers.since import since
from harquel.core.casebooks import Block, Cited, Figures, Part, blocks, cited, typed_again
from harquel.core.domain.again import Before
from harquel.core.domain.inquiry import Inquiry as Known
from harquel.core.language.say import say
from harquel.service.access.caller import Caller
from harquel.service.access.models import Person
from harquel.service.inquiries.models import StoredInquiry
from harquel.service.inquiries.pictures import chart_of
from harquel.service.inquiries.shapes import inquiry_of, shape_of
from harquel.service.inquiries.shown import may_see, shown, without_since

from .models import StoredCasebook, StoredVersion

EVERYBODY: Final = "*"


@dataclass(frozen=True)
class Held:
    """One of its answers: its name, what is shown of it, the inquiry where that is shown, what asks it again."""

    name: str
    shown: ShownAnswer
    stored: StoredInquiry | None = None
    under_way: str | None = None


class Contents:
    """One version for one caller."""

    def __init__(
        self, casebook: StoredCasebook, version: StoredVersion, caller: Caller, only: str | None = None,
        leaves: bool = False,
    ) -> None:  # fmt: skip
        """`only`: the one answer that is wanted of it; `leaves`: it goes to people who are not here."""
        self._leaves = leaves
        self.casebook, self.version, self.caller, self.language = casebook, version, caller, casebook.language
        kept = [one for one in version.kept if only is None or one["name"] == only]
        keys = {key for one in kept for key in (one["inquiry"], one.get("before")) if key}
        found = StoredInquiry.objects.select_related("person", "result").filter(key__in=keys)
        self._stored = {one.key: one for one in found}
        self.held = [self._held(one) for one in kept]
        self._figures: dict[str, Figures | str] = {one.name: self._figures_of(one) for one in self.held}
        self.blocks: list[Block] = list(blocks(version.text, self.fill)) if only is None else []

    def fill(self, name: str, column: str | None, keys: Sequence[str]) -> Cited:
        """What a reference stands for."""
        return cited(name, column, keys, self._figures, self.language)

    def answer(self, name: str) -> Held | None:
        """One of its answers."""
        return next((one for one in self.held if one.name == name), None)

    def shape(self) -> Casebook:
        """On the wire."""
        mine = self.casebook.person_id == self.caller.person
        singles = {n: f.singles() for n, f in self._figures.items() if isinstance(f, Figures)}
        return Casebook(
            **line_of(self.casebook, self.version, self.caller).model_dump(), text=self.version.text,
            language=self.language,
            blocks=[
                CasebookBlock(
                    html=b.html, name=b.name or None, shows=list(b.shows), source=b.source, missing=b.missing
                )
                for b in self.blocks
            ],
            kept=[CasebookAnswer(name=h.name, answer=h.shown, under_way=h.under_way) for h in self.held],
            typed=typed_again(self.version.text, singles) if mine else {}, run_at=self.casebook.run_at,
        )  # fmt: skip

    def parts(self) -> list[Part]:
        """For a file."""
        return [self._part(block) for block in self.blocks]

    def told(self) -> list[tuple[str, Inquiry]]:
        """The answers that are shown, by their names."""
        return [(one.name, self._inquiry(one.stored)) for one in self.held if one.stored is not None]

    def line(self) -> str:
        """Whose it is, and of when."""
        at = f"{self.version.at:%Y-%m-%d %H:%M} UTC"
        return say(self.language, "casebook-line", owner=self.casebook.person.name, version=self.version.number, at=at)

    def _held(self, one: dict[str, Any]) -> Held:
        name, now = one["name"], self._stored.get(one["inquiry"])
        before = self._stored.get(one.get("before") or "")
        if now is None:
            gone = say(self.language, "casebook-gone")
            return Held(name, ShownAnswer(inquiry=one["inquiry"], state="no-answer", said=gone))
        found = shown(now, self.caller, self.language)
        open_ = now.key if now.state != "ended" else None
        if found.state in ("under-way", "no-answer") and before is not None:
            # What was there stays until there is something better, and it is said why.
            why = say(self.language, f"casebook-again-{found.state}")
            found = shown(before, self.caller, self.language)
            stored = before if found.state == "shown" else None
            return Held(name, found.model_copy(update={"said": why}), stored, open_)
        if found.state == "shown" and before is not None and not found.since and may_see(before, self.caller):
            found = found.model_copy(update=self._moved(inquiry_of(before), inquiry_of(now)))
        if self._leaves:
            # What was there before is another answer, of which nobody has asked whether it may go.
            found = found.model_copy(update={"since": "", "moved": None})
        # Why nothing could be asked may name what its owner has.
        elif not found.said and one.get("why") and self.casebook.person_id == self.caller.person:
            found = found.model_copy(update={"said": one["why"]})
        return Held(name, found, now if found.state == "shown" else None, open_)

    def _moved(self, before: Known, now: Known) -> dict[str, Any]:
        """What is different from the answer before it, for one that was asked anew."""
        if before.answer is None or now.answer is None:
            return {}
        was = before.answer.table
        kept = was.rows or not was.row_count
        found = since(
            Before(
                inquiry=before.id, as_of=before.as_of, asked_at=before.asked_at, sql="",
                columns=[c.name for c in was.columns], rows=was.rows if kept else None, cut=was.cut_by is not None,
            ),
            now.answer.table, now.language,
        )  # fmt: skip
        return {"since": found.said, "moved": None if found.same is None else not found.same}

    def _figures_of(self, held: Held) -> Figures | str:
        if held.stored is None:
            return held.shown.said or say(self.language, "cited-not-shown")
        inquiry = inquiry_of(held.stored)
        assert inquiry.answer is not None
        return Figures(inquiry.answer.table, inquiry.language, inquiry.trust != "clear")

    def _inquiry(self, stored: StoredInquiry) -> Inquiry:
        return without_since(shape_of(inquiry_of(stored), stored.thread))

    def _part(self, block: Block) -> Part:
        if not block.name:
            return Part(block)
        held = self.answer(block.name)
        if held is None:
            return Part(block, note=say(self.language, "cited-no-answer", name=block.name))
        if held.stored is None:
            return Part(block, note=f"{held.name}: {held.shown.said}")
        picture = chart_of(inquiry_of(held.stored), "svg") if "chart" in block.shows else b""
        return Part(block, self._inquiry(held.stored), picture, held.shown.since, held.shown.said)


def line_of(casebook: StoredCasebook, version: StoredVersion, caller: Caller) -> CasebookLine:
    """As it stands in the list."""
    named = dict(Person.objects.filter(pk__in=casebook.readers).values_list("pk", "name"))
    readers = [EVERYBODY] if casebook.open else [named[n] for n in casebook.readers if n in named]
    return CasebookLine(
        id=casebook.key, title=version.title, owner=casebook.person.name, mine=casebook.person_id == caller.person,
        readers=readers, answers=len(version.kept), version=version.number, changed_at=casebook.changed_at,
    )  # fmt: skip
