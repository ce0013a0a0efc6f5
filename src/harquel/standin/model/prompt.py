"""Reads the prompt: dialect, now, schema with its comments, measures, examples, question."""

from __future__ import annotations

import datetime as dt
import re
from dataclasses import dataclass, field
from functools import lru_cache

from .dialects import DIALECTS, Dialect, dialect_of
from .german import in_english
from .words import Token, tokens

_SECTION = re.compile(r"^## +(.+?)\n(.*?)(?=^## |\Z)", re.MULTILINE | re.DOTALL)
_TABLE = re.compile(r"((?:^--[^\n]*\n)*)^CREATE (TABLE|VIEW) (\S+) \(\n(.*?)^\);", re.MULTILINE | re.DOTALL)
_FOREIGN = re.compile(r"FOREIGN KEY \(([^)]*)\) REFERENCES (\S+) \(([^)]*)\)")
_PART = re.compile(r"; (?=unit: |also called: |codes: |null means: |adds up: |values: |values such as: |range: )")
_LITERAL = re.compile(r"'((?:[^']|'')*)'")
_CODE = re.compile(r"'((?:[^']|'')*)' = ([^,;]+)")


@dataclass
class Column:
    """A column as the prompt describes it."""

    table: str
    name: str
    type: str
    key: bool = False
    nullable: bool = True
    text: str = ""
    unit: str = ""
    synonyms: list[str] = field(default_factory=list)
    codes: dict[str, str] = field(default_factory=dict)
    null_means: str = ""
    values: list[str] = field(default_factory=list)

    @property
    def numeric(self) -> bool:
        """Whether it holds figures that can be summed or averaged."""
        return bool(re.search("INT|REAL|DEC|NUM|FLOAT|DOUBLE", self.type)) and not self.key

    @property
    def temporal(self) -> str:
        """ "date", "timestamp" or ""."""
        if re.search("TIMESTAMP|DATETIME", self.type):
            return "timestamp"
        return "date" if "DATE" in self.type else ""


@dataclass
class Table:
    """A table as the prompt describes it. `links`: column → (table, column) along declared keys."""

    name: str
    view: bool
    columns: dict[str, Column]
    links: dict[str, tuple[str, str]]
    text: str = ""
    synonyms: list[str] = field(default_factory=list)
    when: str = ""
    label: str = ""
    always: str = ""

    def label_column(self) -> Column | None:
        """The column that names a row: declared, or by its usual names."""
        for name in (self.label, "name", "title", "label", "code"):
            if name in self.columns:
                return self.columns[name]
        return None

    def naming_column(self) -> Column | None:
        """The column that names a row; its key where none does."""
        return self.label_column() or self.columns.get(self.key_column() or "")

    def date_column(self) -> Column | None:
        """The column that dates a row: declared, or the first that holds dates."""
        if self.when in self.columns:
            return self.columns[self.when]
        return next((c for c in self.columns.values() if c.temporal), None)

    def key_column(self) -> str | None:
        """The name of a single-column key."""
        return next((c.name for c in self.columns.values() if c.key), None)


@dataclass
class Measure:
    """A figure that the prompt defines."""

    name: str
    phrases: list[str]
    sql: str
    of: str
    where: str = ""
    when: str = ""
    unit: str = ""
    better: str = ""


@dataclass(frozen=True, eq=False)
class Described:
    """What a prompt says of the database: the same object for the same words, and changed by nobody."""

    tables: dict[str, Table]
    measures: list[Measure]


@dataclass
class Prompt:
    """Everything that stands in the first two messages."""

    now: dt.datetime
    question: str
    described: Described
    examples: list[tuple[str, str]]
    dialect: Dialect = DIALECTS["sqlite"]
    words: list[Token] = field(default_factory=list)
    """Those of the question, in English where they are not; slips are mended once it is known what can be meant."""
    more_tables: bool = False
    """Whether the prompt says that there are tables which it does not show."""

    @property
    def tables(self) -> dict[str, Table]:
        """By name."""
        return self.described.tables

    def dated(self, table: str) -> Column | None:
        """The time that dates the rows of a table: its own, or that of what its rows belong to."""
        own = self.tables[table].date_column()
        owners = (self.tables[t] for t, _ in self.tables[table].links.values() if t in self.tables)
        return own or next((c for owner in owners if (c := owner.date_column()) is not None), None)

    @property
    def measures(self) -> list[Measure]:
        """In their order."""
        return self.described.measures


