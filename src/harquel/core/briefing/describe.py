"""Tables and measures as prompt text: CREATE TABLE as every model knows it, the notes as comments.

Values come from the database and may hold anything: they stand as quoted literals, on one line and
shortened, and the model is told that they are data.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from functools import lru_cache

from harquel.core.domain.catalog import Column, ForeignKey, Table
from harquel.core.domain.notes import ColumnNotes, Measure, TableNotes
from harquel.core.domain.policy import Policy
from harquel.core.sql.tree import quoted

SHOWN_SAMPLES = 12
_NAMED = re.compile(r"\b([A-Za-z_]\w*)\.([A-Za-z_]\w*)\b")


def table_text(table: Table, notes: TableNotes, engine: str, policy: Policy, only: frozenset[str] | None = None) -> str:
    """The table with its columns, keys and what the notes say about them; `only` some columns if given."""
    about = _about(table, notes)
    shown = [c for c in table.columns if _in_prompt(policy, table, c)]
    columns = [c for c in shown if only is None or c.name in only]
    if len(columns) < len(shown):
        about.append(f"{len(shown) - len(columns)} more columns are not shown")
    lines = [_column(c, notes.columns.get(c.name) or ColumnNotes(), engine, _values(policy, table, c)) for c in columns]
    names = {c.name for c in columns}
    primary = [c.name for c in columns if c.primary_key]
    if len(primary) > 1:
        lines.append((f"PRIMARY KEY ({', '.join(_name(c, engine) for c in primary)})", ""))
    lines += [_key(key, engine) for key in table.foreign_keys if set(key.columns) <= names]
    body = "\n".join(_listed(lines))
    head = "".join(f"-- {_line(text)}\n" for text in about)
    word = "TABLE" if table.kind == "table" else "VIEW"
    return f"{head}CREATE {word} {table_name(table.name, table.schema, engine)} (\n{body}\n);"


def _listed(lines: list[tuple[str, str]]) -> Iterator[str]:
    for index, (text, comment) in enumerate(lines):
        yield f"  {text}{',' if index < len(lines) - 1 else ''}{f' -- {comment}' if comment else ''}"


def _about(table: Table, notes: TableNotes) -> list[str]:
    joined = ", also where it is joined," if notes.default_filter_when_joined else ""
    said = (
        ("also called", ", ".join(notes.synonyms)), ("dated by", notes.when), ("named by", notes.label),
        (f"always add{joined} unless asked otherwise", notes.default_filter),
    )  # fmt: skip
    rows = [f"{'about ' if table.estimated else ''}{table.row_count} rows"] if table.row_count is not None else []
    return [*_first(notes.text, table.comment), *(f"{word}: {text}" for word, text in said if text), *rows]


def _first(text: str, comment: str) -> list[str]:
    """What people say of it, or else what the database does."""
    found = text.strip() or comment
    return [found] if found else []


def _key(key: ForeignKey, engine: str) -> tuple[str, str]:
    here = ", ".join(_name(c, engine) for c in key.columns)
    there = ", ".join(_name(c, engine) for c in key.references)
    said = f"declared: {_line(key.declared_by)}" if key.declared_by else ""
    return f"FOREIGN KEY ({here}) REFERENCES {table_name(key.table, '', engine)} ({there})", said


def column_sizes(table: Table, notes: TableNotes, policy: Policy) -> dict[str, int]:
    """Code points that each column takes in table_text, its key lines included; nearly, but quickly."""
    keys: dict[str, int] = {}
    for key in table.foreign_keys:
        keys[key.columns[0]] = keys.get(key.columns[0], 0) + 45 + sum(map(len, (*key.columns, key.table)))
    found = {}
    for column in table.columns:
        size = len(column.name) + len(column.type) + 10 + keys.get(column.name, 0)
        if column.primary_key or not column.nullable:
            size += 11
        about = notes.columns.get(column.name)
        size += len(column.comment)
        if about is not None:
            size += (
                len(about.text) + len(about.unit or "") + len(about.null_means or "") + 20 + 13 * (not about.adds_up)
            )
            size += sum(len(s) + 2 for s in about.synonyms) + sum(len(k) + len(v) + 9 for k, v in about.codes.items())
            size += sum(len(k) + len(w) + 9 for k, v in about.also.items() for w in v) + 18 * bool(about.also)
        if column.samples and column.kind == "text" and _values(policy, table, column):
            size += 18 + sum(len(str(v)) + 4 for v in column.samples[:SHOWN_SAMPLES])
        elif column.options:
            size += 10 + sum(len(v) + 4 for v in column.options[:SHOWN_SAMPLES])
        elif column.kind == "temporal" and column.low is not None:
            size += 52
        found[column.name] = size
    return found


def table_name(name: str, schema: str, engine: str) -> str:
    """A table's name as it is written in SQL."""
    if schema:
        return f"{_name(schema, engine)}.{_name(name.removeprefix(f'{schema}.'), engine)}"
    if "." in name:
        return ".".join(_name(part, engine) for part in name.split(".", 1))
    return _name(name, engine)


