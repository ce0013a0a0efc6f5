"""Notes and policies as YAML: read strictly, checked against a catalog, edited without losing the rest."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, TypeVar

import yaml
from pydantic import BaseModel, ValidationError
from sqlglot import exp

from harquel.core.curation.yaml_text import read_yaml
from harquel.core.domain.catalog import Catalog, Table
from harquel.core.domain.notes import ColumnNotes, Measure, Notes
from harquel.core.domain.policy import Policy
from harquel.core.domain.understood import Lasting
from harquel.core.errors import ConfigurationError
from harquel.core.nearest import meant, nearest
from harquel.core.sql.names import resolve
from harquel.core.sql.tree import ParseFault, parse, quoted

M = TypeVar("M", bound=BaseModel)


@dataclass(frozen=True)
class Mismatch:
    """Something in the notes that the catalog does not hold, with the nearest name that it does."""

    place: str
    nearest: str = ""

    def __str__(self) -> str:
        return f"{self.place} is not there" + (f"; did you mean {self.nearest}?" if self.nearest else "")


def read_document(text: str, model: type[M], name: str) -> M:
    """Raises ConfigurationError that names the place, and the nearest known key for an unknown one."""
    try:
        found = read_yaml(text)
    except yaml.YAMLError as error:
        raise ConfigurationError(f"{name} is not valid YAML: {' '.join(str(error).split())}.") from error
    if found is not None and not isinstance(found, dict):
        raise ConfigurationError(f"{name} must be a mapping.", "Begin with a key such as tables: or expose:.")
    try:
        return model.model_validate(found or {})
    except ValidationError as error:
        raise explained(error, name, model) from error


def explained(error: ValidationError, file: str, model: type[BaseModel]) -> ConfigurationError:
    """The first fault in words; an unknown key comes with the nearest known one."""
    first = error.errors()[0]
    place = ".".join(map(str, first["loc"]))
    if first["type"] == "extra_forbidden":
        known = _keys_at(model, [str(p) for p in first["loc"][:-1]])
        hint = meant(str(first["loc"][-1]), known, f"Known here: {', '.join(known)}.", 0.5)
        return ConfigurationError(f"Unknown key {place} in {file}.", hint)
    said = first["msg"].removeprefix("Value error, ").rstrip(".")
    return ConfigurationError(f"{place} in {file} cannot be used: {said}.")


def _keys_at(model: type[BaseModel], place: list[str]) -> list[str]:
    for part in place:
        field = model.model_fields.get(part)
        if field is None:
            continue  # the name of an entry in a table of sections, or a place in a list
        candidates = [field.annotation, *getattr(field.annotation, "__args__", ())]
        found = next((c for c in candidates if isinstance(c, type) and issubclass(c, BaseModel)), None)
        if found is None:
            return []
        model = found
    return sorted({f.alias or n for n, f in model.model_fields.items()} - {"base"})


def mismatches(notes: Notes, catalog: Catalog) -> list[Mismatch]:
    """Tables and columns that the notes speak of and the catalog lacks."""
    found = []
    tables = [t.name for t in catalog.tables]
    for name, about in notes.tables.items():
        table = catalog.table(name)
        if table is None:
            found.append(Mismatch(name, _near(name, tables)))
            continue
        columns = [c.name for c in table.columns]
        named = [*about.columns, *(n for n in (about.when, about.label) if n)]
        found += [Mismatch(f"{name}.{c}", _near(c, columns)) for c in named if not _held(c, table, catalog)]
    for join in notes.joins:
        here, columns_here, there, columns_there = join.ends()
        for name, names in ((here, columns_here), (there, columns_there)):
            table = catalog.table(name)
            if table is None:
                found.append(Mismatch(name, _near(name, tables)))
            else:
                found += [Mismatch(f"{name}.{c}") for c in names if table.column(c) is None]
    for name, measure in notes.measures.items():
        if catalog.table(measure.of) is None:
            found.append(Mismatch(f"measures.{name}: {measure.of}", _near(measure.of, tables)))
        else:
            found += _in_measure(name, measure, catalog)
    return list(dict.fromkeys(found))


def _held(name: str, table: Table, catalog: Catalog) -> bool:
    """Whether a table has a column, or, by its whole name, another one has it."""
    owner, _, plain = name.rpartition(".")
    other = catalog.table(owner) if owner else table
    return table.column(name) is not None or (other is not None and other.column(plain) is not None)


def _in_measure(name: str, measure: Measure, catalog: Catalog) -> list[Mismatch]:
    """Columns that a measure's SQL, condition or time names and that its tables lack: its own, and those it names."""
    where = f" WHERE {measure.where}" if measure.where else ""
    said = f"SELECT {measure.sql}{f', {measure.when}' if measure.when else ''}"
    try:
        (tree,) = parse(f"{said} FROM {_written(measure.of, catalog)}{where}", catalog.engine)
        named = {c.table for c in tree.find_all(exp.Column) if c.table} - {measure.of}
        others = "".join(f" CROSS JOIN {_written(n, catalog)}" for n in sorted(named) if catalog.table(n) is not None)
        (tree,) = parse(f"{said} FROM {_written(measure.of, catalog)}{others}{where}", catalog.engine)
    except (ParseFault, ValueError):
        return [Mismatch(f"measures.{name}: its SQL cannot be read, so what it speaks of")]
    faults = [f for f in resolve(tree, catalog).faults if f.kind == "unknown-column"]
    return [Mismatch(f"measures.{name}: {f.name}", f.nearest[0] if f.nearest else "") for f in faults]


