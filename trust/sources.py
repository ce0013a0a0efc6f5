"""Which of four sources a question is about: python -m trust.sources [--folder KIT]

The questions of the four corpora (demo, stores, academy, kit), each put to all four schemas at once: chosen rightly,
wrongly, or asked back. Nothing of the kit is copied into the project but figures.
"""

from __future__ import annotations

import argparse
import subprocess
import sys
import tempfile
from collections import Counter
from collections.abc import Iterator, Sequence
from pathlib import Path

from harquel.core.briefing import CatalogIndex
from harquel.core.briefing.choose import chosen, ranked
from harquel.core.domain.notes import Notes
from harquel.core.domain.policy import Policy
from harquel.demo.load_sqlite import load
from harquel.testing.sources import keeper_of
from trust import academy, stores
from trust.cases import Case, cases
from trust.kit import FOLDER, Entry, entries
from trust.world import academy_world, stores_world, world


def indexes(folder: Path, kit: Path) -> dict[str, CatalogIndex]:
    """Of the four worlds, as somebody without a limit sees them."""
    places = {name: folder / f"{name}.db" for name in ("ferries", "stores", "academy", "kit")}
    load(places["ferries"])
    stores.load(places["stores"])
    academy.load(places["academy"])
    made = {
        "ferries": world(places["ferries"]).index, "stores": stores_world(places["stores"]).index,
        "academy": academy_world(places["academy"], noted=True).index,
    }  # fmt: skip
    if kit.is_dir():
        subprocess.run([sys.executable, str(kit / "build.py"), str(places["kit"])], check=True, capture_output=True)
        policy = Policy(withhold_delicate=False)
        whole = keeper_of(places["kit"], policy).current()
        made["kit"] = CatalogIndex.build(policy.visible(whole), Notes(), policy)
    return made


def questions(kit: Path) -> Iterator[tuple[str, str]]:
    """Whose it is, and the question; each once."""
    corpora: dict[str, Sequence[Case | Entry]] = {
        "ferries": cases(), "stores": cases(sorted((stores.FOLDER / "corpus").glob("*.yaml"))),
        "academy": cases(sorted((academy.FOLDER / "corpus").glob("*.yaml"))),
        "kit": entries(kit) if kit.is_dir() else [],
    }  # fmt: skip
    for name, found in corpora.items():
        yield from ((name, question) for question in dict.fromkeys(case.question for case in found))


def main() -> int:
    """Prints what became of them."""
    asked = argparse.ArgumentParser(prog="python -m trust.sources")
    asked.add_argument("--folder", type=Path, default=FOLDER, help="where the kit lies")
    kit: Path = asked.parse_args().folder
    counts: dict[str, Counter[str]] = {}
    with tempfile.TemporaryDirectory(prefix="harquel-sources-") as name:
        known = indexes(Path(name), kit)
        for whose, question in questions(kit):
            order = ranked(question, known)
            first = chosen(order)
            ended = "asked back" if first is None else "right" if first.name == whose else "wrong"
            counts.setdefault(whose, Counter())[ended] += 1
            if ended == "wrong":
                print(f"wrong    {whose}: {question}  -> {order[0]}  {order[1]}")
    total = sum(counts.values(), Counter[str]())
    for whose, found in {**counts, "together": total}.items():
        every = sum(found.values())
        print(f"{whose}: of {every} {', '.join(f'{n} {ended}' for ended, n in found.most_common())}")
    return 0 if total["wrong"] <= 0.05 * sum(total.values()) else 1


if __name__ == "__main__":
    sys.exit(main())
