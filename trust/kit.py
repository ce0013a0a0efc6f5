"""The kit that lies beside the project: drafts over a schema, by a hand that has seen none of our code.

    python -m trust.kit [--folder FOLDER] [--second never|in-doubt|always|reading|both]

Nothing of it is copied into the project but figures. Each draft is put through a whole inquiry whose drafting model
says it, and says it again when it is told of a doubt; the second drafter says what the kit's `second.json` has for
the question. With `reading` no second SQL is seen: the question is read as `readings/kit.yaml` has it, and the control
is built from that; with `both` the second drafter is asked, in doubt, where none can be built. No notes: a figure by
notes would measure how the kit's page of notes was typed into ours.
"""

from __future__ import annotations

import argparse
import datetime as dt
import json
import logging
import os
import subprocess
import sys
import tempfile
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any, Final, Literal, get_args

from harquel.core.briefing import Describer
from harquel.core.curation.yaml_text import read_yaml
from harquel.core.domain.events import Unwatched
from harquel.core.domain.findings import STRUCTURAL
from harquel.core.domain.inquiry import Inquiry
from harquel.core.domain.notes import Notes
from harquel.core.domain.policy import Policy, ReviewTerms
from harquel.core.inquiry.conduct import conduct
from harquel.core.inquiry.source import Source
from harquel.testing.scripted import Scripted
from harquel.testing.sources import demo_sandbox, keeper_of, source_of
from trust.read import Reads, said, written

FOLDER: Final = Path(__file__).resolve().parent.parent.parent / "shared" / "kit"
NOW: Final = dt.datetime(2024, 10, 16, 9, 30, tzinfo=dt.UTC)
"""The instant at which the kit's world stands still."""
When = Literal["never", "in-doubt", "always", "reading", "both"]
READINGS: Final = Path(__file__).resolve().parent / "readings" / "kit.yaml"


@dataclass(frozen=True)
class Entry:
    """One draft for a question; `kind` is empty for a right one."""

    key: str
    question: str
    sql: str
    kind: str = ""


@dataclass
class Found:
    """What became of the drafts, and by which codes right ones were doubted."""

    when: str
    wrong: int = 0
    silent: int = 0
    stopped: int = 0
    """Wrong ones that gave no answer."""
    right: int = 0
    doubted: int = 0
    asked_back: int = 0
    lost: int = 0
    """Right ones that gave no answer."""
    sent_back: int = 0
    """Right ones about which the model was asked again."""
    compared: int = 0
    """Drafts beside which a second way could be laid."""
    same: Counter[bool] = field(default_factory=Counter)
    """Wrong (True) and right ones whose rows the second way gives too."""
    codes: Counter[str] = field(default_factory=Counter)
    cases: list[str] = field(default_factory=list)

    def said(self) -> str:
        """In a line."""
        return (
            f"second {self.when}: {self.silent} of {self.wrong} wrong drafts silent ({self.silent / self.wrong:.1%}), "
            f"{self.stopped} of them stopped; of {self.right} right ones {self.doubted} doubted "
            f"({self.doubted / self.right:.1%}), {self.lost} lost, {self.asked_back} asked back, "
            f"{self.sent_back} sent back; {self.compared} laid beside a second way, which gives the same for "
            f"{self.same[True]} wrong ones and {self.same[False]} right ones"
        )


def entries(folder: Path) -> list[Entry]:
    """All drafts of the kit."""
    made = []
    for case in read_yaml((folder / "cases.yaml").read_text("utf-8")):
        made += [Entry(case["id"], case["question"], sql) for sql in case["right"]]
        made += [Entry(case["id"], case["question"], s, k) for wrong in case["wrong"] for k, s in wrong.items()]
    return made


def measured(folder: Path, when: When, say: Any = lambda text: None) -> Found:
    """Every draft through a whole inquiry."""
    found = Found(when)
    seconds = {k: v["sql"] for k, v in json.loads((folder / "second.json").read_text("utf-8")).items()}
    with tempfile.TemporaryDirectory(prefix="harquel-kit-") as name:
        read = written(READINGS) if when in ("reading", "both") else {}
        for entry, inquiry in _inquiries(folder, Path(name), entries(folder), seconds, when, read):
            _count(found, entry, inquiry)
            if (found.right + found.wrong) % 100 == 0:
                say(found.said() if found.wrong and found.right else "")
    return found


def asked_back(folder: Path) -> list[str]:
    """What becomes of the kit's questions that can be meant in two ways, one for each, where a reader says both."""
    read = written(READINGS, "special")
    special = read_yaml((folder / "special.yaml").read_text("utf-8"))
    drafts = [Entry(e["id"], e["question"], e["readings"][0]["sql"]) for e in special if e["id"] in read]
    return _became(folder, drafts, read, Policy(withhold_delicate=False))


