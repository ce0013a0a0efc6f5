"""An answer as a letter: plain text and HTML beside each other, the chart in it, a file attached where one is wished.

What must hold: nothing that stands in a question or in data begins a header, a tag or a line of ours.
"""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from email.mime.image import MIMEImage
from email.utils import format_datetime
from typing import Final

from django.core.mail import EmailMultiAlternatives
from django.template.loader import render_to_string

from harquel.contract import Answer, Inquiry
from harquel.contract.figures import in_a_line, is_figure, written
from harquel.core.answers.exports import File, aligned, grounds, mark
from harquel.core.language.say import say

_ROWS: Final = 20
"""Rows that stand in the letter itself."""
_CELL: Final = 120
_LONGEST_TEXT: Final = 2_000
_LONGEST_SUBJECT: Final = 150
LARGEST: Final = 8_000_000
"""Bytes of a letter."""


@dataclass(frozen=True)
class Envelope:
    """Who sends it to whom, when, under which id; `link` leads to the answer, by a sign-in."""

    key: str
    sender: str
    to: str
    by: str
    at: dt.datetime
    link: str
    title: str = ""
    note: str = ""
    when: str = ""
    """Of a watched question: what it is called, what is said of it, when it is asked."""

    def headers(self) -> dict[str, str]:
        """So that it is the same letter at each try, and nobody's absence answers it."""
        domain = self.sender.rpartition("@")[2]
        return {
            "Message-ID": f"<{self.key}@{domain}>", "Date": format_datetime(self.at),
            "Auto-Submitted": "auto-generated",
        }  # fmt: skip

    def sent(self, language: str) -> str:
        """Why somebody gets it."""
        name = in_a_line(self.by, 80)
        if self.when:
            return say(language, "letter-watch", name=name, when=in_a_line(self.when, 120))
        return say(language, "letter-sent", name=name)


def letter(about: Envelope, inquiry: Inquiry, chart: bytes = b"", attached: File | None = None) -> bytes:
    """The letter as it goes over the line; `chart` is PNG, or nothing."""
    answer = inquiry.answer
    assert answer is not None
    values = _values(about, inquiry, answer, bool(chart), attached)
    subject = _subject(about.title or str(values["question"]))
    made = EmailMultiAlternatives(
        subject, render_to_string("outbox/answer.txt", values), f"Harquel <{about.sender}>", [about.to],
        headers=about.headers(),
    )  # fmt: skip
    made.attach_alternative(render_to_string("outbox/answer.html", values), "text/html")
    if chart:
        image = MIMEImage(chart, "png")
        image.add_header("Content-ID", "<chart>")
        image.add_header("Content-Disposition", "inline", filename="chart.png")
        made.attach(image)
    if attached is not None:
        made.attach(attached.name, attached.content, attached.media_type.partition(";")[0])
    found: bytes = made.message().as_bytes(linesep="\r\n")
    return found


def notice(about: Envelope, language: str) -> bytes:
    """A letter without an answer: what is to be said of a watched question, and where to look."""
    values = {
        "title": in_a_line(about.title, _LONGEST_TEXT), "note": in_a_line(about.note, _LONGEST_TEXT),
        "language": language, "link": about.link, "opens": say(language, "letter-opens"), "sent": about.sent(language),
    }  # fmt: skip
    made = EmailMultiAlternatives(
        _subject(about.title), render_to_string("outbox/notice.txt", values), f"Harquel <{about.sender}>", [about.to],
        headers=about.headers(),
    )  # fmt: skip
    made.attach_alternative(render_to_string("outbox/notice.html", values), "text/html")
    found: bytes = made.message().as_bytes(linesep="\r\n")
    return found


def enclosing(about: Envelope, language: str, text: str, page: File) -> bytes:
    """A letter with a page enclosed: the words of it as plain text, for whoever reads no files."""
    values = {
        "title": in_a_line(about.title, _LONGEST_TEXT), "note": in_a_line(about.note, _LONGEST_TEXT),
        "language": language, "link": about.link, "opens": say(language, "letter-opens"), "sent": about.sent(language),
    }  # fmt: skip
    made = EmailMultiAlternatives(
        _subject(about.title), f"{text}\n\n{render_to_string('outbox/notice.txt', values)}",
        f"Harquel <{about.sender}>", [about.to], headers=about.headers(),
    )  # fmt: skip
    made.attach_alternative(render_to_string("outbox/notice.html", values), "text/html")
    made.attach(page.name, page.content, "text/html")
    found: bytes = made.message().as_bytes(linesep="\r\n")
    return found


def _subject(text: str) -> str:
    """What looks like encoded words (RFC 2047) would be decoded by whoever reads it."""
    return in_a_line(text, _LONGEST_SUBJECT).replace("=?", "= ?")


def _values(
    about: Envelope, inquiry: Inquiry, answer: Answer, chart: bool, attached: File | None
) -> dict[str, object]:  # fmt: skip
    """What the templates tell, each text in one line."""
    language, table = inquiry.language, answer.table
    shown = table.rows[:_ROWS]
    rest = table.row_count - len(shown)
    told = [one for one in grounds(inquiry, answer) if one.kind == "else" and one.text != answer.remark]
    return {
        "language": language, "question": in_a_line(inquiry.standalone_question or inquiry.question, _LONGEST_TEXT),
        "answer": in_a_line(answer.text, _LONGEST_TEXT), "trust": inquiry.trust, "mark": mark(inquiry),
        "caveats": [in_a_line(one.message, _LONGEST_TEXT) for one in answer.caveats],
        "remark": in_a_line(answer.remark or "", _LONGEST_TEXT), "chart": chart,
        "heads": [
            {"text": in_a_line(c.name, _CELL), "unit": in_a_line(c.unit or "", _CELL), "figure": is_figure(c)}
            for c in table.columns
        ],
        "rows": [
            [
                {"text": in_a_line(written(v, c), _CELL), "figure": is_figure(c)}
                for v, c in zip(row, table.columns, strict=True)
            ]
            for row in shown
        ],
        "aligned": aligned.as_aligned(table.columns, shown),
        "rest": say(language, "letter-rest", n=f"{rest:,}") if rest > 0 else "",
        "grounds": [(in_a_line(one.label, 100), in_a_line(one.text, _LONGEST_TEXT)) for one in told],
        "beneath": say(language, "export-grounds"), "link": about.link, "opens": say(language, "letter-opens"),
        "attached": say(language, "letter-attached", name=attached.name) if attached is not None else "",
        "sent": about.sent(language), "note": in_a_line(about.note, _LONGEST_TEXT),
    }  # fmt: skip
