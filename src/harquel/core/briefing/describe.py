"""Tables and measures as prompt text: CREATE TABLE as every model knows it, the notes as comments."""

from __future__ import annotations

import re
from functools import lru_cache

from harquel.core.domain.catalog import Column, Table
from harquel.core.domain.notes import ColumnNotes, Measure, TableNotes
from harquel.core.sql.tree import identifier

SHOWN_SAMPLES = 12


def table_text(table: Table, notes: TableNotes) -> str:
    """The table with its columns, keys and what the notes say about them."""
    about = [notes.text.strip()] if notes.text.strip() else []
    if notes.synonyms:
        about.append(f"also called: {', '.join(notes.synonyms)}")
    if notes.when:
        about.append(f"dated by: {notes.when}")
    if notes.label:
        about.append(f"named by: {notes.label}")
    if notes.default_filter:
        about.append(f"always add unless asked otherwise: {notes.default_filter}")
    if table.row_count is not None:
        about.append(f"{table.row_count} rows")
    lines = [_column(c, notes.columns.get(c.name) or ColumnNotes()) for c in table.columns]
    primary = [c.name for c in table.columns if c.primary_key]
    if len(primary) > 1:
        lines.append((f"PRIMARY KEY ({', '.join(map(_name, primary))})", ""))
    for key in table.foreign_keys:
        columns, references = ", ".join(map(_name, key.columns)), ", ".join(map(_name, key.references))
        lines.append((f"FOREIGN KEY ({columns}) REFERENCES {_name(key.table)} ({references})", ""))
    body = "\n".join(
        f"  {text}{',' if index < len(lines) - 1 else ''}{f' -- {comment}' if comment else ''}"
        for index, (text, comment) in enumerate(lines)
    )
    head = "".join(f"-- {_line(text)}\n" for text in about)
    word = "VIEW" if table.kind == "view" else "TABLE"
    return f"{head}CREATE {word} {_name(table.name)} (\n{body}\n);"


def _column(column: Column, notes: ColumnNotes) -> tuple[str, str]:
    parts = [_name(column.name), column.type or "ANY"]
    single_key = column.primary_key and column.unique
    parts += ["PRIMARY KEY"] if single_key else [] if column.nullable else ["NOT NULL"]
    about = [notes.text.strip()] if notes.text.strip() else []
    if notes.unit:
        about.append(f"unit: {notes.unit}")
    if notes.synonyms:
        about.append(f"also called: {', '.join(notes.synonyms)}")
    if notes.codes:
        about.append("codes: " + ", ".join(f"{_literal(k)} = {v}" for k, v in notes.codes.items()))
    if notes.null_means:
        about.append(f"null means: {notes.null_means}")
    if column.samples:
        shown = ", ".join(_literal(v) for v in column.samples[:SHOWN_SAMPLES])
        all_shown = column.complete and len(column.samples) <= SHOWN_SAMPLES
        about.append(f"{'values' if all_shown else 'values such as'}: {shown}")
    return " ".join(parts), "; ".join(map(_line, about))


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


def table_names_in(measure: Measure) -> set[str]:
    """Tables that a measure names, folded."""
    text = " ".join(filter(None, (measure.sql, measure.where, measure.when)))
    return {t.casefold() for t, _ in re.findall(r"\b([A-Za-z_]\w*)\.([A-Za-z_]\w*)\b", text)} | {measure.of.casefold()}


def _line(text: str) -> str:
    return " ".join(text.split())


def _literal(value: object) -> str:
    return "'" + str(value).replace("'", "''") + "'" if isinstance(value, str) else str(value)


@lru_cache(maxsize=65536)
def _name(name: str) -> str:
    quoted: str = identifier(name).sql()
    return quoted