def read_prompt(text: str) -> Prompt:
    """Raises ValueError when there is no question in it."""
    sections = {title.strip().lower(): body.strip() for title, body in _SECTION.findall(text)}
    if not sections.get("question"):
        raise ValueError("the prompt holds no question")
    stamp = re.search(r"\d{4}-\d{2}-\d{2} \d{2}:\d{2}:\d{2}", sections.get("now", ""))
    now = dt.datetime.fromisoformat(stamp.group()) if stamp else dt.datetime(1970, 1, 1)
    return Prompt(
        now,
        sections["question"],
        _described(sections.get("schema", ""), sections.get("measures", "")),
        re.findall(r"Question: (.+)\nSQL: (.+)", sections.get("examples", "")),
        dialect_of(sections.get("dialect", "")),
        in_english(tokens(sections["question"])),
        re.search(r"^-- \d+ more tables are not shown", sections.get("schema", ""), re.MULTILINE) is not None,
    )


@lru_cache(maxsize=32)
def _described(schema: str, measures: str) -> Described:
    return Described({t.name: t for t in map(_table, _TABLE.findall(f"{schema}\n"))}, _measures(measures))


def _bare(name: str) -> str:
    return name.strip().strip('"`[]')


def _table(found: tuple[str, str, str, str]) -> Table:
    comments, kind, name, body = found
    table = Table(_bare(name), kind == "VIEW", {}, {})
    for line in comments.splitlines():
        about = line.removeprefix("--").strip()
        word, _, rest = about.partition(": ")
        if word == "also called":
            table.synonyms = [s.strip() for s in rest.split(",")]
        elif word == "dated by":
            table.when = rest
        elif word == "named by":
            table.label = rest
        elif word.startswith("always add"):
            table.always = rest
        elif not re.fullmatch(r"(about )?\d+ rows|\d+ more columns are not shown", about):
            table.text = about
    for line in body.splitlines():
        definition, _, comment = line.strip().partition(" -- ")
        definition = definition.rstrip(",")
        if found_key := _FOREIGN.match(definition):
            columns, target, references = found_key.groups()
            if "," not in columns:
                table.links[_bare(columns)] = (_bare(target), _bare(references))
        elif definition and not definition.startswith("PRIMARY KEY"):
            column = _column(table.name, definition, comment)
            table.columns[column.name] = column
    return table


def _column(table: str, definition: str, comment: str) -> Column:
    found = re.match(r'("[^"]+"|\S+) (.*)', definition)
    name, rest = found.groups() if found else (definition, "")
    column = Column(table, _bare(name), rest.upper(), "PRIMARY KEY" in rest, "NOT NULL" not in rest)
    for part in _PART.split(comment):
        word, _, value = part.partition(": ")
        if word == "unit":
            column.unit = value
        elif word == "also called":
            column.synonyms = [s.strip() for s in value.split(",")]
        elif word == "codes":
            column.codes = {k.replace("''", "'"): v.strip() for k, v in _CODE.findall(value)}
        elif word == "null means":
            column.null_means = value
        elif word in ("range", "adds up"):
            continue
        elif word in ("values", "values such as"):
            column.values = [v.replace("''", "'") for v in _LITERAL.findall(value)]
        else:
            column.text = part
    return column


def _measures(text: str) -> list[Measure]:
    found = []
    for block in re.split(r"^- ", text, flags=re.MULTILINE)[1:]:
        head, *lines = block.splitlines()
        fields = dict(line.strip().split(": ", 1) for line in lines if ": " in line)
        name = head.split(":")[0].strip()
        phrases = [name] + [s.strip() for s in fields.get("also called", "").split(",") if s.strip()]
        found.append(
            Measure(
                name, phrases, fields.get("sql", ""), fields.get("of", ""), fields.get("where", ""),
                fields.get("dated by", ""), fields.get("unit", ""), fields.get("better when", ""),
            )
        )  # fmt: skip
    return found