def _written(table: str, catalog: Catalog) -> str:
    return ".".join(quoted(part, catalog.engine) for part in table.split("."))


def _near(name: str, known: list[str]) -> str:
    return next(iter(nearest(name, known, alike=0.5)), "")


def coverage(notes: Notes, catalog: Catalog) -> tuple[int, int]:
    """(columns that are exposed, those of them that are described); keys that only point need no words."""
    total = described = 0
    for table in catalog.tables:
        about = notes.of(table.name)
        keys = {c for k in table.foreign_keys for c in k.columns}
        for column in table.columns:
            if column.primary_key or column.name in keys:
                continue
            total += 1
            words = about.columns.get(column.name)
            described += bool((words and (words.text or words.unit or words.codes or words.synonyms)) or column.comment)
    return total, described


def edited_notes(text: str, table: str, changes: Mapping[str, Any]) -> str:
    """The notes with what was said of one table; `columns` holds the same for its columns. Empty values go."""
    found: dict[str, Any] = read_yaml(text) or {}
    about = found.setdefault("tables", {}).setdefault(table, {}) or {}
    found["tables"][table] = about
    for key, value in changes.items():
        if key != "columns":
            _put(about, key, value)
    for name, said in (changes.get("columns") or {}).items():
        column = about.setdefault("columns", {}).setdefault(name, {}) or {}
        about["columns"][name] = column
        for key, value in said.items():
            _put(column, key, value)
        if not column:
            del about["columns"][name]
    if not about.get("columns", True):
        del about["columns"]
    if not about:
        del found["tables"][table]
    read_document(dumped(found), Notes, "notes")
    return dumped(found)


def corrected_notes(text: str, notes: Notes, lasting: Lasting) -> str:
    """The notes with what a correction meant; the same text where they say it already.

    Raises ValueError for a word that means something else there.
    """
    about = notes.of(lasting.table)
    if not lasting.word:
        same = about.when == lasting.column
        return text if same else edited_notes(text, lasting.table, {"when": lasting.column})
    column = about.columns.get(lasting.column, ColumnNotes())
    known = column.code_of(lasting.word)
    if known is not None and known != lasting.code:
        raise ValueError(f"“{lasting.word}” means {known} in {lasting.table}.{lasting.column} already.")
    if known is not None:
        return text
    also = {code: list(words) for code, words in column.also.items()}
    also.setdefault(lasting.code, []).append(lasting.word)
    return edited_notes(text, lasting.table, {"columns": {lasting.column: {"also": also}}})


def edited_policy(
    text: str, policy: Policy, table: str, exposed: Mapping[str, bool], personal: Mapping[str, bool]
) -> str:
    """The policy with columns ("" for the table itself) exposed or withheld, and marked personal or cleared.

    Patterns that a person wrote stay as they are; exact names are added where the patterns say otherwise.
    """
    found: dict[str, Any] = read_yaml(text) or {}
    for column, wanted in exposed.items():
        if policy.shows(table, column or None) != wanted:
            _expose(found.setdefault("expose", {}), table, column, wanted)
    for column, wanted in personal.items():
        name, part = f"{table}.{column}", found.setdefault("personal", {})
        marked, cleared = list(part.get("columns") or ()), list(part.get("cleared") or ())
        marked = [m for m in marked if m.lower() != name.lower()] + ([name] if wanted else [])
        cleared = [c for c in cleared if c.lower() != name.lower()] + ([] if wanted else [name])
        part["columns"], part["cleared"] = marked, cleared
    read_document(dumped(found), Policy, "policy")
    return dumped(found)


def _expose(expose: dict[str, Any], table: str, column: str, wanted: bool) -> None:
    name = f"{table}.{column}" if column else table
    withheld = list(expose.get("withhold") or ())
    if wanted:
        withheld = [w for w in withheld if w.lower() != name.lower()]
        if not column and not any(p == "*" for p in expose.get("tables") or ["*"]):
            expose["tables"] = [*(expose.get("tables") or ()), name]
    else:
        withheld.append(name)
    expose["withhold"] = withheld


def _put(target: dict[str, Any], key: str, value: Any) -> None:
    if value is None:
        return
    if value in ("", [], {}):
        target.pop(key, None)
    else:
        target[key] = value


def dumped(found: Mapping[str, Any]) -> str:
    """YAML in the order in which it was read."""
    return str(yaml.safe_dump(dict(found), sort_keys=False, allow_unicode=True, width=110))
