"""Two drafts of one question beside each other: who wrote them, what they cost, what they say, what came of them."""

from __future__ import annotations

from rich.console import Group, RenderableType
from rich.padding import Padding
from rich.table import Table
from rich.text import Text

from harquel.cli.leaf import sql
from harquel.contract import Inquiry
from harquel.contract.figures import written

_ROWS = 5
"""Rows of each that are shown."""
_CELL = 24


def side_by_side(before: Inquiry, after: Inquiry) -> RenderableType:
    """What was answered on the left, what was drafted again on the right."""
    table = Table(box=None, padding=(0, 2, 0, 0), expand=True, show_header=False)
    for _ in range(3):
        table.add_column(ratio=4, overflow="fold")
    table.columns[0].ratio = 1
    pairs = zip(_lines(before), _lines(after), strict=True)
    for (name, here), (_, there) in pairs:
        table.add_row(Text(name, style="dim"), here, there)
    return Group(Text(after.standalone_question or after.question, style="italic"), Text(), table, Text(), _said(after))


def _said(after: Inquiry) -> RenderableType:
    redraft = after.redraft
    said = redraft.said if redraft is not None else ""
    if redraft is None or redraft.same is None:
        said = said or "The rows of before are kept no more, or there is no answer to lay beside them."
        return Text(f"· {said}", style="dim")
    return Text(f"{'●' if redraft.same else '▲'} {said}", style="green" if redraft.same else "yellow")


def _lines(inquiry: Inquiry) -> list[tuple[str, RenderableType]]:
    drafts = [a.draft for a in inquiry.attempts if a.draft is not None]
    answer, usage = inquiry.answer, inquiry.usage
    tokens = f"{usage.prompt_tokens + usage.completion_tokens:,} in {usage.calls}"
    ended = f"{inquiry.outcome}, {inquiry.trust}" if inquiry.trust else str(inquiry.outcome)
    said = answer.text if answer is not None else inquiry.problem.title if inquiry.problem is not None else ""
    return [
        ("", Text(inquiry.id)), ("model", Text(drafts[-1].model if drafts else "–")),
        ("template", Text(drafts[-1].template if drafts else "–")), ("ended", Text(ended)),
        ("drafts", Text(str(len(inquiry.attempts)))), ("tokens", Text(f"{tokens} calls")),
        ("model took", Text(f"{inquiry.timings.model_ms:,.0f} ms")), ("answer", Text(said)),
        ("query", Padding(sql(drafts[-1].sql), (0, 0, 1, 0)) if drafts else Text("–")), ("rows", _rows(inquiry)),
    ]  # fmt: skip


def _rows(inquiry: Inquiry) -> RenderableType:
    if inquiry.answer is None:
        return Text("–")
    table = inquiry.answer.table
    lines = [
        "  ".join(str(written(value, column))[:_CELL] for value, column in zip(row, table.columns, strict=True))
        for row in table.rows[:_ROWS]
    ]
    more = f"… {table.row_count} in all" if table.row_count > _ROWS else ""
    return Text("\n".join([*lines, more] if more else lines))
