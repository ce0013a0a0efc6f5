"""From a source's URL, or from its separate fields, to its engine."""

from __future__ import annotations

import re
from pathlib import Path
from urllib.parse import unquote, urlsplit

from harquel.core.engines.address import SCHEMES, ServerAddress, server_address
from harquel.core.engines.base import Engine
from harquel.core.errors import ConfigurationError

ENGINES = ("sqlite", "postgresql", "mariadb")


def engine_for(url: str, base: Path, password: str | None = None) -> Engine:
    """The engine behind `url`; relative SQLite paths are taken from `base`.

    `password` counts instead of one in the URL. Raises ConfigurationError for a scheme that is not known.
    """
    scheme = url.partition(":")[0]
    if scheme == "sqlite":
        parts = urlsplit(url)
        path = unquote(parts.path)
        if parts.netloc or not path.startswith("/") or path == "/":
            raise ConfigurationError(
                "A SQLite URL names a file after three slashes.",
                "Write sqlite:///folder/file.db for a relative path, sqlite:////folder/file.db for an absolute one.",
            )
        from harquel.core.engines.sqlite import SqliteEngine

        return SqliteEngine((base / path[1:]).resolve())
    if scheme in SCHEMES:
        return engine_at(server_address(url, base, password))
    # A URL that is none may be a secret in the wrong place: only what looks like a scheme is said again.
    said = f" ({scheme}://)" if re.fullmatch(r"[a-z][a-z0-9+]{1,14}", scheme) and "://" in url else ""
    raise ConfigurationError(
        f"Sources of this kind{said} cannot be connected.",
        "Use a URL that starts with sqlite:///, postgresql:// or mariadb://.",
    )


def engine_at(address: ServerAddress) -> Engine:
    """The engine of a server."""
    # Loaded where such a server is asked only: its driver takes longer to load than all of our own code.
    if address.engine == "postgresql":
        from harquel.core.engines.postgresql import PostgresqlEngine

        return PostgresqlEngine(address)
    from harquel.core.engines.mariadb import MariaDbEngine

    return MariaDbEngine(address)
