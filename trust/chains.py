"""Forty conversations: is what follows taken for what was meant, and answered afresh?

    python -m trust.chains [--world demo|kit] [--cases]

Between the first and the second question a row is changed. Over the demo the simulated model drafts, reads and says
what follows; over the kit's world, which lies beside the project, the drafts are written by hand and given only to
whoever asks the question that was meant.
"""

from __future__ import annotations

import argparse
import datetime as dt
import json
import logging
import os
import sqlite3
import subprocess
import sys
import tempfile
from collections import Counter
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any, Final

from harquel.core.curation.yaml_text import read_yaml
from harquel.core.domain.inquiry import Inquiry
from harquel.core.domain.notes import Notes
from harquel.core.domain.policy import Policy
from harquel.core.inquiry.source import Source
from harquel.core.llm.model import Completion, Message
from harquel.demo.load_sqlite import load
from harquel.testing.model import simulated_model
from harquel.testing.scripted import Scripted
from harquel.testing.sources import (
    NOW,
    Recorder,
    agrees,
    ask,
    demo_sandbox,
    demo_source,
    expected,
    keeper_of,
    model_of,
    source_of,
)
from trust.kit import FOLDER
from trust.kit import NOW as KIT_NOW
from trust.read import Reads

CHAINS: Final = Path(__file__).parent / "chains.yaml"
MEANT_ELSE: Final = "SELECT 'another question'"
_ASKED: Final = "## Question\n"


@dataclass(frozen=True)
class Step:
    """What is said, what it may be taken for, and the query that gives what was meant."""

    said: str
    stands: tuple[str, ...]
    sql: str
    change: str


@dataclass(frozen=True)
class Chain:
    """A conversation; `reading` is how its first question is understood, where that is by hand."""

    steps: tuple[Step, ...]
    reading: dict[str, Any] | None


@dataclass
class Found:
    """What became of the steps that follow."""

    chains: int = 0
    whole: int = 0
    """Chains of which each step was right."""
    follow_ups: int = 0
    taken: int = 0
    """Those taken for the question that was meant."""
    right: int = 0
    silent: int = 0
    """Wrong ones that were told as clear."""
    clear: int = 0
    """Right ones that were."""
    by: Counter[str] = field(default_factory=Counter)
    """How they were taken: by the reading, by a model, or as they stand."""
    cases: list[str] = field(default_factory=list)

    def said(self, world: str) -> str:
        """In a line."""
        ways = ", ".join(f"{count} by {by}" for by, count in sorted(self.by.items()))
        return (
            f"{world}: {self.whole} of {self.chains} conversations right from end to end; of {self.follow_ups} "
            f"follow-ups {self.taken} taken for what was meant ({ways}), {self.right} right on the changed rows, "
            f"{self.clear} of those clear, {self.silent} wrong and clear"
        )


def chains(world: str) -> list[Chain]:
    """Those of a world."""
    found = []
    for chain in read_yaml(CHAINS.read_text("utf-8"))[world]:
        steps = []
        for said, stands, values, *own in chain["steps"]:
            sql, meant = (
                (own[0] if own else chain["sql"]).format(**values),
                [stands] if isinstance(stands, str) else stands,
            )
            steps.append(Step(said, tuple(meant), sql, chain["change"].format(**values)))
        found.append(Chain(tuple(steps), chain.get("reading")))
    return found


class _Written(Scripted):
    """Gives a step's query to whoever asks the question that it is for."""

    def __init__(self, step: Step) -> None:
        super().__init__(step.sql)
        self._step = step

    def complete(self, messages: list[Message], **more: Any) -> Completion:
        """See Scripted."""
        asked = messages[1]["content"].rpartition(_ASKED)[2]
        if not _same(asked, self._step.stands):
            return Scripted(MEANT_ELSE).complete(messages, **more)
        return super().complete(messages, **more)


def _same(question: str, stands: tuple[str, ...]) -> bool:
    return question.strip(" ?.!") in {one.strip(" ?.!") for one in stands}


