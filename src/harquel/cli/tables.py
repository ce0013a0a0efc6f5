"""Tables that fit where they are shown: where there is no room for columns, each row is a block of lines."""

from __future__ import annotations

from typing import Final

from rich import box
from rich.console import Console, ConsoleOptions, RenderResult
from rich.table import Table
from rich.text import Text

NARROW: Final = 60
"""Columns below which a table of several columns becomes blocks."""


class FittingTable(Table):
    """A plain table of this program; in a narrow place its rows are written below each other, name by name."""

    def __init__(self) -> None:
        super().__init__(box=box.SIMPLE_HEAD, pad_edge=False, show_edge=False)

    def __rich_console__(self, console: Console, options: ConsoleOptions) -> RenderResult:
        if options.max_width >= NARROW or len(self.columns) < 2:
            yield from super().__rich_console__(console, options)
            return
        heads = [console.render_str(str(c.header)).plain for c in self.columns]
        wide = max(map(len, heads), default=0)
        for number, cells in enumerate(zip(*(c.cells for c in self.columns), strict=True)):
            if number:
                yield Text("")
            for head, cell in zip(heads, cells, strict=True):
                line = Text(f"{head:<{wide}}  ", style="dim")
                line.append_text(cell.copy() if isinstance(cell, Text) else Text(str(cell)))
                yield line
