"""The example bank of a source: read, written, checked by guard, dry run and run, compared with each other."""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from math import ceil
from pathlib import Path
from typing import Any, Literal

import yaml
from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError

from harquel.core.briefing.rank import likeness
from harquel.core.briefing.words import stems
from harquel.core.curation.yaml_text import read_yaml
from harquel.core.domain.examples import Example
from harquel.core.domain.statements import DraftedStatement
from harquel.core.errors import ConfigurationError, SandboxError
from harquel.core.guard import rule_on_plan, rule_on_text
from harquel.core.inquiry.source import Source
from harquel.core.sql.tree import ParseFault, table_names

ALIKE = 0.8
"""Share of common words from which two questions are pointed out as nearly the same."""
MOST_ALIKE = 20
_MOST_COMPARED = 200
"""Questions that one is held against: a bank is listed at once, however large it is."""


class Pair(BaseModel):
    """An example as it stands in a file."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    question: str = Field(min_length=1)
    sql: str = Field(min_length=1)
    tags: tuple[str, ...] = ()
    author: str = ""


@dataclass(frozen=True)
class Checked:
    """What came of checking a pair; `tables` are those that it reads."""

    state: Literal["checked", "stale"]
    said: str
    tables: tuple[str, ...] = ()


def read_pairs(text: str, form: Literal["yaml", "jsonl"], name: str) -> list[Pair]:
    """The pairs in a text: a YAML list, or one JSON object a line. Raises ConfigurationError."""
    found: Any
    try:
        if form == "jsonl":
            found = [json.loads(line) for line in text.splitlines() if line.strip()]
        else:
            found = read_yaml(text) or []
        return TypeAdapter(list[Pair]).validate_python(found)
    except (yaml.YAMLError, json.JSONDecodeError, ValidationError) as error:
        first = error.errors()[0] if isinstance(error, ValidationError) else None
        said = f"{'.'.join(map(str, first['loc']))}: {first['msg']}" if first else str(error).splitlines()[0]
        raise ConfigurationError(
            f"The examples {name} have a wrong form: {said}.", "Each is a question and its sql, with tags if you like."
        ) from error


def write_pairs(pairs: Iterable[Pair], form: Literal["yaml", "jsonl"]) -> str:
    """The inverse of read_pairs; what is empty is left out."""
    plain = [{k: list(v) if isinstance(v, tuple) else v for k, v in p.model_dump().items() if v} for p in pairs]
    if form == "jsonl":
        return "".join(json.dumps(p, ensure_ascii=False) + "\n" for p in plain)
    return str(yaml.safe_dump(plain, sort_keys=False, allow_unicode=True, width=110)) if plain else "[]\n"


def load_examples(path: Path, engine: str) -> tuple[Example, ...]:
    """Reads a bank from a YAML file, without checking it against a database. Raises ConfigurationError."""
    try:
        text = path.read_text("utf-8")
    except OSError as error:
        raise ConfigurationError(f"The examples {path} cannot be read ({error.strerror}).") from error
    return tuple(as_example(p, engine, str(path)) for p in read_pairs(text, "yaml", path.name))


def as_example(pair: Pair, engine: str, name: str) -> Example:
    """A pair with the tables that its SQL reads. Raises ConfigurationError for SQL that cannot be read."""
    try:
        return Example(pair.question, pair.sql, table_names(pair.sql, engine))
    except (ParseFault, ValueError) as error:
        raise ConfigurationError(
            f"In {name} the SQL for “{pair.question}” cannot be read: {error}.", "Write one statement per example."
        ) from error


def check_example(sql: str, source: Source) -> Checked:
    """Guard, dry run and run; nothing of the result is kept. Raises SourceError when the database is away."""
    try:
        tables = table_names(sql, source.engine)
    except (ParseFault, ValueError) as error:
        return Checked("stale", f"The SQL cannot be read: {error}.")
    whole = source.catalog(lambda: False)
    catalog = source.describer.of(whole).catalog
    ruling = rule_on_text(DraftedStatement(sql), source.engine, catalog, source.policy, whole=whole)
    if ruling.statement is None:
        hint = ruling.findings[0].hint if ruling.findings else ""
        return Checked("stale", f"{ruling.ruling.reason} {hint}".strip(), tables)
    try:
        on_plan, _ = rule_on_plan(source.sandbox.plan(ruling.statement), catalog, source.policy)
        if on_plan.verdict != "run":
            return Checked("stale", on_plan.reason, tables)
        result = source.sandbox.run(ruling.statement)
    except SandboxError as error:
        return Checked("stale", f"It does not run: {error}.", tables)
    rows = "1 row" if len(result.rows) == 1 else f"{len(result.rows):,} rows"
    return Checked("checked", f"{rows} in {result.elapsed_ms:.0f} ms", tables)


def near_duplicates(questions: Sequence[str]) -> dict[int, list[int]]:
    """For each position the others whose question says nearly the same, `MOST_ALIKE` at most."""
    words = [set(stems(q)) for q in questions]
    often = Counter(word for said in words for word in said)
    found: dict[int, list[int]] = {}
    by_word: dict[str, list[int]] = {}
    for other, said in enumerate(words):
        # Two that have so much in common share one of their rarest words, of as many as one may have for itself.
        rarest = sorted(said, key=lambda word: (often[word], word))[: len(said) - ceil(ALIKE * len(said)) + 1]
        near = dict.fromkeys(one for word in rarest for one in by_word.get(word, ())[-_MOST_COMPARED:])
        for one in list(near)[:_MOST_COMPARED]:
            full = any(len(found.get(n, ())) >= MOST_ALIKE for n in (one, other))
            if not full and likeness(words[one], said) >= ALIKE:
                found.setdefault(one, []).append(other)
                found.setdefault(other, []).append(one)
        for word in rarest:
            by_word.setdefault(word, []).append(other)
    return {place: sorted(others) for place, others in sorted(found.items())}
