"""Briefings over 2,000 tables: the demo world hidden among decoys made of similar words."""

from __future__ import annotations

import random
import statistics
import subprocess
import sys
import time
from pathlib import Path

from trust.cases import cases as trust_cases

from benchmarks.figure import Figure
from harquel.core.briefing import CatalogIndex, TokenGauge, brief
from harquel.core.curation.yaml_text import read_yaml
from harquel.core.domain.catalog import Catalog, Column, ForeignKey, Table
from harquel.core.sql.names import resolve
from harquel.core.sql.tree import parse
from harquel.testing.sources import demo_notes, demo_policy, scanned

BUDGET = 4000
TABLES = 2000
_ENDINGS = (
    "plan log history stage draft import export batch backup summary detail queue audit target forecast cost owner "
    "type status change note group limit tariff permit survey claim contract budget roster archive snapshot mapping "
    "setting"
).split()
_MORE = (
    "lock buoy tug crane depot agent tax lease pilot cargo slip survey gate radar pump valve rope anchor deck".split()
)


def decoys(catalog: Catalog, count: int, seed: int = 7) -> list[Table]:
    """Tables whose names and columns are made of the words of the real ones, with keys among themselves and to them."""
    draw = random.Random(seed)
    words = [t.plain for t in catalog.tables] + _MORE
    columns = [c for t in catalog.tables for c in t.columns if not c.primary_key]
    names = {t.name for t in catalog.tables}
    made: list[Table] = []
    while len(made) < count:
        name = "_".join(
            (draw.choice(words), draw.choice(_ENDINGS), *(draw.choice(_MORE) for _ in range(draw.random() < 0.5)))
        )
        if name in names:
            continue
        names.add(name)
        picked = {c.name: c for c in draw.sample(columns, 16)}
        own = [Column("id", "INTEGER", False, True, True)]
        own += [
            Column(c.name, c.type, c.nullable, samples=c.samples[:6] if draw.random() < 0.3 else ())
            for c in picked.values()
        ]
        own += [Column(f"{draw.choice(_ENDINGS)}_{draw.choice(_MORE)}", "TEXT", True) for _ in range(3)]
        keys = []
        for target in draw.sample(
            [t.name for t in catalog.tables[:-1]] + [t.name for t in made[-50:]], 2 if made else 1
        ):
            own.append(Column(f"{target}_id", "INTEGER", True))
            keys.append(ForeignKey((f"{target}_id",), target, ("id",)))
        unique = {c.name: c for c in own}
        made.append(Table(name, "table", tuple(unique.values()), tuple(keys), draw.randrange(0, 100_000)))
    return made


def world(path: Path) -> Catalog:
    """The demo's catalog with its decoys, in no particular order."""
    catalog = demo_policy().visible(scanned(path, demo_policy()))
    tables = [*catalog.tables, *decoys(catalog, TABLES - len(catalog.tables))]
    random.Random(3).shuffle(tables)
    return Catalog("sqlite", tuple(tables), "decoys", catalog.scanned_at)


def measure(folder: Path) -> list[Figure]:
    """Time and memory of the index, time of a briefing, and in how many every table of the query is there."""
    catalog = world(folder / "ferries.db")
    started = time.perf_counter()
    index = CatalogIndex.build(catalog, demo_notes(), demo_policy())
    built = time.perf_counter() - started
    cases = read_yaml((Path(__file__).parent / "questions.yaml").read_text())
    gauge, took, whole = TokenGauge(), [], []
    for case in cases:
        started = time.perf_counter()
        found = brief(case["q"], index, (), BUDGET, gauge)
        took.append((time.perf_counter() - started) * 1000)
        assert found.summary.tokens <= BUDGET
        names = {t.name for t in found.summary.tables}
        if set(case["needs"]) <= names:
            whole.append(case["q"])
        else:
            print(f"  missing for “{case['q']}”: {', '.join(sorted(set(case['needs']) - names))}")
    asked = {c.question: c.right for c in trust_cases() if not c.kind}
    found_whole = sum(_reads(sql, catalog) <= _briefed(q, index, gauge) for q, sql in asked.items())
    columns = sum(len(t.columns) for t in catalog.tables)
    memory = subprocess.run(
        [sys.executable, "-c", _MEMORY.format(path=str(folder / "ferries.db"))],
        capture_output=True,
        text=True,
        check=True,
    )
    return [
        Figure(f"index of {len(catalog.tables):,} tables, {columns:,} columns", built, "s"),
        Figure("memory of that index", float(memory.stdout), "MB"),
        Figure("briefing, median", statistics.median(took), "ms"),
        Figure(f"all tables there, of {len(cases)} questions at {BUDGET} tokens", 100 * len(whole) / len(cases), "%"),
        Figure(f"the same, of {len(asked)} questions of the measure of trust", 100 * found_whole / len(asked), "%"),
    ]


def _briefed(question: str, index: CatalogIndex, gauge: TokenGauge) -> set[str]:
    return {t.name for t in brief(question, index, (), BUDGET, gauge).summary.tables}


def _reads(sql: str, catalog: Catalog) -> set[str]:
    (tree,) = parse(sql, "sqlite")
    return set(resolve(tree, catalog).reads)


_MEMORY = """
import tracemalloc
from pathlib import Path
from benchmarks.briefing import world
from harquel.core.briefing import CatalogIndex
from harquel.testing.sources import demo_notes, demo_policy
catalog = world(Path({path!r}))
tracemalloc.start()
index = CatalogIndex.build(catalog, demo_notes(), demo_policy())
print(tracemalloc.get_traced_memory()[1] / 1e6)
"""
