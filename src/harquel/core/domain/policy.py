"""What a source lets people see and how much a query may take. One YAML file a source."""

from __future__ import annotations

import re
from fnmatch import fnmatchcase
from functools import lru_cache

from pydantic import BaseModel, ConfigDict, Field

from harquel.core.domain.catalog import Catalog

# Column names that look personal or secret; withheld when a source has no policy file.
_DELICATE = re.compile(
    r"(^|_)(e?mail|phone|mobile|fax|address|street|birth|born|iban|bic|ssn|passport|first_?name|"
    r"last_?name|sur_?name|full_?name|password|passwd|secret|token|api_?key|salt|hash)(_|$)",
    re.IGNORECASE,
)


class _Part(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class Exposure(_Part):
    """Patterns with * and ?: tables that exist, and tables or table.column that do not after all."""

    tables: tuple[str, ...] = ("*",)
    withhold: tuple[str, ...] = ()


class Limits(_Part):
    """How much is too much. A query that reaches `rows` or `bytes` is cut, and the answer says so."""

    attempts: int = Field(default=4, ge=1, le=4, description="drafts per inquiry")
    inquiry_s: float = Field(default=120, gt=0, le=900, description="seconds for the whole inquiry")
    query_s: float = Field(default=10, gt=0, le=300, description="seconds for one statement")
    rows: int = Field(default=1000, ge=1, le=100_000)
    bytes: int = Field(default=4_000_000, ge=1000, le=200_000_000)
    memory_mb: int = Field(default=256, ge=64, le=8192, description="megabytes for one worker")
    plan_rows: int | None = Field(default=None, ge=1, description="rows that a plan may scan")
    prompt_tokens: int = Field(default=12_000, ge=500, description="estimated size of a briefing")


class Policy(_Part):
    """Exposure and limits of one source."""

    expose: Exposure = Exposure()
    limits: Limits = Limits()
    withhold_delicate: bool = False
    """Whether columns whose name looks personal are withheld; on when no policy file is given."""

    def shows(self, table: str, column: str | None) -> bool:
        """Whether a table, or a column of it, exists for askers and models."""
        return _shows(self, table, column)

    def visible(self, catalog: Catalog) -> Catalog:
        """The catalog without what is not exposed."""
        return catalog.only(self.shows)


@lru_cache(maxsize=65536)
def _shows(policy: Policy, table: str, column: str | None) -> bool:
    name = table.lower()
    if not any(fnmatchcase(name, p.lower()) for p in policy.expose.tables):
        return False
    if any("." not in p and fnmatchcase(name, p.lower()) for p in policy.expose.withhold):
        return False
    if column is None:
        return True
    full = f"{name}.{column.lower()}"
    if any("." in p and fnmatchcase(full, p.lower()) for p in policy.expose.withhold):
        return False
    return not (policy.withhold_delicate and _DELICATE.search(column))


DEFAULT_POLICY = Policy(withhold_delicate=True)
