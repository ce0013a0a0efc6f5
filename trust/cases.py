"""The drafts of the measure of trust: questions of the demo world with right and wrong SQL, read and compared.

Right and wrong are decided by running: a wrong draft gives other rows than the first right one.
"""

from __future__ import annotations

import sqlite3
from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Final

from harquel.core.curation.yaml_text import read_yaml

FOLDER: Final = Path(__file__).parent / "corpus"
DIGITS: Final = 9
_STEPS: Final = 40_000_000
"""Most instructions of SQLite's machine a draft may take here; a cross join over everything takes more."""

Rows = list[tuple[Any, ...]]


@dataclass(frozen=True)
class Case:
    """One draft for a question. `kind` is empty for a right one; `right` is the draft to compare with."""

    question: str
    sql: str
    right: str
    kind: str = ""
    file: str = ""

    @property
    def ordered(self) -> bool:
        """Whether the order of the rows is what is wrong."""
        return self.kind == "wrong order"


def cases(files: Iterable[Path] | None = None) -> list[Case]:
    """Those of some files, or all about the ferries, in the order of the files."""
    found = []
    for path in files or sorted(FOLDER.glob("*.yaml")):
        for entry in read_yaml(path.read_text()):
            right = entry["right"][0]
            found += [Case(entry["question"], sql, right, "", path.stem) for sql in entry["right"]]
            for wrong in entry.get("wrong", ()):
                ((kind, sql),) = wrong.items()
                found.append(Case(entry["question"], sql, right, kind, path.stem))
    return found


def rows_of(database: Path, sql: str) -> Rows | str:
    """What SQLite says to a draft: its rows, or the error; "too long" when it does not come to an end."""
    connection = sqlite3.connect(f"file:{database}?mode=ro", uri=True)
    steps = [0]

    def tick() -> int:
        steps[0] += 1
        return int(steps[0] > _STEPS // 10_000)

    connection.set_progress_handler(tick, 10_000)
    try:
        return connection.execute(sql).fetchall()
    except sqlite3.OperationalError as error:
        return "too long" if "interrupted" in str(error) else str(error)
    finally:
        connection.close()


def same(one: Rows | str, other: Rows | str, ordered: bool = False) -> bool:
    """Whether two results say the same: numbers to nine digits, order only where it is asked for."""
    if isinstance(one, str) or isinstance(other, str):
        return False
    left, right = [_plain(r) for r in one], [_plain(r) for r in other]
    return left == right if ordered else Counter(left) == Counter(right)


def as_far(one: Rows, other: Rows, ordered: bool = False) -> bool:
    """Whether two results say the same as far as both go: in another order of columns, or with some more of them."""
    if len(one) != len(other):
        return False
    here, there = [_figures(r) for r in one], [_figures(r) for r in other]
    if not ordered:
        here, there = sorted(here, key=sorted), sorted(there, key=sorted)
    return all(h <= t or t <= h for h, t in zip(here, there, strict=True))


def two_meanings(found: Iterable[Case], database: Path) -> frozenset[str]:
    """Questions whose right drafts give different rows: whoever reads one of them in one way must doubt the others.

    Said by the rows alone, whatever a second way makes of them.
    """
    rows: dict[str, list[Rows]] = {}
    for case in found:
        result = rows_of(database, case.sql) if not case.kind else ""
        if not isinstance(result, str):
            rows.setdefault(case.question, []).append(result)
    return frozenset(q for q, results in rows.items() if not all(as_far(results[0], r) for r in results[1:]))


def _figures(row: Iterable[Any]) -> frozenset[str]:
    return frozenset(_coarse(v) for v in row)


def _coarse(value: Any) -> str:
    try:
        return f"{float(value):.6g}"
    except (TypeError, ValueError):
        return str(value).replace("T", " ")


def _plain(row: tuple[Any, ...]) -> tuple[Any, ...]:
    return tuple(float(f"{v:.{DIGITS}g}") if isinstance(v, int | float) else v for v in row)
