"""Which columns look as if they held something about a person; a proposal from names and types."""

from __future__ import annotations

import re
from dataclasses import replace

from harquel.core.domain.catalog import Table

_DELICATE = re.compile(
    r"(^|_)(e?mail|phone|mobile|fax|address|street|birth|born|iban|bic|ssn|passport|first_?name|"
    r"last_?name|sur_?name|full_?name|password|passwd|secret|token|api_?key|salt|hash)(_|$)",
    re.IGNORECASE,
)
_PEOPLE = re.compile(r"(^|_)(e?mail|phone|mobile|birth|born|passport|first_?name|last_?name)(_|$)", re.IGNORECASE)
_HUMP = re.compile(r"(?<=[a-z0-9])(?=[A-Z])")


def looks_personal(column: str) -> bool:
    """Whether a column's name alone says that it is personal or secret."""
    return _DELICATE.search(_HUMP.sub("_", column)) is not None


def propose(table: Table) -> Table:
    """The table with its columns marked; a plain "name" beside a phone number is a person's."""
    of_people = any(_PEOPLE.search(_HUMP.sub("_", c.name)) for c in table.columns)

    def mark(name: str, kind: str) -> bool:
        if kind in ("boolean", "temporal") and not re.search("birth|born", name, re.IGNORECASE):
            return False
        return looks_personal(name) or (of_people and name.casefold() in ("name", "display_name", "nickname"))

    columns = tuple(replace(c, looks_personal=mark(c.name, c.kind)) for c in table.columns)
    return replace(table, columns=columns)
