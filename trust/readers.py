"""What readings come to over our own corpora: drafts of the measure, with the simulated model as who reads.

    python -m trust.readers [--every N]

For each corpus: nobody reads; the simulated model reads; it reads carelessly, at 0.1 and 0.3. Careless means that a
part of the reading is missing, or of another time. No second draft is seen.
"""

from __future__ import annotations

import argparse
import logging
import sys
import tempfile
from collections import Counter
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from typing import Final

from harquel.demo.load_sqlite import load
from harquel.testing.model import simulated_model
from harquel.testing.scripted import Scripted
from harquel.testing.sources import ask, model_of
from trust import academy, stores
from trust.cases import Case, cases
from trust.measure import opened
from trust.world import World, academy_world, stores_world, world

READERS: Final = ("", "careful", "careless-0.1", "careless-0.3")


def measured(drafts: list[Case], around: World, url: str, reader: str) -> Counter[str]:
    """What became of drafts: how many, and of those how many silent, doubted, read, agreed with."""
    found: Counter[str] = Counter()
    with opened(around) as make:
        for case in drafts:
            source = replace(make(Scripted(case.sql)), reader=model_of(url, reader) if reader else None)
            inquiry = ask(source, case.question)
            kind = "wrong" if case.kind else "right"
            found[kind] += 1
            found[f"{kind} clear"] += inquiry.outcome == "answered" and inquiry.trust == "clear"
            found[f"{kind} sent back"] += len(inquiry.attempts) > 1
            found[f"{kind} asked back"] += inquiry.outcome == "clarify"
            opinion = inquiry.second_opinion
            found[f"{kind} compared"] += opinion is not None and opinion.agrees is not None
            found[f"{kind} agreed"] += opinion is not None and opinion.agrees is True
    return found


def said(name: str, reader: str, f: Counter[str]) -> str:
    """In a line."""
    right, wrong = max(1, f["right"]), max(1, f["wrong"])
    doubted = f["right"] - f["right clear"] - f["right asked back"]
    return (
        f"{name}, {reader or 'nobody'} reads: silent {f['wrong clear']}/{f['wrong']} ({f['wrong clear'] / wrong:.1%}), "
        f"right ones doubted {doubted}/{f['right']} ({doubted / right:.1%}), sent back {f['right sent back']}, asked "
        f"back {f['right asked back']}; a control beside {f['right compared']} right ones, the same for "
        f"{f['right agreed']}; beside {f['wrong compared']} wrong ones, the same for {f['wrong agreed']}"
    )


def corpora(folder: Path) -> Iterator[tuple[str, World, list[Case]]]:
    """Each with its world, made in a folder."""
    load(folder / "demo.db")
    yield "demo", world(folder / "demo.db"), cases()
    stores.load(folder / "stores.db")
    yield "stores", stores_world(folder / "stores.db"), cases(sorted((stores.FOLDER / "corpus").glob("*.yaml")))
    academy.load(folder / "academy.db")
    lot = cases(sorted((academy.FOLDER / "corpus").glob("*.yaml")))
    yield "academy, with notes", academy_world(folder / "academy.db", noted=True), lot
    yield "academy, without", academy_world(folder / "academy.db"), lot


def main() -> int:
    """Prints a line for each corpus and reader."""
    options = argparse.ArgumentParser(prog="python -m trust.readers", description=__doc__.splitlines()[0])
    options.add_argument("--every", type=int, default=1, help="take one draft in N")
    given = options.parse_args()
    logging.disable(logging.ERROR)
    with tempfile.TemporaryDirectory(prefix="harquel-readers-") as name, simulated_model() as url:
        for corpus, around, drafts in corpora(Path(name)):
            for reader in READERS:
                print(said(corpus, reader, measured(drafts[:: given.every], around, url, reader)), flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())
