"""Markdown (CommonMark, with the tables that are common to its readers): to be put into a ticket or a page."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Any

from harquel.contract import Inquiry, ResultColumn
from harquel.contract.figures import is_figure, written

from .delimited import headed
from .grounds import grounds

_SIGNS = re.compile(r"([\\`*_\[\]<>|~&])")


def as_markdown(inquiry: Inquiry) -> bytes:
    """The sentence, the table, the grounds, the SQL."""
    answer = inquiry.answer
    assert answer is not None
    columns = answer.table.columns
    lines = [f"**{plain(answer.text)}**", "", *table_lines(columns, answer.table.rows), ""]
    told = [ground for ground in grounds(inquiry, answer) if ground.kind not in ("answer", "sql")]
    lines += [f"- {plain(ground.label)}: {plain(ground.text)}" for ground in told]
    fence = "`" * max(3, 1 + max((len(run) for run in re.findall("`+", answer.sql)), default=0))
    return "\n".join([*lines, "", f"{fence}sql", answer.sql, fence, ""]).encode("utf-8", "replace")


def table_lines(columns: Sequence[ResultColumn], rows: Sequence[Sequence[Any]]) -> list[str]:
    """Rows as a table."""
    made = [
        f"| {' | '.join(plain(headed(column)) for column in columns)} |",
        f"| {' | '.join('---:' if is_figure(column) else '---' for column in columns)} |",
    ]
    for row in rows:
        cells = (plain(written(value, column)) for value, column in zip(row, columns, strict=True))
        made.append(f"| {' | '.join(cells)} |")
    return made


def plain(text: str) -> str:
    """A text on one line in which nothing is a sign of the form."""
    return _SIGNS.sub(r"\\\1", " ".join(text.split()))