def measured(world: str, folder: Path = FOLDER) -> Found:
    """Every conversation of a world."""
    found = Found()
    with tempfile.TemporaryDirectory(prefix="harquel-chains-") as name, simulated_model() as url:
        path = Path(name) / f"{world}.db"
        for chain in chains(world):
            # Each begins with the rows as they were made.
            path.unlink(missing_ok=True)
            _made(world, path, folder)
            source, now = _source(world, path, url)
            try:
                _talk(found, chain, source, path, now)
            finally:
                source.sandbox.close()  # type: ignore[attr-defined]
    return found


_MADE: dict[str, bytes] = {}


def _made(world: str, path: Path, folder: Path) -> None:
    if world not in _MADE:
        if world == "demo":
            load(path)
        else:
            subprocess.run([sys.executable, str(folder / "build.py"), str(path)], check=True, capture_output=True)
        _MADE[world] = path.read_bytes()
    path.write_bytes(_MADE[world])


def _source(world: str, path: Path, url: str) -> tuple[Source, dt.datetime]:
    if world == "demo":
        found = demo_source(path, url, demo_sandbox(path))
        return replace(found, reader=found.model), NOW
    policy = Policy(withhold_delicate=False)
    found = source_of(keeper_of(path, policy), model_of(url, "careful"), demo_sandbox(path), policy, Notes())
    return replace(found, follower=found.model), KIT_NOW


def _talk(found: Found, chain: Chain, source: Source, path: Path, now: dt.datetime) -> None:
    found.chains += 1
    before: Inquiry | None = None
    right = True
    for number, step in enumerate(chain.steps):
        if number == 1:
            _change(path, step)
        here = source if chain.reading is None else replace(
            source, model=_Written(step), reader=Reads(json.dumps(chain.reading) if number == 0 else "nothing"),
        )  # fmt: skip
        heard = Recorder()
        inquiry = ask(here, step.said, heard, earlier=before, now=now)
        good = agrees(inquiry, expected(path, step.sql), {})
        taken = _same(inquiry.standalone_question or inquiry.question, step.stands)
        clear = inquiry.outcome == "answered" and inquiry.trust == "clear"
        right = right and good
        if number:
            found.follow_ups += 1
            found.by.update(str(e.facts["by"]) for e in heard.events if e.kind == "restated")
            found.taken += taken
            found.right += good
            found.clear += good and clear
            found.silent += clear and not good
        if not good or not taken:
            told = inquiry.answer.text if inquiry.answer else inquiry.problem or inquiry.clarify
            end = f"{'right' if good else 'wrong'}, {inquiry.trust}"
            found.cases.append(f"{end}: {step.said} -> {inquiry.standalone_question or '='} | {told}")
        before = inquiry
    found.whole += right


def _change(path: Path, step: Step) -> None:
    """Raises AssertionError where the change would make no difference."""
    before = expected(path, step.sql)
    with sqlite3.connect(path) as connection:
        connection.execute(step.change)
    connection.close()
    assert expected(path, step.sql) != before, step


def main() -> int:
    """Prints the figures of each world."""
    options = argparse.ArgumentParser(prog="python -m trust.chains", description=__doc__.splitlines()[0])
    options.add_argument("--folder", type=Path, default=Path(os.environ.get("HARQUEL_KIT", FOLDER)))
    options.add_argument("--world", choices=("demo", "kit"), action="append")
    options.add_argument("--cases", action="store_true", help="name each that was taken or answered otherwise")
    given = options.parse_args()
    logging.disable(logging.ERROR)
    silent = 0
    for world in given.world or ("demo", "kit"):
        if world == "kit" and not (given.folder / "build.py").exists():
            print(f"There is no kit in {given.folder}: nothing to measure. --folder says where it is.")
            continue
        found = measured(world, given.folder)
        silent += found.silent
        print(found.said(world), flush=True)
        if given.cases:
            print(*(f"  {case}" for case in found.cases), sep="\n", flush=True)
    return 1 if silent else 0


if __name__ == "__main__":
    sys.exit(main())
