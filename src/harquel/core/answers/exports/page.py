"""One page of HTML that stands by itself: no script, nothing fetched, readable in the light, in the dark, on paper."""

from __future__ import annotations

from html import escape
from string import Template
from typing import Final

from harquel.contract import Inquiry
from harquel.contract.figures import is_figure, written
from harquel.core.language.say import say

from .grounds import grounds, mark

_PAGE: Final = Template("""<!doctype html>
<html lang="$language">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'">
<title>$question</title>
<style>
:root { color-scheme: light dark; --ink: #13262f; --faint: #52666d; --line: #d8d4c8; --page: #f5f2eb; --sheet: #fffefb;
  --mark: #0f6373; --doubt: #9a4a00 }
@media (prefers-color-scheme: dark) { :root { --ink: #eef1ef; --faint: #a3b1b4; --line: #2c4048; --page: #0f1b21;
  --sheet: #16262d; --mark: #6cc5d3; --doubt: #f0a65c } }
body { margin: 0 auto; max-width: 60rem; padding: 2rem 1rem 4rem; background: var(--page); color: var(--ink);
  font: 1rem/1.55 system-ui, sans-serif; overflow-wrap: anywhere }
h1 { font-size: 1.5rem; font-weight: 500; line-height: 1.35; margin: .25rem 0 .75rem; max-width: 46ch }
h2 { font-size: .9rem; color: var(--faint); border-bottom: 1px solid var(--line); margin: 2.5rem 0 .75rem }
p { margin: .25rem 0; max-width: 72ch } .faint { color: var(--faint) } .clear { color: var(--mark) }
.caution, li { color: var(--doubt) } ul { padding-left: 1.25rem }
.wide { overflow-x: auto }
.picture svg { max-width: 100%; height: auto; border: 1px solid var(--line); margin-bottom: 1rem }
table { border-collapse: collapse; background: var(--sheet); font-variant-numeric: tabular-nums }
th, td { border: 1px solid var(--line); padding: .3rem .7rem; text-align: left; vertical-align: top }
th small { display: block; font-weight: 400; color: var(--faint) } .figure { text-align: right; white-space: nowrap }
dl { display: grid; grid-template-columns: minmax(6rem, 14rem) 1fr; gap: .25rem 1rem } dt { color: var(--faint) }
dd { margin: 0; min-width: 0 } pre { white-space: pre-wrap; background: var(--sheet); border: 1px solid var(--line);
  padding: .75rem; border-radius: .4rem }
@media (max-width: 34rem) { dl { grid-template-columns: 1fr } dt { margin-top: .5rem } }
@media print { body { background: none; padding: 0 } }
</style>
</head>
<body>
<main>
<p class="faint">$question</p>
<h1>$answer</h1>
<p class="$trust">$mark</p>
$caveats
<h2>$result</h2>
$picture
<div class="wide"><table><thead><tr>$heads</tr></thead><tbody>
$rows
</tbody></table></div>
<h2>$beneath</h2>
<dl>
$grounds
</dl>
<h2>SQL</h2>
<pre>$sql</pre>
</main>
</body>
</html>
""")


def as_html(inquiry: Inquiry, picture: bytes = b"") -> bytes:
    """The page, with a picture that is SVG of our own making."""
    answer = inquiry.answer
    assert answer is not None
    columns = answer.table.columns
    figures = [' class="figure"' if is_figure(column) else "" for column in columns]
    heads = (
        f"<th{figure}>{escape(column.name)}{f'<small>{escape(column.unit)}</small>' if column.unit else ''}</th>"
        for column, figure in zip(columns, figures, strict=True)
    )
    rows = (
        "<tr>" + "".join(
            f"<td{figure}>{escape(written(value, column))}</td>"
            for value, column, figure in zip(row, columns, figures, strict=True)
        ) + "</tr>"
        for row in answer.table.rows
    )  # fmt: skip
    told = [ground for ground in grounds(inquiry, answer) if ground.kind == "else"]
    caveats = "".join(f"<li>{escape(caveat.message)}</li>" for caveat in answer.caveats)
    page = _PAGE.substitute(
        language=escape(inquiry.language), question=escape(inquiry.standalone_question or inquiry.question),
        answer=escape(answer.text), trust=escape(str(inquiry.trust)), mark=escape(mark(inquiry)),
        result=say(inquiry.language, "export-result"), beneath=say(inquiry.language, "export-grounds"),
        picture=f'<div class="wide picture">{picture.decode()}</div>' if picture else "",
        caveats=f"<ul>{caveats}</ul>" if caveats else "", heads="".join(heads), rows="\n".join(rows),
        grounds="\n".join(f"<dt>{escape(one.label)}</dt><dd>{escape(one.text)}</dd>" for one in told),
        sql=escape(answer.sql),
    )  # fmt: skip
    return page.encode("utf-8", "replace")
