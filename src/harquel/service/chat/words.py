"""What is said in a chat: short, in the language of whoever asked, with nothing in it that a chat would act on."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Final

from harquel.contract import Inquiry
from harquel.contract.figures import in_a_line
from harquel.core.answers.exports import aligned
from harquel.core.language.say import say

MOST: Final = 600
"""Characters of a reply, its link included."""
ROWS, COLUMNS = 8, 4
"""Of a table, at most."""
MORE_ROWS, MORE_COLUMNS = 30, 6
"""The same where more is wished."""
_CELL: Final = 28
_REASON: Final = 160
_STEERS: Final = re.compile(r"([@<#])(?=\S)")


def calm(text: str) -> str:
    """The same to read; mentions and marks of a chat are none any more."""
    return _STEERS.sub("\\1\u2060", text)


def within(text: str, link: str = "", after: Sequence[str] = ()) -> str:
    """A text that leaves room for what stands after it and for a link."""
    rest = [line for line in after if line]
    room = MOST - sum(len(line) + 1 for line in rest) - len(link) - 1
    return calm("\n".join([in_a_line(text, max(40, room)), *rest]))


def answer(inquiry: Inquiry, link: str) -> str:
    """The sentence, its mark with a reason, and that there is more."""
    found, language = inquiry.answer, inquiry.language
    assert found is not None
    if inquiry.trust == "clear":
        mark = say(language, "chat-clear")
    else:
        why = in_a_line(found.caveats[0].message if found.caveats else "", _REASON)
        mark = say(language, "chat-caution", why=why, more=max(0, len(found.caveats) - 1))
    left = found.table.row_count - ROWS
    rest = say(language, "chat-more-rows", count=left, n=f"{left:,}") if left > 0 else ""
    return within(found.text, link, [mark, rest])


def table(inquiry: Inquiry, more: bool = False) -> str:
    """Its rows in columns, where they are more than the sentence says."""
    found = inquiry.answer
    if found is None or (found.table.row_count <= 1 and not more):
        return ""
    rows, columns = (MORE_ROWS, MORE_COLUMNS) if more else (ROWS, COLUMNS)
    shown = found.table.columns[:columns]
    return calm(aligned.as_aligned(shown, [row[:columns] for row in found.table.rows[:rows]], _CELL))


def read_back(inquiry: Inquiry, link: str) -> str:
    """What was counted."""
    found = inquiry.answer
    assert found is not None
    lines = [in_a_line(f"{line.label}: {line.text}", 180) for line in found.lines]
    text, size = [], 0
    for line in lines or [in_a_line(found.read_back or found.text, MOST // 2)]:
        size += len(line) + 1
        if size > MOST - len(link) - 1:
            break
        text.append(line)
    return calm("\n".join(text))


def asked_back(inquiry: Inquiry, link: str) -> str:
    """The question back, with numbers before the choices."""
    found = inquiry.clarify
    assert found is not None
    numbered = [f"{n}. {in_a_line(c.label, 60)}" for n, c in enumerate(found.choices[:8], 1)]
    hint = say(inquiry.language, "chat-choose") if numbered else ""
    return within(found.question, link, [*numbered, hint])


def trouble(inquiry: Inquiry, link: str) -> str:
    """Why there is no answer."""
    problem, hold = inquiry.problem, inquiry.hold
    if inquiry.state == "held" and hold is not None:
        return within(say(inquiry.language, "chat-held"), link)
    if problem is not None:
        return within(f"{problem.title} {problem.hint}", link)
    return within(say(inquiry.language, "chat-no-answer"), link)
