"""The rows of an answer on a terminal, with bars of block characters beside figures that a picture is drawn of."""

from __future__ import annotations

from decimal import Decimal, InvalidOperation
from typing import Any, Final

from rich.console import Group, RenderableType
from rich.text import Text

from harquel.cli.leaf import SHOWN_ROWS, result_table
from harquel.cli.tables import FittingTable
from harquel.contract import Answer, Chart, ResultTable
from harquel.contract.figures import is_figure, written

_LENGTH: Final = 24
"""Characters of the longest bar."""
_EIGHTHS: Final = "▏▎▍▌▋▊▉"
MOST_BARS: Final = 40


def answer_table(answer: Answer) -> RenderableType | None:
    """The rows; None where the sentence says all that is in them."""
    table, chart = answer.table, answer.chart
    if len(table.rows) == 1 and len(table.columns) == 1:
        return None
    if not table.rows or chart is None or chart.kind not in ("line", "bars", "columns") or chart.colour is not None:
        return result_table(table)
    if len(chart.figures) != 1 or len(table.columns) > 4:
        return result_table(table)
    return _with_bars(table, chart)


def _with_bars(table: ResultTable, chart: Chart) -> RenderableType:
    """Rows in the order of the picture, a bar to each."""
    at = chart.figures[0]
    values = [_number(row[at]) for row in table.rows]
    longest = max((abs(v) for v in values if v is not None), default=Decimal(0))
    if not longest or any(v is not None and v < 0 for v in values):
        return result_table(table)
    shown = FittingTable()
    for column in table.columns:
        head = column.name + (f" [{column.unit}]" if column.unit else "")
        shown.add_column(Text(head), justify="right" if is_figure(column) else "left", overflow="fold")
    shown.add_column("", overflow="crop", no_wrap=True)
    rows = list(zip(table.rows, values, strict=True))
    if chart.order == "largest":
        rows.sort(key=lambda pair: pair[1] if pair[1] is not None else Decimal(-1), reverse=True)
    most = MOST_BARS if chart.kind != "bars" else SHOWN_ROWS
    for row, value in rows[:most]:
        cells = [Text(written(v, c)) for v, c in zip(row, table.columns, strict=True)]
        shown.add_row(*cells, Text(_bar(value, longest), style="cyan"))
    left = len(rows) - most
    notes = [Text(f"and {left:,} more rows", style="dim")] if left > 0 else []
    if table.cut_by:
        notes.append(Text(f"cut by the limit on {table.cut_by}", style="yellow"))
    return Group(shown, *notes)


def _bar(value: Decimal | None, longest: Decimal) -> str:
    eighths = round(value / longest * _LENGTH * 8) if value is not None else 0
    whole, rest = divmod(int(eighths), 8)
    return "█" * whole + (_EIGHTHS[rest - 1] if rest else "")


def _number(value: Any) -> Decimal | None:
    try:
        found = Decimal(str(value)) if value is not None else None
    except InvalidOperation:
        return None
    return found if found is not None and found.is_finite() else None
