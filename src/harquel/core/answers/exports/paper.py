"""The paper of what is taken away as HTML: a page that stands by itself, and a sheet of rows on it."""

from __future__ import annotations

from collections.abc import Sequence
from html import escape
from string import Template
from typing import Any, Final

from harquel.contract import ResultColumn
from harquel.contract.figures import is_figure, written

_PAGE: Final = Template("""<!doctype html>
<html lang="$language">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<meta name="robots" content="noindex, nofollow">
<meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'">
<title>$title</title>
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
.caution { color: var(--doubt) } ul { padding-left: 1.25rem }
.wide { overflow-x: auto }
.picture svg { max-width: 100%; min-width: 32rem; height: auto; border: 1px solid var(--line); margin-bottom: 1rem }
table { border-collapse: collapse; background: var(--sheet); font-variant-numeric: tabular-nums }
th, td { border: 1px solid var(--line); padding: .3rem .7rem; text-align: left; vertical-align: top }
th small { display: block; font-weight: 400; color: var(--faint) } .figure { text-align: right; white-space: nowrap }
dl { display: grid; grid-template-columns: minmax(6rem, 14rem) 1fr; gap: .25rem 1rem } dt { color: var(--faint) }
dd { margin: 0; min-width: 0 } pre { white-space: pre-wrap; background: var(--sheet); border: 1px solid var(--line);
  padding: .75rem; border-radius: .4rem }
@media (max-width: 34rem) { dl { grid-template-columns: 1fr } dt { margin-top: .5rem } }
@media print { body { background: none; padding: 0 } }
$style</style>
</head>
<body>
<main>
$body
</main>
</body>
</html>
""")


def paper(language: str, title: str, body: str, style: str = "") -> bytes:
    """No script, nothing fetched, readable in the light, in the dark, on paper; `body` is HTML, `style` CSS of ours."""
    page = _PAGE.substitute(language=escape(language), title=escape(title), body=body, style=style)
    return page.encode("utf-8", "replace")


def sheet(columns: Sequence[ResultColumn], rows: Sequence[Sequence[Any]]) -> str:
    """Rows under their heads."""
    figures = [' class="figure"' if is_figure(column) else "" for column in columns]
    heads = (
        f"<th{figure}>{escape(column.name)}{f'<small>{escape(column.unit)}</small>' if column.unit else ''}</th>"
        for column, figure in zip(columns, figures, strict=True)
    )
    lines = (
        "<tr>" + "".join(
            f"<td{figure}>{escape(written(value, column))}</td>"
            for value, column, figure in zip(row, columns, figures, strict=True)
        ) + "</tr>"
        for row in rows
    )  # fmt: skip
    body = "\n".join(lines)
    return f'<div class="wide"><table><thead><tr>{"".join(heads)}</tr></thead><tbody>\n{body}\n</tbody></table></div>'


def picture_in(picture: bytes) -> str:
    """A picture that is SVG of our own making; nothing for none."""
    return f'<div class="wide picture">{picture.decode()}</div>' if picture else ""
