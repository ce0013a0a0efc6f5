"""Why an inquiry ends without an answer, in words that say what to do."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

from harquel.core.briefing.words import name_stems, stems
from harquel.core.domain.catalog import Catalog
from harquel.core.domain.clarify import Choice, Clarify
from harquel.core.domain.findings import Ruling
from harquel.core.domain.inquiry import Attempt, Outcome, ProblemNote
from harquel.core.domain.policy import Policy
from harquel.core.errors import CoreError, Ending
from harquel.core.guard.guard import POLICY_RULES
from harquel.core.inquiry.open_point import OpenPoint, Way
from harquel.core.language.say import in_language, said_as, say

SAID_TO_ASKERS = frozenset({"personal-column", "row-rule", "plan-too-large", "listing-share"})
"""Rules whose hint says to people, too, what would be allowed instead."""


class End(Ending):
    """The inquiry ends here without an answer."""

    def __init__(self, outcome: Outcome, kind: str, title: str, hint: str = "", policy_line: str | None = None) -> None:
        super().__init__(title)
        self.outcome, self.problem = outcome, ProblemNote(type=kind, title=title, hint=hint, policy_line=policy_line)


def told(note: ProblemNote, language: str) -> ProblemNote:
    """In the language of whoever asked, as far as it was made of messages."""
    return replace(note, title=in_language(note.title, language), hint=in_language(note.hint, language))


def cancelled(language: str) -> ProblemNote:
    """Somebody stopped it."""
    return ProblemNote(type="cancelled", title=say(language, "end-cancelled"))


def failed(kind: str, error: CoreError, language: str) -> ProblemNote:
    """What went wrong, in the words of the error."""
    return told(ProblemNote(type=kind, title=said_as(f"end-{kind}", said=error.said), hint=error.hint), language)


class Held(Ending):
    """The inquiry waits here until somebody releases its statement."""

    def __init__(self, ruling: Ruling) -> None:
        super().__init__(ruling.reason)
        self.ruling = ruling


def which_source(between: Sequence[Choice]) -> OpenPoint:
    """What is asked where a question could be of several sources."""
    return OpenPoint(said_as("which-source"), tuple(Way(c.id, c.label, "") for c in between))


class AskedBack(Ending):
    """The inquiry ends here with a question to whoever asked."""

    def __init__(self, point: OpenPoint) -> None:
        super().__init__(point.question)
        choices = [Choice(id=r.id, label=r.label, reading=r.words, question=r.question) for r in point.ways]
        self.clarify = Clarify(question=point.question, choices=choices)

    def told(self, language: str) -> Clarify:
        """The question in the language of whoever is asked."""
        return replace(self.clarify, question=in_language(self.clarify.question, language))


def asks_nothing() -> AskedBack:
    """What was said after an answer asks for nothing."""
    return AskedBack(OpenPoint(said_as("asks-nothing"), ()))


def follow_up_unclear() -> AskedBack:
    """What was said after an answer could not be put into a question that stands alone."""
    return AskedBack(OpenPoint(said_as("follow-up-unclear"), ()))


def out_of_time() -> End:
    """The clock of the whole inquiry has run out."""
    return End(
        "failed", "out-of-time", said_as("end-out-of-time"), said_as("narrower", limit="limits.inquiry_s"),
        "limits.inquiry_s",
    )  # fmt: skip


def out_of_tokens() -> End:
    """The models have written and read as much as an inquiry may cost."""
    return End(
        "failed", "out-of-tokens", said_as("end-out-of-tokens"), said_as("narrower", limit="limits.inquiry_tokens"),
        "limits.inquiry_tokens",
    )  # fmt: skip


def standing_still() -> End:
    """Somebody has stopped everything."""
    return End(
        "refused", "standstill", said_as("end-standstill"), said_as("end-standstill-hint"), "standstill",
    )  # fmt: skip


def account_can_write(fault: str) -> End:
    """The policy asks for an account that may only read, and ours is another."""
    return End(
        "refused", "account-can-write", said_as("end-account", fault=fault), said_as("end-account-hint"),
        "require_read_only_account",
    )  # fmt: skip


def change_refused(attempts: Sequence[Attempt]) -> End:
    """The question asks for a change."""
    refused = [r for a in attempts for r in a.rulings if r.verdict == "refuse"]
    line = refused[-1].policy_line if refused else "statement.reads-only"
    return End(
        "refused", "change-refused", said_as("end-change"), said_as("end-change-hint"), line,
    )  # fmt: skip


def not_in_data(why: str, nearest: Sequence[str] = ()) -> End:
    """The model says that the data is not there. What it says about that is quoted as its words, never as ours.

    `nearest` are questions that are known to be answered here.
    """
    hint = said_as("end-not-in-data-hint")
    hint = said_as("models-words", words=quote(why), then=hint) if why else hint
    hint = said_as("answered-here", then=hint, questions=" · ".join(nearest)) if nearest else hint
    return End("unanswerable", "not-in-data", said_as("end-not-in-data"), hint)


def quote(words: str) -> str:
    """A model's words between quotation marks that they cannot close."""
    inside = words.replace("“", "'").replace("”", "'")
    return f"“{inside}”"


def not_granted(table: str, grant: str) -> End:
    """The data would be there, but our account may not read it."""
    title, hint = said_as("end-not-granted", table=table), said_as("end-not-granted-hint", grant=grant)
    return End("unanswerable", "not-granted", title, hint)


def no_usable_draft(attempts: Sequence[Attempt]) -> End:
    """No draft could be used: refused when policy stood in the way, else failed."""
    last = attempts[-1]
    refusals = [r for r in last.rulings if r.verdict == "refuse"]
    if refusals and {f.rule for f in last.findings} & POLICY_RULES:
        hint = next((f.hint for f in last.findings if f.hint and f.rule in SAID_TO_ASKERS), "")
        return End(
            "refused", "refused-by-policy", refusals[-1].reason,
            hint or said_as("end-refused-hint"), refusals[-1].policy_line,
        )  # fmt: skip
    # What ended it: the database's error, or what was held against the last draft; a mere doubt ends nothing.
    said = [f.message for f in reversed(last.findings)]
    stopped = [f.message for f in reversed(last.findings) if f.severity == "error"]
    errors = [a.error for a in reversed(attempts) if a.error]
    reason = last.error or next(iter([*stopped, *errors, *said, said_as("no-usable-reply")]))
    title = said_as("end-no-draft", n=len(attempts), reason=reason)
    return End("failed", "no-usable-draft", title, said_as("end-no-draft-hint"))


def no_delivery(title: str, hint: str, policy_line: str) -> End:
    """The policy does not let the whole result go."""
    return End("refused", "not-delivered", title, hint, policy_line)


def not_stored(why: str) -> End:
    """The file could not be written."""
    return End("failed", "not-stored", said_as("end-not-stored", why=why), said_as("end-not-stored-hint"))


def closed_table(
    question: str, attempts: Sequence[Attempt], catalog: Catalog, policy: Policy, grant: Callable[[str], str]
) -> End | None:
    """When the question or a draft speaks of an exposed table that our account may not read: the ending that says so.

    A table that is not exposed is never named.
    """
    spoken = " ".join([question, *(a.draft.sql for a in attempts if a.draft is not None)])
    words = set(stems(spoken))
    for table in catalog.tables:
        if not table.readable and policy.shows(table.name, None) and set(name_stems(table.plain)) <= words:
            return not_granted(table.name, grant(table.name))
    return None
