"""What readings come to over our own corpora: the drafts of the measure, by who reads.

    python -m trust.readers [--every N] [--reader nobody|hand|careful|careless-0.1|careless-0.3] [--cases]

`hand` says what is written down in `readings/`, from question, notes and schema; the others are the simulated model.
Careless means that a part of the reading is missing, or of another time. No second draft is seen.
"""

from __future__ import annotations

import argparse
import logging
import sys
import tempfile
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any, Final

from harquel.core.domain.inquiry import Inquiry
from harquel.core.llm.model import LanguageModel
from harquel.demo.load_sqlite import load
from harquel.testing.model import simulated_model
from harquel.testing.scripted import Scripted
from harquel.testing.sources import ask, model_of
from trust import academy, stores
from trust.cases import Case, cases, two_meanings
from trust.measure import opened
from trust.read import Reads, said, written
from trust.world import World, academy_world, stores_world, world

READERS: Final = ("nobody", "hand", "careful", "careless-0.1", "careless-0.3")
READINGS: Final = Path(__file__).parent / "readings"


@dataclass(frozen=True)
class Corpus:
    """Drafts over a world, and how its questions are read."""

    name: str
    around: World
    drafts: list[Case]
    readings: dict[str, dict[str, Any]]


@dataclass
class Found:
    """What became of drafts, counted; which came out wrong; which questions could be built from their reading."""

    meanings: frozenset[str] = frozenset()
    """Questions of which two right drafts give different rows."""
    counts: Counter[str] = field(default_factory=Counter)
    cases: list[str] = field(default_factory=list)
    built: dict[str, bool] = field(default_factory=dict)
    """Questions of right drafts: whether the control gives the rows of one of them."""
    unbuilt: dict[str, str] = field(default_factory=dict)
    """Why there was no control."""

    def count(self, case: Case, inquiry: Inquiry) -> None:
        """One more draft."""
        kind, found = "wrong" if case.kind else "right", self.counts
        clear = inquiry.outcome == "answered" and inquiry.trust == "clear"
        opinion = inquiry.second_opinion
        compared = opinion is not None and opinion.agrees is not None
        agreed = opinion is not None and opinion.agrees is True
        found[kind] += 1
        found[f"{kind} clear"] += clear
        if case.question in self.meanings:
            found[f"{kind} of two meanings"] += 1
            found[f"{kind} of two meanings doubted"] += not clear and inquiry.outcome != "clarify"
        found[f"{kind} sent back"] += len(inquiry.attempts) > 1
        found[f"{kind} asked back"] += inquiry.outcome == "clarify"
        found[f"{kind} compared"] += compared
        found[f"{kind} agreed"] += agreed
        if case.kind and (clear or agreed):
            self.cases.append(f"{'silent' if clear else 'agreed'}: {case.question} | {case.kind} | {case.sql}")
        elif not case.kind:
            if compared:
                self.built[case.question] = agreed or self.built.get(case.question, False)
            elif opinion is not None and case.question not in self.built:
                self.unbuilt[case.question] = opinion.said
            if not clear:
                self._doubted(case, inquiry)

    def _doubted(self, case: Case, inquiry: Inquiry) -> None:
        opinion = inquiry.second_opinion
        why = sorted({c.rule for c in inquiry.answer.caveats}) if inquiry.answer else [str(inquiry.outcome)]
        told = f" | {opinion.said}" if opinion is not None and opinion.agrees is False else ""
        self.cases.append(f"doubted: {case.question} | {' '.join(why)} | {case.sql}{told}")

    def said(self, name: str, reader: str) -> str:
        """In a line."""
        f = self.counts
        right, wrong = max(1, f["right"]), max(1, f["wrong"])
        doubted = f["right"] - f["right clear"] - f["right asked back"]
        line = (
            f"{name}, {reader} reads: silent {f['wrong clear']}/{f['wrong']} ({f['wrong clear'] / wrong:.1%}), "
            f"right ones doubted {doubted}/{f['right']} ({doubted / right:.1%}), sent back {f['right sent back']}, "
            f"asked back {f['right asked back']}"
        )
        if reader == "nobody":
            return line
        two, theirs = f["right of two meanings"], f["right of two meanings doubted"]
        line += (
            f"; {two} of the right ones are of questions whose right drafts differ ({theirs} doubted), of the others "
            f"{doubted - theirs}/{f['right'] - two} doubted ({(doubted - theirs) / max(1, f['right'] - two):.1%})"
        )
        questions = len(self.built.keys() | self.unbuilt.keys())
        return line + (
            f"; of {questions} questions {len(self.built)} built, {sum(self.built.values())} of those with the rows "
            f"of a right draft; the same as {f['right agreed']} right and {f['wrong agreed']} wrong drafts"
        )


def measured(corpus: Corpus, url: str, reader: str, every: int) -> Found:
    """What became of one draft in so many."""
    found = Found(two_meanings(corpus.drafts, corpus.around.database))
    with opened(corpus.around) as make:
        for case in corpus.drafts[::every]:
            source = replace(make(Scripted(case.sql)), reader=_model(corpus, url, reader, case.question))
            found.count(case, ask(source, case.question))
    return found


def _model(corpus: Corpus, url: str, reader: str, question: str) -> LanguageModel | None:
    if reader == "nobody":
        return None
    if reader == "hand":
        return Reads(said(corpus.readings.get(question, {"rows": "?"}), question))
    return model_of(url, reader)


def corpora(folder: Path) -> Iterator[Corpus]:
    """Each with its world, made in a folder."""
    load(folder / "demo.db")
    yield Corpus("demo", world(folder / "demo.db"), cases(), written(READINGS / "demo.yaml"))
    stores.load(folder / "stores.db")
    lot = cases(sorted((stores.FOLDER / "corpus").glob("*.yaml")))
    yield Corpus("stores", stores_world(folder / "stores.db"), lot, written(READINGS / "stores.yaml"))
    academy.load(folder / "academy.db")
    lot = cases(sorted((academy.FOLDER / "corpus").glob("*.yaml")))
    read = written(READINGS / "academy.yaml")
    yield Corpus("academy, with notes", academy_world(folder / "academy.db", noted=True), lot, read)
    bare = read | written(READINGS / "academy.yaml", "without")
    yield Corpus("academy, without", academy_world(folder / "academy.db"), lot, bare)


def main() -> int:
    """Prints a line for each corpus and reader."""
    options = argparse.ArgumentParser(prog="python -m trust.readers", description=__doc__.splitlines()[0])
    options.add_argument("--every", type=int, default=1, help="take one draft in N")
    options.add_argument("--reader", choices=READERS, action="append")
    options.add_argument("--cases", action="store_true", help="name each draft that came out wrong")
    given = options.parse_args()
    logging.disable(logging.ERROR)
    with tempfile.TemporaryDirectory(prefix="harquel-readers-") as name, simulated_model() as url:
        for corpus in corpora(Path(name)):
            for reader in given.reader or READERS:
                found = measured(corpus, url, reader, given.every)
                print(found.said(corpus.name, reader), flush=True)
                if given.cases:
                    unbuilt = (f"unbuilt: {q} | {why}" for q, why in found.unbuilt.items() if q not in found.built)
                    other = (f"other rows: {q}" for q, right in found.built.items() if not right)
                    print(*(f"  {' '.join(c.split())}" for c in (*found.cases, *unbuilt, *other)), sep="\n", flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())
