"""One page of HTML that stands by itself: no script, nothing fetched, readable in the light, in the dark, on paper."""

from __future__ import annotations

from html import escape
from string import Template
from typing import Final

from harquel.contract import Inquiry
from harquel.core.language.say import say

from .grounds import grounds, mark
from .paper import paper, picture_in, sheet

_SHOWN: Final = 200
_BODY: Final = Template("""<p class="faint">$question</p>
<h1>$answer</h1>
<p class="$trust">$mark</p>
$caveats
<h2>$result</h2>
$picture
$rows
<h2>$beneath</h2>
<dl>
$grounds
</dl>
<h2>SQL</h2>
<pre>$sql</pre>""")


def as_html(inquiry: Inquiry, picture: bytes = b"") -> bytes:
    """The page, with a picture that is SVG of our own making."""
    answer = inquiry.answer
    assert answer is not None
    told = [ground for ground in grounds(inquiry, answer) if ground.kind == "else"]
    caveats = "".join(f"<li>{escape(caveat.message)}</li>" for caveat in answer.caveats)
    question = inquiry.standalone_question or inquiry.question
    body = _BODY.substitute(
        question=escape(question), answer=escape(answer.text), trust=escape(str(inquiry.trust)),
        mark=escape(mark(inquiry)),
        result=say(inquiry.language, "export-result"), beneath=say(inquiry.language, "export-grounds"),
        picture=picture_in(picture), caveats=f'<ul class="caution">{caveats}</ul>' if caveats else "",
        rows=sheet(answer.table.columns, answer.table.rows),
        grounds="\n".join(f"<dt>{escape(one.label)}</dt><dd>{escape(one.text)}</dd>" for one in told),
        sql=escape(answer.sql),
    )  # fmt: skip
    return paper(inquiry.language, question, body)


def for_strangers(inquiry: Inquiry, line: str, picture: bytes = b"") -> bytes:
    """The page for people without an account: question, sentence, mark, picture, rows; not what they stand on. `line`
    says whose it is and how long it is shown.
    """
    answer, language = inquiry.answer, inquiry.language
    assert answer is not None
    question = inquiry.standalone_question or inquiry.question
    caveats = "".join(f"<li>{escape(caveat.message)}</li>" for caveat in answer.caveats)
    shown = answer.table.rows[:_SHOWN]
    rest = answer.table.row_count - len(shown)
    told = [
        g for g in grounds(inquiry, answer) if g.label in (say(language, "ground-as-of"), say(language, "ground-data"))
    ]
    body = [
        f'<p class="faint">{escape(line)}</p>', f'<p class="faint">{escape(question)}</p>',
        f"<h1>{escape(answer.text)}</h1>", f'<p class="{escape(str(inquiry.trust))}">{escape(mark(inquiry))}</p>',
        f'<ul class="caution">{caveats}</ul>' if caveats else "",
        f"<p>{escape(answer.remark)}</p>" if answer.remark else "", picture_in(picture),
        sheet(answer.table.columns, shown),
        f'<p class="faint">{escape(say(language, "letter-rest", n=f"{rest:,}"))}</p>' if rest > 0 else "",
        "<dl>", *(f"<dt>{escape(one.label)}</dt><dd>{escape(one.text)}</dd>" for one in told), "</dl>",
    ]  # fmt: skip
    return paper(language, question, "\n".join(part for part in body if part))
