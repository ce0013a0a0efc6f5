"""The example bank of a source, as a YAML file: a list of question and sql."""

from __future__ import annotations

from pathlib import Path

import yaml
from pydantic import BaseModel, ConfigDict, TypeAdapter, ValidationError
from sqlglot import exp

from harquel.core.domain.examples import Example
from harquel.core.errors import ConfigurationError
from harquel.core.sql.tree import ParseFault, parse


class _Pair(BaseModel):
    model_config = ConfigDict(extra="forbid")
    question: str
    sql: str


def load_examples(path: Path, engine: str) -> tuple[Example, ...]:
    """Reads the bank. Raises ConfigurationError for a missing file, a wrong form or SQL that does not parse."""
    try:
        pairs = TypeAdapter(list[_Pair]).validate_python(yaml.safe_load(path.read_text("utf-8")) or [])
    except OSError as error:
        raise ConfigurationError(f"The examples {path} cannot be read ({error.strerror}).") from error
    except (yaml.YAMLError, ValidationError) as error:
        first = str(error).splitlines()[0]
        raise ConfigurationError(f"The examples {path} have a wrong form: {first}.") from error
    return tuple(Example(p.question, p.sql, _tables(p, path, engine)) for p in pairs)


def _tables(pair: _Pair, path: Path, engine: str) -> tuple[str, ...]:
    try:
        (tree,) = parse(pair.sql, engine)
    except (ParseFault, ValueError) as error:
        raise ConfigurationError(
            f"In {path} the SQL for “{pair.question}” cannot be read: {error}.", "Write one statement per example."
        ) from error
    ctes = {c.alias.casefold() for c in tree.find_all(exp.CTE)}
    return tuple(sorted({t.name for t in tree.find_all(exp.Table) if t.name.casefold() not in ctes}))
