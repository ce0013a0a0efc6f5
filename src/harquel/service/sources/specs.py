"""What a source is made of, from harquel.toml or from the records: one form for both."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING, Any

from harquel.core.engines import ENGINES, Engine, engine_at, engine_for
from harquel.core.engines.address import made
from harquel.core.errors import ConfigurationError
from harquel.service import masking
from harquel.service.config import SourceSection, resolve_secret

from .vault import Vault

if TYPE_CHECKING:
    # Of the records: what a source is made of can be known without them.
    from .models import StoredSource


@dataclass(frozen=True)
class SourceSpec:
    """A declared source; `section` holds its fields, `origin` is file or records."""

    name: str
    section: SourceSection
    origin: str
    password: str | None = field(default=None, repr=False)

    @property
    def as_of(self) -> dt.datetime | None:
        """The fixed "now", in UTC when no zone is given."""
        at = self.section.as_of
        return at.replace(tzinfo=dt.UTC) if at is not None and at.tzinfo is None else at


def stored_spec(stored: StoredSource, vault: Vault) -> SourceSpec:
    """A source of the records. Raises ConfigurationError when its password cannot be decrypted."""
    section = SourceSection.model_validate(stored.settings)
    password = vault.decrypt(bytes(stored.secret)) if stored.secret is not None else None
    return SourceSpec(stored.name, section, "records", password)


def must_not_be_ours(engine: Engine, data_dir: Path) -> None:
    """The records of the service are not to be asked. Raises ConfigurationError."""
    path = engine.address().get("path")
    if path is not None and Path(path).resolve().is_relative_to(data_dir):
        raise ConfigurationError(
            "The service's own data directory cannot be a source.", "Name a database outside service.data_dir."
        )


def engine_of(spec: SourceSpec, base: Path) -> Engine:
    """The engine of a source; whatever secret it needed is masked from now on. Raises ConfigurationError."""
    section = spec.section
    password = spec.password
    if password is None and section.password is not None:
        password = resolve_secret(section.password, base, f"sources.{spec.name}.password")
    if password:
        masking.remember(password)
    if section.url is not None:
        url = resolve_secret(section.url, base, f"sources.{spec.name}.url")
        engine = engine_for(url, base, password)
        kept: Any = engine.address().get("server")
        if kept:
            masking.remember(kept["password"])
        return engine
    if section.engine == "sqlite":
        if not section.path:
            raise ConfigurationError(f"The source {spec.name} has no path.", 'Write path = "folder/file.db".')
        return engine_for(f"sqlite:////{(base / section.path).resolve()}".replace("////", "///", 1), base)
    if section.engine not in ENGINES:
        raise ConfigurationError(
            f"The source {spec.name} says neither url nor engine.",
            "Give a url, or engine with host, database and user.",
        )
    missing = [n for n in ("host", "database", "user") if not getattr(section, n)]
    if missing:
        raise ConfigurationError(f"The source {spec.name} lacks {', '.join(missing)}.", "Give them, or a url.")
    assert section.host is not None
    assert section.database is not None
    assert section.user is not None
    return engine_at(
        made(
            section.engine, section.host, section.port, section.database, section.user, password or "", section.tls,
            section.ca or "", tuple(section.schemas), base,
        )
    )  # fmt: skip
