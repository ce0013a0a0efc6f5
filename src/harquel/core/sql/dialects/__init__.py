"""One dialect of SQL an engine: how its text is read and written, and what is particular about it."""

from __future__ import annotations

from typing import Final

from .dialect import SqlDialect
from .mariadb import MariaDbDialect
from .postgresql import PostgresqlDialect
from .reading import MOST_TOKENS
from .sqlite import SqliteDialect

DIALECTS: Final[dict[str, SqlDialect]] = {d.name: d for d in (SqliteDialect(), PostgresqlDialect(), MariaDbDialect())}
"""By the engine's name. Another database is another file here."""

__all__ = ["DIALECTS", "MOST_TOKENS", "SqlDialect"]