def never_answered(folder: Path) -> list[str]:
    """What becomes of those without an answer where a model drafts all the same, by the policy one begins with."""
    never = written(READINGS, "never")
    special = read_yaml((folder / "special.yaml").read_text("utf-8"))
    drafts = [Entry(e["id"], e["question"], never[e["id"]]["draft"], e["kind"]) for e in special if e["id"] in never]
    return _became(folder, drafts, {key: one["read"] for key, one in never.items()}, Policy())


def _became(folder: Path, drafts: list[Entry], read: dict[str, Any], policy: Policy) -> list[str]:
    with tempfile.TemporaryDirectory(prefix="harquel-kit-") as name:
        done = _inquiries(folder, Path(name), drafts, {e.key: e.sql for e in drafts}, "reading", read, policy)
        return [
            " ".join((f"{e.key}:", e.kind, found.outcome or "", found.trust or "", *sorted(_codes(found))))
            for e, found in done
        ]


def _codes(inquiry: Inquiry) -> set[str]:
    told = inquiry.answer.caveats if inquiry.answer is not None else inquiry.attempts[-1].findings
    return {c.rule for c in told}


def _inquiries(
    folder: Path, made: Path, drafts: list[Entry], seconds: dict[str, str], when: When, read: dict[str, Any],
    policy: Policy | None = None,
) -> Iterator[tuple[Entry, Inquiry]]:  # fmt: skip
    database = made / "kit.db"
    subprocess.run([sys.executable, str(folder / "build.py"), str(database)], check=True, capture_output=True)
    terms = ReviewTerms(second_opinion={"reading": "never", "both": None}.get(when, when))
    policy = (policy or Policy(withhold_delicate=False)).model_copy(update={"review": terms})
    sandbox = demo_sandbox(database, query_s=policy.limits.query_s, memory_mb=policy.limits.memory_mb)
    try:
        base: Source = source_of(keeper_of(database, policy), Scripted(""), sandbox, policy, Notes())  # type: ignore[arg-type]
        base = replace(base, describer=Describer(policy, Notes()))
        for entry in drafts:
            source = replace(base, model=Scripted(entry.sql), second=Scripted(seconds[entry.key]))
            if read:
                second = source.second if when == "both" else None
                source = replace(source, second=second, reader=Reads(said(read[entry.key], entry.question)))
            inquiry = Inquiry(
                id=entry.key, state="working", source="kit", question=entry.question, asked_by="Ada Brinewell",
                asked_at=NOW,
            )  # fmt: skip
            yield entry, conduct(inquiry, source, Unwatched(), NOW)
    finally:
        sandbox.close()


def _count(found: Found, entry: Entry, inquiry: Inquiry) -> None:
    clear = inquiry.outcome == "answered" and inquiry.trust == "clear"
    opinion = inquiry.second_opinion
    found.compared += opinion is not None and opinion.agrees is not None
    found.same[bool(entry.kind)] += opinion is not None and opinion.agrees is True
    if entry.kind:
        found.wrong += 1
        found.silent += clear
        found.stopped += inquiry.outcome != "answered"
        if clear:
            found.cases.append(f"silent: {entry.key} {entry.kind} | {entry.sql}")
        return
    found.right += 1
    found.sent_back += len(inquiry.attempts) > 1
    if inquiry.outcome == "clarify":
        found.asked_back += 1
    elif inquiry.answer is None:
        found.lost += 1
        found.cases.append(f"lost: {entry.key} {inquiry.problem} | {entry.sql}")
    elif not clear:
        found.doubted += 1
        codes = sorted({c.rule for c in inquiry.answer.caveats})
        found.codes.update(codes)
        found.cases.append(f"doubted: {entry.key} {' '.join(codes)} | {entry.sql}")


def main() -> int:
    """Prints the figures, and beneath them which right drafts were doubted for what."""
    options = argparse.ArgumentParser(prog="python -m trust.kit", description=__doc__.splitlines()[0])
    options.add_argument("--folder", type=Path, default=Path(os.environ.get("HARQUEL_KIT", FOLDER)))
    options.add_argument("--second", choices=get_args(When), action="append")
    options.add_argument("--cases", action="store_true", help="name each draft that came out wrong")
    options.add_argument("--special", action="store_true", help="the questions that have no answer or several, instead")
    given = options.parse_args()
    if not (given.folder / "cases.yaml").exists():
        print(f"There is no kit in {given.folder}: nothing to measure. --folder says where it is.")
        return 0
    logging.disable(logging.ERROR)
    if given.special:
        print("Can be meant in two ways:", *asked_back(given.folder), sep="\n  ", flush=True)
        print("Without an answer, and drafted all the same:", *never_answered(given.folder), sep="\n  ", flush=True)
        return 0
    for when in given.second or get_args(When):
        found = measured(given.folder, when)
        print(found.said(), flush=True)
        for code, count in found.codes.most_common():
            print(f"  {count:3} {code}{' (structural)' if code in STRUCTURAL else ''}")
        if given.cases:
            print(*(f"  {' '.join(c.split())}" for c in found.cases), sep="\n", flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())
