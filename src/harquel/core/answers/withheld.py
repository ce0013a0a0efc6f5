"""What an answer leaves out because it is withheld: said where it was asked for, or where everything was."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from sqlglot import exp

from harquel.core.briefing.words import name_stems, stems
from harquel.core.domain.catalog import Catalog, Column, Table
from harquel.core.domain.findings import Finding
from harquel.core.domain.personal import looks_personal
from harquel.core.language.say import said_as
from harquel.core.sql.tree import ParseFault, parse

CODE = "withheld"


def withheld_from(visible: Catalog, whole: Catalog, reads: Iterable[str], question: str, draft: str) -> list[Finding]:
    """A warning for what the question asks for and nobody may see; an info where the draft wanted all columns.

    `reads` are the tables of the statement. That there are withheld columns is said, what they are called is not,
    beyond the words of the question itself.
    """
    tables = [(visible.table(name), whole.table(name)) for name in dict.fromkeys(reads)]
    gone = {
        seen.name: _gone(seen, full) for seen, full in tables if seen is not None and full is not None
    }  # fmt: skip
    if not any(gone.values()):
        return []
    open_stems = {s for seen, _ in tables if seen for name in (seen.name, *_names(seen)) for s in name_stems(name)}
    asked = list(dict.fromkeys(_asked_for(question, gone.values(), open_stems)))
    if asked:
        words = ", ".join(f"“{word}”" for word in asked)
        message = said_as("caveat-withheld", words=words)
        return [Finding(rule=CODE, severity="warning", message=message)]
    if not _wants_all(draft, visible.engine):
        return []
    said = " and ".join(
        f"{len(columns)} column{'s' if len(columns) > 1 else ''} of {name}" for name, columns in gone.items() if columns
    )
    return [Finding(rule=CODE, severity="info", message=f"Withheld and left out: {said}.")]


def _gone(seen: Table, full: Table) -> list[Column]:
    shown = set(_names(seen))
    return [c for c in full.columns if c.readable and c.name not in shown]


def _names(table: Table) -> list[str]:
    return [c.name for c in table.columns]


def _asked_for(question: str, gone: Iterable[list[Column]], open_stems: set[str]) -> Iterator[str]:
    """Words of the question that name a withheld column and nothing that may be seen.

    All of its words, or one that alone names something personal: the phone of a phone_number; for names of people
    the word itself, where nothing else has it.
    """
    said = {stem: word for word in question.split()
            for stem in (*stems(word), *stems(word.replace("-", "")))}  # fmt: skip
    for column in (c for columns in gone for c in columns):
        own = [s for s in name_stems(column.name) if s not in open_stems]
        telling = [s for s in own if s in said and (looks_personal(s) or (s == own[-1] == "name"))]
        if own and all(s in said for s in own):
            yield " ".join(said[s].strip(".,;:?!“”\"'()").casefold() for s in own)
        elif telling:
            yield said[telling[0]].strip(".,;:?!“”\"'()").casefold()


def _wants_all(draft: str, engine: str) -> bool:
    if "*" not in draft:
        return False
    try:
        trees = parse(draft, engine)
    except ParseFault:
        return False
    return any(not isinstance(star.parent, exp.Count) for tree in trees for star in tree.find_all(exp.Star))
