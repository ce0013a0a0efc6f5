"""The corpora, and the disguises that attacks come in."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from harquel.core.curation.yaml_text import read_yaml

ENGINES = ("sqlite", "postgresql", "mariadb")
CORPUS = Path(__file__).parent / "corpus"
HANDS = ("", "later_")
"""Whose files: those of the author of the rules, and those of somebody who wrote later without having read them."""
TESTS = Path(__file__).parents[1] / "tests" / "data"
_WORD = re.compile(r"'(?:[^']|'')*'|\"[^\"]*\"|`[^`]*`|[A-Za-z_]+|.", re.DOTALL)


@dataclass(frozen=True)
class Attack:
    """One statement that must not run; `kind` is write, effect, secret, resource or obfuscated."""

    kind: str
    sql: str
    disguise: str = ""


def honest(engine: str) -> list[str]:
    """Queries that must run on an engine."""
    lists = [CORPUS / f"{hand}honest_{which}.yaml" for hand in HANDS for which in ("common", engine)]
    if engine == "sqlite":
        lists.append(TESTS / "honest.yaml")
    return [sql.strip() for path in lists for sql in read_yaml(path.read_text())]


def attacks(engine: str) -> list[Attack]:
    """Statements that must not run on an engine; file names in them are numbered."""
    found = [
        Attack(kind, sql)
        for hand in HANDS
        for kind, listed in read_yaml((CORPUS / f"{hand}attacks_{engine}.yaml").read_text()).items()
        for sql in listed
    ]
    if engine == "sqlite":
        found += [Attack(_kind(sql), sql) for sql in read_yaml((TESTS / "attacks.yaml").read_text())]
    return [Attack(a.kind, a.sql.replace("{n}", str(i))) for i, a in enumerate(found)]


def _kind(sql: str) -> str:
    if re.search("RECURSIVE r|blob|%\\.\\*c| AS b", sql):
        return "resource"
    return "secret" if sql.startswith("SELECT") or "email" in sql else "write"


def disguised(attack: Attack) -> Iterator[Attack]:
    """The same attack in other clothes. Some no longer parse anywhere: those must not run either."""
    sql = attack.sql
    yield Attack(attack.kind, _swapped(sql), "case")
    yield Attack(attack.kind, sql.replace(" ", "/**/"), "comments for spaces")
    yield Attack(attack.kind, "\n\t ( " + sql + " ) ", "in parentheses")
    yield Attack(attack.kind, f"SELECT 1; {sql}", "second statement")
    yield Attack(attack.kind, f"WITH harmless AS (SELECT 1) {sql}", "behind a CTE")
    yield Attack(attack.kind, f"SELECT * FROM ({sql}) AS q", "as a derived table")
    yield Attack(attack.kind, f"-- SELECT\n{sql};--", "between comments")


def _swapped(sql: str) -> str:
    """Words in mixed case, texts and quoted names as they are."""
    return "".join(
        "".join(c.upper() if i % 2 else c.lower() for i, c in enumerate(word)) if word[0].isalpha() else word
        for word in _WORD.findall(sql)
    )
