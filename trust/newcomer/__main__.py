"""What somebody gets who types a first question into the demo: its own simulated model, no other.

    python -m trust.newcomer [--all]

Each of the eighty questions goes through a whole inquiry; its rows are held against those of a statement that is right.
"""

from __future__ import annotations

import argparse
import logging
import sys
import tempfile
from collections import Counter
from dataclasses import replace
from itertools import permutations
from pathlib import Path
from typing import Any, Final

from harquel.core.curation.yaml_text import read_yaml
from harquel.core.domain.inquiry import Inquiry
from harquel.demo.load_sqlite import load
from harquel.testing.model import simulated_model
from harquel.testing.sources import ask, model_of
from trust.cases import Rows, rows_of
from trust.measure import opened
from trust.world import world

FOLDER: Final = Path(__file__).parent
SETS: Final = ("questions", "later")
"""Those that the simulated model was widened for, and those that were written afterwards and run once."""
SIMULATED: Final = "simulated model"
"""What the word of a model says that does not know something."""
LEAST: Final = 60
"""Of the eighty that have to be right."""
_WIDEST: Final = 9


def came_of(inquiry: Inquiry, case: dict[str, Any], database: Path) -> str:
    """Right or wrong, clear or with caution; or how it ended without an answer."""
    if inquiry.outcome == "refused":
        return "refused"
    if inquiry.answer is None:
        said = f"{inquiry.problem.title} {inquiry.problem.hint}" if inquiry.problem is not None else ""
        return f"{inquiry.outcome}{'' if SIMULATED in said or inquiry.outcome == 'clarify' else ', unexplained'}"
    rows = [tuple(row) for row in inquiry.answer.table.rows]
    wanted = [rows_of(database, case[name]) for name in ("sql", "or") if name in case]
    right = any(not isinstance(found, str) and holds(rows, found) for found in wanted)
    return f"{'right' if right else 'wrong'}, {inquiry.trust}"


def holds(shown: Rows, wanted: Rows) -> bool:
    """Whether some columns of what is shown are the rows that are wanted, in whatever order."""
    wide, narrow = (len(rows[0]) if rows else 0 for rows in (shown, wanted))
    if len(wanted) == 1 and len(shown) == narrow > 1:
        # Figures of one row can stand beneath one another.
        return any([coarse(row[n]) for row in shown] == [coarse(v) for v in wanted[0]] for n in range(wide))
    if len(shown) != len(wanted) or wide < narrow:
        return False
    aim = Counter(tuple(map(coarse, row)) for row in wanted)
    known = [tuple(map(coarse, row)) for row in shown]
    chosen = permutations(range(wide), narrow) if wide <= _WIDEST else [tuple(range(narrow))]
    return any(Counter(tuple(row[n] for n in places) for row in known) == aim for places in chosen)


def coarse(value: Any) -> str:
    """A value as it is compared: figures to three decimals, the hour 07 as 7."""
    try:
        return f"{float(value):.3f}"
    except (TypeError, ValueError):
        return str(value).replace("T", " ")


def main() -> int:
    """Prints what came of each; ends with 1 where fewer are right than should be, or one is wrong and clear."""
    options = argparse.ArgumentParser(prog="python -m trust.newcomer", description=__doc__.splitlines()[0])
    options.add_argument("--all", action="store_true", help="name the right ones, too")
    given = options.parse_args()
    logging.disable(logging.ERROR)
    short = False
    with tempfile.TemporaryDirectory(prefix="harquel-newcomer-") as folder, simulated_model() as url:
        database = Path(folder) / "demo.db"
        load(database)
        with opened(world(database)) as made:
            model = model_of(url, "careful")
            source = replace(made(model), reader=model)
            for name in SETS:
                ends = Counter[str]()
                for case in read_yaml((FOLDER / f"{name}.yaml").read_text("utf-8")):
                    end = came_of(ask(source, case["ask"]), case, database)
                    ends[end] += 1
                    if given.all or not end.startswith("right"):
                        print(f"{end:24} {case['ask']}", flush=True)
                print(said(name, ends))
                short |= ends["wrong, clear"] > 0 or (name == SETS[0] and right(ends) < LEAST)
    return int(short)


def right(ends: Counter[str]) -> int:
    """How many are, whatever was said of them."""
    return ends["right, clear"] + ends["right, caution"]


def said(name: str, ends: Counter[str]) -> str:
    """All of it in a line."""
    each = ", ".join(f"{count} {end}" for end, count in ends.most_common())
    return f"{name}: {right(ends)} of {ends.total()} right: {each}"


if __name__ == "__main__":
    sys.exit(main())
