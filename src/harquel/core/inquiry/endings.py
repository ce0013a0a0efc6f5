"""Why an inquiry ends without an answer, in words that say what to do."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from harquel.core.briefing.words import name_stems, stems
from harquel.core.domain.catalog import Catalog
from harquel.core.domain.clarify import Choice, Clarify
from harquel.core.domain.findings import Ruling
from harquel.core.domain.inquiry import Attempt, Outcome, ProblemNote
from harquel.core.domain.policy import Policy
from harquel.core.errors import Ending
from harquel.core.guard.guard import POLICY_RULES
from harquel.core.inquiry.open_point import OpenPoint

SAID_TO_ASKERS = frozenset({"personal-column", "row-rule", "plan-too-large", "listing-share"})
"""Rules whose hint says to people, too, what would be allowed instead."""


class End(Ending):
    """The inquiry ends here without an answer."""

    def __init__(self, outcome: Outcome, kind: str, title: str, hint: str = "", policy_line: str | None = None) -> None:
        super().__init__(title)
        self.outcome, self.problem = outcome, ProblemNote(type=kind, title=title, hint=hint, policy_line=policy_line)


class Held(Ending):
    """The inquiry waits here until somebody releases its statement."""

    def __init__(self, ruling: Ruling) -> None:
        super().__init__(ruling.reason)
        self.ruling = ruling


class AskedBack(Ending):
    """The inquiry ends here with a question to whoever asked."""

    def __init__(self, point: OpenPoint) -> None:
        super().__init__(point.question)
        choices = [Choice(id=r.id, label=r.label, reading=r.words) for r in point.ways]
        self.clarify = Clarify(question=point.question, choices=choices)


def out_of_time() -> End:
    """The clock of the whole inquiry has run out."""
    return End(
        "failed", "out-of-time", "The inquiry took longer than it may.",
        "Ask something narrower, or let a steward raise limits.inquiry_s.", "limits.inquiry_s",
    )  # fmt: skip


def out_of_tokens() -> End:
    """The models have written and read as much as an inquiry may cost."""
    return End(
        "failed", "out-of-tokens", "The inquiry used more tokens than it may.",
        "Ask something narrower, or let a steward raise limits.inquiry_tokens.", "limits.inquiry_tokens",
    )  # fmt: skip


def standing_still() -> End:
    """Somebody has stopped everything."""
    return End(
        "refused", "standstill", "Everything stands still: no statement reaches a database.",
        "An administrator takes that back with harquel standstill off; then ask again.", "standstill",
    )  # fmt: skip


def account_can_write(fault: str) -> End:
    """The policy asks for an account that may only read, and ours is another."""
    return End(
        "refused", "account-can-write", f"Nothing is asked with this account. {fault}",
        "A steward connects the source with an account that may only read: harquel source account prints the script.",
        "require_read_only_account",
    )  # fmt: skip


def change_refused(attempts: Sequence[Attempt]) -> End:
    """The question asks for a change."""
    refused = [r for a in attempts for r in a.rulings if r.verdict == "refuse"]
    line = refused[-1].policy_line if refused else "statement.reads-only"
    return End(
        "refused", "change-refused", "The question asks for a change; only reading is allowed here.",
        "Ask for the figures instead, or make the change in the application that owns the data.", line,
    )  # fmt: skip


def not_in_data(why: str, nearest: Sequence[str] = ()) -> End:
    """The model says that the data is not there. What it says about that is quoted as its words, never as ours.

    `nearest` are questions that are known to be answered here.
    """
    quoted = f"The model's words: {quote(why)} " if why else ""
    offered = f" Answered here, for example: {' · '.join(nearest)}" if nearest else ""
    return End(
        "unanswerable", "not-in-data", "The data does not hold what the question needs, says the model.",
        f"{quoted}Ask a steward whether the data exists elsewhere, or say it in words that the source knows.{offered}",
    )  # fmt: skip


def quote(words: str) -> str:
    """A model's words between quotation marks that they cannot close."""
    inside = words.replace("“", "'").replace("”", "'")
    return f"“{inside}”"


def not_granted(table: str, grant: str) -> End:
    """The data would be there, but our account may not read it."""
    return End(
        "unanswerable", "not-granted", f"The table {table} is there, but this service's account may not read it.",
        f"Not granted yet: an administrator of the database runs {grant}",
    )  # fmt: skip


def no_usable_draft(attempts: Sequence[Attempt]) -> End:
    """No draft could be used: refused when policy stood in the way, else failed."""
    last = attempts[-1]
    refusals = [r for r in last.rulings if r.verdict == "refuse"]
    if refusals and {f.rule for f in last.findings} & POLICY_RULES:
        hint = next((f.hint for f in last.findings if f.hint and f.rule in SAID_TO_ASKERS), "")
        return End(
            "refused", "refused-by-policy", refusals[-1].reason,
            hint or "Ask for something that only reads, or narrow the question.", refusals[-1].policy_line,
        )  # fmt: skip
    # What ended it: the database's error, or what was held against the last draft; a mere doubt ends nothing.
    said = [f.message for f in reversed(last.findings)]
    stopped = [f.message for f in reversed(last.findings) if f.severity == "error"]
    errors = [a.error for a in reversed(attempts) if a.error]
    reason = last.error or next(iter([*stopped, *errors, *said, "No usable reply."]))
    return End(
        "failed", "no-usable-draft", f"No usable SQL came out of {len(attempts)} attempts. The last problem: {reason}",
        "Put the question in other words, or ask a steward to describe the data that it is about.",
    )  # fmt: skip


def no_delivery(title: str, hint: str, policy_line: str) -> End:
    """The policy does not let the whole result go."""
    return End("refused", "not-delivered", title, hint, policy_line)


def not_stored(why: str) -> End:
    """The file could not be written."""
    return End("failed", "not-stored", f"The file could not be written: {why}.", "Tell the operator: the disk is full.")


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