def _in_prompt(policy: Policy, table: Table, column: Column) -> bool:
    return policy.prompts.personal_columns or not policy.is_personal(table.name, column)


def _values(policy: Policy, table: Table, column: Column) -> bool:
    """Whether values of a column may leave for a model."""
    if policy.prompts.values == "none" or policy.is_personal(table.name, column):
        return False
    return policy.prompts.values == "all" or column.complete


def _column(column: Column, notes: ColumnNotes, engine: str, values: bool) -> tuple[str, str]:
    parts = [_name(column.name, engine), column.type or "ANY"]
    single_key = column.primary_key and column.unique
    parts += ["PRIMARY KEY"] if single_key else [] if column.nullable else ["NOT NULL"]
    about = _first(notes.text, column.comment)
    if notes.unit:
        about.append(f"unit: {notes.unit}")
    if notes.synonyms:
        about.append(f"also called: {', '.join(notes.synonyms)}")
    if notes.codes:
        about.append("codes: " + ", ".join(f"{_literal(k)} = {v}" for k, v in notes.codes.items()))
    if notes.also:
        said = [f"{word} for {_literal(code)}" for code, words in notes.also.items() for word in words]
        about.append(f"people also say: {', '.join(said)}")
    if notes.null_means:
        about.append(f"null means: {notes.null_means}")
    if not notes.adds_up:
        about.append("adds up: no")
    about += _seen(column, values)
    return " ".join(parts), "; ".join(map(_line, about))


def _seen(column: Column, values: bool) -> list[str]:
    """What it holds, as far as that may be told."""
    shown = column.samples if column.kind == "text" else ()
    if values and shown:
        listed = ", ".join(_literal(v) for v in shown[:SHOWN_SAMPLES])
        all_shown = column.complete and len(shown) <= SHOWN_SAMPLES
        return [f"{'values' if all_shown else 'values such as'}: {listed}"]
    if values and column.kind == "temporal" and column.low is not None:
        return [f"range: {column.low} to {column.high}"]
    if column.options:
        return ["values: " + ", ".join(map(_literal, column.options[:SHOWN_SAMPLES]))]
    return []


def measure_text(name: str, measure: Measure) -> str:
    """One measure as a list item with its definition."""
    lines = [f"- {name}" + (f": {_line(measure.text)}" if measure.text else "")]
    for word, value in (
        ("also called", ", ".join(measure.synonyms)),
        ("of", measure.of),
        ("sql", measure.sql),
        ("where", measure.where),
        ("dated by", measure.when),
        ("unit", measure.unit),
        ("better when", measure.better),
    ):
        if value:
            lines.append(f"  {word}: {_line(value)}")
    return "\n".join(lines)


def measure_columns(measure: Measure) -> set[tuple[str, str]]:
    """(table, column) that a measure names, as written."""
    return set(_NAMED.findall(" ".join(filter(None, (measure.sql, measure.where, measure.when)))))


def measure_tables(measure: Measure) -> set[str]:
    """Tables that a measure names, folded."""
    return {t.casefold() for t, _ in measure_columns(measure)} | {measure.of.casefold()}


def _line(text: str) -> str:
    return " ".join(text.split())


def _literal(value: object) -> str:
    return "'" + str(value).replace("'", "''") + "'" if isinstance(value, str) else str(value)


@lru_cache(maxsize=262_144)
def _name(name: str, engine: str) -> str:
    return quoted(name, engine)
