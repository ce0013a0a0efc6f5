"""What words mean in a source: tables, columns, codes, values, measures, by the stems of their names and notes."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Final, Literal

from rapidfuzz.distance import Prefix

from harquel.core.briefing.words import EMPTY, split, stem
from harquel.core.domain.catalog import Catalog, Column, Table
from harquel.core.domain.notes import ColumnNotes, Notes
from harquel.core.domain.policy import Policy

MeaningKind = Literal["table", "column", "code", "null", "value", "measure", "remark"]
Phrase = tuple[str, ...]
LONGEST: Final = 6
_START: Final = 5
"""Letters that two forms of a word share at least."""
_ROOT: Final = 4
"""Letters of the shortest word that others are derived from."""
_DERIVED: Final = frozenset("ur ure al ment ion ation at anc ance enc ence ag age iv ive abl able iti ity".split())
"""What nouns made of a verb end in, as the stemmer leaves it: failure of fail, approval of approve."""
# What a column's name may end in without meaning anything to an asker.
_TAILS: Final = frozenset("id at on no kn nm km m eur cents cent min pct percent ms kg".split())


@dataclass(frozen=True)
class Meaning:
    """One thing that a word can stand for. `value` is the code or value as it is stored."""

    kind: MeaningKind
    table: str
    column: str = ""
    value: str = ""
    measure: str = ""
    words: str = field(default="", compare=False)
    """The words as somebody wrote them, folded: a word that is just so counts for more than its stem."""

    def said(self) -> str:
        """In words, for a hint."""
        place = f"{self.table}.{self.column}"
        return {
            "table": f"the table {self.table}",
            "column": place,
            "code": f"{place} = '{self.value}'",
            "value": f"{place} = '{self.value}'",
            "null": f"{place} IS NULL",
            "measure": f"the measure {self.measure}",
            "remark": place if self.column else f"the table {self.table}",
        }[self.kind]


@dataclass
class Meanings:
    """`phrases`: whole names, synonyms, codes and values; `parts`: single words of longer names and of notes."""

    phrases: dict[Phrase, list[Meaning]] = field(default_factory=lambda: defaultdict(list))
    parts: dict[str, list[Meaning]] = field(default_factory=lambda: defaultdict(list))

    def near(self, word: str) -> list[Meaning]:
        """What a stem can mean that is known only in another form: delivery for what was delivered."""
        return [
            m for known in self._by_start.get(word[:_ROOT], ())
            if Prefix.similarity(word, known) >= max(_START, len(word) - 3, len(known) - 3) or _derived(word, known)
            for m in (*self.parts.get(known, ()), *self.phrases.get((known,), ()))
        ]  # fmt: skip

    @cached_property
    def _by_start(self) -> dict[str, list[str]]:
        found: dict[str, list[str]] = defaultdict(list)
        for word in {*self.parts, *(p[0] for p in self.phrases if len(p) == 1)}:
            if len(word) >= _ROOT:
                found[word[:_ROOT]].append(word)
        return found

    @classmethod
    def build(cls, catalog: Catalog, notes: Notes, policy: Policy) -> Meanings:
        """`catalog` must be the visible one."""
        found = cls()
        for table in catalog.tables:
            about = notes.of(table.name)
            meaning = Meaning("table", table.name)
            for name in (table.plain, *about.synonyms):
                found._add(name, meaning)
            pieces = split(table.plain)
            if len(pieces) > 1:
                for piece in pieces:
                    found.parts[stem(piece)].append(meaning)
            found._remarks(f"{about.text} {table.comment}", Meaning("remark", table.name))
            for column in table.columns:
                words = about.columns.get(column.name) or ColumnNotes()
                found._column(table, column, words)
                if column.kind == "text" and not policy.is_personal(table.name, column):
                    found._values(table, column)
        for name, measure in notes.measures.items():
            for text in (name, *measure.synonyms):
                found._add(text, Meaning("measure", measure.of, measure=name))
        return found

    def _column(self, table: Table, column: Column, words: ColumnNotes) -> None:
        meaning = Meaning("column", table.name, column.name)
        for name in (column.name, *words.synonyms):
            self._add(name, meaning)
        bare = _without_tail(split(column.name))
        self._put(tuple(map(stem, bare)), replace(meaning, words=" ".join(bare)))
        if len(bare) > 1:
            for word in bare:
                self.parts[stem(word)].append(meaning)
        if column.primary_key and column.unique and set(bare) < set(split(table.plain)):
            # run_id of course_run: a run is what the table lists.
            self._add(" ".join(bare), Meaning("table", table.name))
        for code, said in words.codes.items():
            self._add(said, Meaning("code", table.name, column.name, code))
            if len(code) > 2 and not code.isdigit():
                self._add(code, Meaning("code", table.name, column.name, code))
        if words.null_means:
            for text in words.null_means.split(","):
                self._add(text, Meaning("null", table.name, column.name))
            self._remarks(words.null_means, Meaning("null", table.name, column.name))
        self._remarks(f"{words.text} {column.comment}", Meaning("remark", table.name, column.name))

    def _values(self, table: Table, column: Column) -> None:
        for value in {*column.samples, *column.options}:
            if isinstance(value, str) and len(value) > 1 and not value.isdigit():
                self._add(value, Meaning("value", table.name, column.name, value))

    def _add(self, text: str, meaning: Meaning) -> None:
        words = split(text)
        self._put(tuple(map(stem, words)), replace(meaning, words=" ".join(words)))

    def _put(self, phrase: Phrase, meaning: Meaning) -> None:
        # A no-show is something, though neither word says anything by itself.
        says = any(w not in EMPTY for w in phrase) or (len(phrase) > 1 and meaning.kind in ("code", "value"))
        if 0 < len(phrase) <= LONGEST and says:
            known = self.phrases[phrase]
            if meaning not in known:
                known.append(meaning)

    def _remarks(self, text: str, meaning: Meaning) -> None:
        for word in {stem(w) for w in split(text) if w not in EMPTY and len(w) > 2}:
            self.parts[word].append(meaning)


def _derived(word: str, known: str) -> bool:
    """Whether one of two stems is the other with the ending of a derived noun."""
    short, long = sorted((word.removesuffix("e"), known.removesuffix("e")), key=len)
    return len(short) >= _ROOT and long.startswith(short) and long[len(short) :] in _DERIVED


def _without_tail(words: list[str]) -> list[str]:
    while len(words) > 1 and words[-1] in _TAILS:
        words = words[:-1]
    return words


def is_short_for(code: str, name: str) -> bool:
    """Whether a short code can stand for a name: its letters, in order, from the name's first on (GS, Gullspire)."""
    letters = [c for c in name.casefold() if c.isalnum()]
    wanted = code.casefold()
    if not 1 < len(wanted) <= 4 or not wanted.isalpha() or not letters or letters[0] != wanted[0]:
        return False
    initials = [w[0] for w in split(name)]
    if len(initials) > 1:
        return "".join(initials) == wanted
    at = iter(letters)
    return all(letter in at for letter in wanted)


def stands_for(literal: str, name: str) -> bool:
    """Whether a literal names the same thing: itself, its short code, or a pair of codes with it in (QH-PP)."""
    parts: Iterable[str] = literal.replace("%", "").replace("_", "-").replace("/", "-").split("-")
    return literal.casefold() == name.casefold() or any(is_short_for(p.strip(), name) for p in parts)
