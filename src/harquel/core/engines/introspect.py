"""Reads the structure of a database through SQLAlchemy; one broken table stops nothing."""

from __future__ import annotations

import re
import warnings
from collections.abc import Callable, Iterable
from typing import Any

import sqlalchemy as sa
from sqlalchemy.engine.reflection import ObjectKind
from sqlalchemy.exc import CompileError, SQLAlchemyError

from harquel.core.domain.catalog import Column, ForeignKey, Index, Table
from harquel.core.domain.personal import propose

_LITERALS = re.compile(r"'((?:[^']|'')*)'")
_CHOICE = re.compile(r"""^\W*(?P<column>\w+)[)"`\]]*(::\w+)?\W+(IN\b|=\s*ANY\b)""", re.IGNORECASE)
Key = tuple[str | None, str]


def read_tables(connection: sa.Connection, schemas: Iterable[str | None], type_of: Callable[[Any], str]) -> list[Table]:
    """All tables and views of the schemas; None stands for the default one, whose tables are named plainly."""
    found = []
    with warnings.catch_warnings():
        # Types that the library does not know are ours to name.
        warnings.simplefilter("ignore", sa.exc.SAWarning)
        for schema in schemas:
            found += _Reader(connection, schema, type_of).tables()
    return found


class _Reader:
    def __init__(self, connection: sa.Connection, schema: str | None, type_of: Callable[[Any], str]) -> None:
        self.connection, self.schema, self.type_of = connection, schema, type_of
        self.inspector = sa.inspect(connection)
        self.faults: dict[str, str] = {}

    def tables(self) -> list[Table]:
        """Tables first, then views, each by name."""
        of = self.inspector
        kinds = dict.fromkeys(sorted(of.get_table_names(self.schema)), "table")
        kinds |= dict.fromkeys(sorted(of.get_view_names(self.schema)), "view")
        if hasattr(of.dialect, "get_materialized_view_names"):
            try:
                kinds |= dict.fromkeys(sorted(of.get_materialized_view_names(self.schema)), "materialized view")
            except NotImplementedError:
                pass  # this engine has none
        names = list(kinds)
        stored = [n for n in names if kinds[n] != "view"]
        columns = self.all("columns", names)
        keys, foreign = self.all("pk_constraint", stored), self.all("foreign_keys", stored)
        unique, checks = self.all("unique_constraints", stored), self.all("check_constraints", stored)
        indexes, comments = self.all("indexes", stored), self.all("table_comment", stored)
        return [
            self.table(
                n, kinds[n], columns.get(n) or [], keys.get(n) or {}, foreign.get(n) or [], unique.get(n) or [],
                checks.get(n) or [], indexes.get(n) or [], (comments.get(n) or {}).get("text") or "",
            )
            for n in names
        ]  # fmt: skip

    def all(self, what: str, names: list[str]) -> dict[str, Any]:
        """One kind of fact about all tables: in one go where the engine can, otherwise table by table."""
        try:
            many = getattr(self.inspector, f"get_multi_{what}")
            got = many(schema=self.schema, kind=ObjectKind.ANY)
            found = {name: fact for (_, name), fact in got.items()}
        except (SQLAlchemyError, NotImplementedError):
            found = {}
        single = getattr(self.inspector, f"get_{what}")
        for name in names:
            if name in found and (found[name] or what != "columns"):
                continue
            try:
                found[name] = single(name, schema=self.schema)
            except NotImplementedError:
                break
            except SQLAlchemyError as error:
                # Gone since, broken, or not for us; the rest of the scan does not suffer.
                if what == "columns":
                    self.faults[name] = _cause(error)
        return found

    def table(
        self, name: str, kind: str, columns: list[Any], key: dict[str, Any], foreign: list[Any], unique: list[Any],
        checks: list[Any], indexes: list[Any], comment: str,
    ) -> Table:  # fmt: skip
        """One table from all its facts."""
        primary = list(key.get("constrained_columns") or ())
        position = {c["name"]: i for i, c in enumerate(columns)}
        uniques = {tuple(u["column_names"]) for u in unique}
        uniques |= {tuple(i["column_names"]) for i in indexes if i.get("unique") and None not in i["column_names"]}
        texts = tuple(str(c["sqltext"]) for c in checks)
        choices = choices_of(texts)
        full = f"{self.schema}.{name}" if self.schema else name
        made = [self.column(c, primary, uniques, choices) for c in columns]
        keys = [
            ForeignKey(tuple(f["constrained_columns"]), self.target(f), tuple(f["referred_columns"]))
            for f in foreign
            if f.get("referred_columns")
        ]
        keys.sort(key=lambda k: [position.get(c, 0) for c in k.columns])
        problem = self.faults.get(name, "")
        if not columns and not problem:
            problem = "it has no columns that this account can see"
        return propose(
            Table(
                full, kind, tuple(made), tuple(keys), schema=self.schema or "", comment=comment,
                unique=tuple(sorted(uniques)), checks=texts, problem=problem,
                indexes=tuple(
                    Index(i["name"] or "", tuple(c for c in i["column_names"] if c), bool(i.get("unique")))
                    for i in indexes
                ),
            )
        )  # fmt: skip

    def column(
        self, found: dict[str, Any], primary: list[str], uniques: set[tuple[str, ...]],
        choices: dict[str, tuple[str, ...]],
    ) -> Column:  # fmt: skip
        """One column from its facts, and from what keys and checks of its table say of it."""
        name = found["name"]
        return Column(
            name=name, type=self.type_of(found["type"]),
            nullable=bool(found.get("nullable", True)) and name not in primary,
            primary_key=name in primary, unique=(name,) in uniques or primary == [name],
            default=str(found["default"]) if found.get("default") is not None else None,
            comment=found.get("comment") or "",
            options=tuple(getattr(found["type"], "enums", ()) or choices.get(name.casefold(), ())),
        )  # fmt: skip

    def target(self, foreign: dict[str, Any]) -> str:
        """The table that a key points at, by the name that we use for it."""
        schema = foreign.get("referred_schema")
        return f"{schema}.{foreign['referred_table']}" if schema else str(foreign["referred_table"])


def choices_of(checks: tuple[str, ...]) -> dict[str, tuple[str, ...]]:
    """Columns, folded, whose check is a list of texts, with these."""
    found = {}
    for text in checks:
        match = _CHOICE.match(text)
        values = _LITERALS.findall(text)
        if match and values and not re.search(r"\bOR\b|\bAND\b", _LITERALS.sub("", text), re.IGNORECASE):
            found[match["column"].casefold()] = tuple(v.replace("''", "'") for v in values)
    return found


def _cause(error: SQLAlchemyError) -> str:
    cause = getattr(error, "orig", None) or error
    return " ".join(str(cause.args[-1] if cause.args else cause).split())[:200]


def generic_type(kind: Any) -> str:
    """The type's name as the library writes it; empty for one that it does not know."""
    try:
        text = str(kind).upper()
    except CompileError:
        return ""
    return "" if text == "NULL" else text
