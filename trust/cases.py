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

import yaml

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
        for entry in yaml.safe_load(path.read_text()):
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


def _plain(row: tuple[Any, ...]) -> tuple[Any, ...]:
    return tuple(float(f"{v:.{DIGITS}g}") if isinstance(v, int | float) else v for v in row)
