"""The figure that a reference stands for, looked up in the rows of its answer.

What must hold: what is filled in is one value of one row, or nothing with the reason why; never one of several.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Final

from harquel.contract.figures import in_a_line, is_figure, written
from harquel.core.answers.sentence.figures import shown
from harquel.core.domain.inquiry import ResultColumn, ResultTable
from harquel.core.language.say import say

_LONGEST: Final = 120


@dataclass(frozen=True)
class Cited:
    """What stands in the text: a value, or why there is none; `doubt` where its answer is to be taken with caution."""

    text: str = ""
    missing: str = ""
    doubt: bool = False


class Figures:
    """The values of one answer, as they are cited."""

    def __init__(self, table: ResultTable, language: str, doubt: bool = False) -> None:
        self._table, self._language, self._doubt = table, language, doubt
        self._rows: dict[str, set[int]] | None = None

    def cited(self, column: str | None, keys: Sequence[str]) -> Cited:
        """The value of a column in the row that is meant; of the one figure where no column is named."""
        table = self._table
        if table.cut_by is not None:
            # What was cut off could hold another row like it.
            return self._none("cut")
        if column is not None and column.strip() == "#" and not keys:
            return self._some(self._number(table.row_count))
        if table.row_count and not table.rows:
            return self._none("unkept")
        at = self._column(column)
        if isinstance(at, Cited):
            return at
        rows = self._meant(keys) if keys else list(range(len(table.rows)))
        if not rows:
            return self._none("no-row")
        if len(rows) > 1:
            return self._none("many-rows")
        value, meta = table.rows[rows[0]][at], table.columns[at]
        return self._some(in_a_line(shown(value, meta, self._language), _LONGEST))

    def singles(self) -> list[str]:
        """Its figures as they would be typed, where it has one row: to find those that were."""
        if len(self._table.rows) != 1:
            return []
        row = self._table.rows[0]
        return [
            written(v, c) for v, c in zip(row, self._table.columns, strict=True)
            if is_figure(c) and c.role is None and v is not None
        ]  # fmt: skip

    def _some(self, text: str) -> Cited:
        return Cited(text, doubt=self._doubt)

    def _none(self, why: str) -> Cited:
        return Cited(missing=say(self._language, f"cited-{why}"))

    def _number(self, n: int) -> str:
        return shown(n, ResultColumn(name="", type="integer"), self._language)

    def _column(self, column: str | None) -> int | Cited:
        columns = self._table.columns
        if column is None:
            figures = [n for n, c in enumerate(columns) if is_figure(c) and c.role is None]
            if len(columns) == 1 or len(figures) == 1:
                return 0 if len(columns) == 1 else figures[0]
            return self._none("many-columns")
        wanted = _plain(column)
        found = [n for n, c in enumerate(columns) if _plain(c.name) == wanted]
        return found[0] if len(found) == 1 else self._none("no-column")

    def _meant(self, keys: Sequence[str]) -> list[int]:
        """The rows in which each key stands, in whatever column that is no figure."""
        if self._rows is None:
            self._rows = {}
            for number, row in enumerate(self._table.rows):
                for value, column in zip(row, self._table.columns, strict=True):
                    if value is None or (is_figure(column) and column.role is None):
                        continue
                    self._rows.setdefault(_plain(written(value, column)), set()).add(number)
        found: set[int] | None = None
        for key in keys:
            here = self._rows.get(_plain(key), set())
            found = here if found is None else found & here
        return sorted(found or ())


def cited(name: str, column: str | None, keys: Sequence[str], answers: Mapping[str, Figures | str], lang: str) -> Cited:
    """What a reference stands for; `answers` are the values of each by its name, or why there are none."""
    of = answers.get(name)
    if of is None:
        return Cited(missing=say(lang, "cited-no-answer", name=name))
    return Cited(missing=of) if isinstance(of, str) else of.cited(column, keys)


def _plain(text: Any) -> str:
    return " ".join(str(text).replace("_", " ").casefold().split())
