"""A casebook as one file: a page of HTML that stands by itself and prints well, or Markdown."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from html import escape
from typing import Final

from harquel.contract import Answer, Inquiry
from harquel.core.answers.exports import grounds, mark, paper, picture_in, plain, sheet, table_lines
from harquel.core.language.say import say

from .references import CITED
from .text import Block, Fill

_HEAD: Final = re.compile(r"^#{1,5} ", re.MULTILINE)
_ROWS: Final = 40
"""Rows of an answer that stand in the file."""
_STYLE: Final = """
.words h2, .words h3, .words h4 { font-size: 1.2rem; font-weight: 600; color: var(--ink); border: 0;
  margin: 2rem 0 .5rem }
.words p, .words li { max-width: 72ch } .words p { margin: .75rem 0 } .words table { margin: .75rem 0 }
.cited { font-variant-numeric: tabular-nums; font-weight: 600 } .doubt { color: var(--doubt) }
.doubt::after { content: " (!)" } .missing { color: var(--doubt); font-weight: 400 }
.answer { margin: 1.5rem 0; padding: 1rem 1.25rem; background: var(--sheet); border: 1px solid var(--line);
  border-radius: .4rem; break-inside: avoid } .answer h3 { font-size: 1.1rem; font-weight: 500; margin: .25rem 0 }
.picture { margin-top: .75rem } .wide { margin-top: .75rem } .stands h3 { font-size: 1rem; margin: 1.5rem 0 .25rem }
@page { margin: 18mm 16mm }
@media print { body { font-size: 10.5pt } .wide { overflow: visible } h2, h3 { break-after: avoid }
  tr { break-inside: avoid }
  pre { break-inside: avoid } .picture svg { max-height: 100mm } }
"""


@dataclass(frozen=True)
class Part:
    """A block of the text; with its answer where it is one, or `note` where there is none to be shown."""

    block: Block
    inquiry: Inquiry | None = None
    picture: bytes = b""
    since: str = ""
    note: str = ""


def as_page(title: str, line: str, language: str, parts: Sequence[Part], told: Sequence[tuple[str, Inquiry]]) -> bytes:
    """The page; `line` says whose it is and of when, `told` are the answers by their names, for what they stand on."""
    body = [f"<h1>{escape(title)}</h1>", f'<p class="faint">{escape(line)}</p>']
    body += [_part(part, language) for part in parts]
    if told:
        body.append(f'<div class="stands"><h2>{escape(say(language, "export-grounds"))}</h2>')
        body += [_stands(name, inquiry) for name, inquiry in told]
        body.append("</div>")
    return paper(language, title, "\n".join(body), _STYLE)


def _part(part: Part, language: str) -> str:
    if not part.block.name:
        return f'<div class="words">{part.block.html}</div>'
    inquiry = part.inquiry
    if inquiry is None or inquiry.answer is None:
        return f'<section class="answer"><p class="doubt">{escape(part.note)}</p></section>'
    answer, shows = inquiry.answer, part.block.shows
    made = [f'<p class="faint">{escape(inquiry.standalone_question or inquiry.question)}</p>']
    if "answer" in shows:
        made.append(f"<h3>{escape(answer.text)}</h3>")
    made.append(f'<p class="{escape(str(inquiry.trust))}">{escape(mark(inquiry))}</p>')
    if answer.caveats:
        made.append(f'<ul class="caution">{"".join(f"<li>{escape(c.message)}</li>" for c in answer.caveats)}</ul>')
    if part.since:
        made.append(f'<p class="faint">{escape(part.since)}</p>')
    if part.note:
        made.append(f'<p class="doubt">{escape(part.note)}</p>')
    if "chart" in shows:
        made.append(picture_in(part.picture))
    if "table" in shows and not _is_said(answer, shows):
        made.append(sheet(answer.table.columns, answer.table.rows[:_ROWS]))
        if (rest := answer.table.row_count - len(answer.table.rows[:_ROWS])) > 0:
            made.append(f'<p class="faint">{escape(say(language, "letter-rest", n=f"{rest:,}"))}</p>')
    return f'<section class="answer">{"".join(made)}</section>'


def _is_said(answer: Answer, shows: Sequence[str]) -> bool:
    """Whether a table would say the sentence once more: it is one value."""
    return "answer" in shows and answer.table.row_count == 1 and len(answer.table.columns) == 1


def _stands(name: str, inquiry: Inquiry) -> str:
    assert inquiry.answer is not None
    told = [one for one in grounds(inquiry, inquiry.answer) if one.kind == "else"]
    lines = "".join(f"<dt>{escape(one.label)}</dt><dd>{escape(one.text)}</dd>" for one in told)
    return f"<h3>{escape(name)}</h3><dl>{lines}</dl><pre>{escape(inquiry.answer.sql)}</pre>"


def as_text(title: str, line: str, language: str, parts: Sequence[Part], fill: Fill) -> bytes:
    """The same in Markdown, figures filled in."""
    made = [f"# {plain(title)}", "", plain(line), ""]
    for part in parts:
        inquiry = part.inquiry
        if not part.block.name:
            made += [_filled(part.block.source, fill), ""]
        elif inquiry is None or inquiry.answer is None:
            made += [f"> {plain(part.note)}", ""]
        else:
            made += _told(part, inquiry, language)
    return "\n".join(made).encode("utf-8", "replace")


def _told(part: Part, inquiry: Inquiry, language: str) -> list[str]:
    answer, shows = inquiry.answer, part.block.shows
    assert answer is not None
    made = [f"*{plain(inquiry.standalone_question or inquiry.question)}*", ""]
    if "answer" in shows:
        made += [f"**{plain(answer.text)}**", ""]
    made += [
        plain(text) for text in (mark(inquiry), *(c.message for c in answer.caveats), part.since, part.note) if text
    ]
    if "table" in shows and not _is_said(answer, shows):
        made += ["", *table_lines(answer.table.columns, answer.table.rows[:_ROWS])]
        if (rest := answer.table.row_count - len(answer.table.rows[:_ROWS])) > 0:
            made += ["", plain(say(language, "letter-rest", n=f"{rest:,}"))]
    return [*made, ""]


def _filled(source: str, fill: Fill) -> str:
    def value(found: object) -> str:
        name, column, keys = found.group(1, 2, 3)  # type: ignore[attr-defined]
        given = fill(name, column.strip() if column else None, [k.strip() for k in keys.split("|")[1:]])
        return plain(given.text if given.text else f"({name}: {given.missing})")

    # The title of the file is the first head.
    return CITED.sub(value, _HEAD.sub(r"#\g<0>", source))
