"""From a source's URL to its engine."""

from __future__ import annotations

from pathlib import Path
from urllib.parse import unquote, urlsplit

from harquel.core.engines.base import Engine
from harquel.core.engines.sqlite import SqliteEngine
from harquel.core.errors import ConfigurationError


def engine_for(url: str, base: Path) -> Engine:
    """The engine behind `url`; relative SQLite paths are taken from `base`.

    Raises ConfigurationError for a scheme that is not known.
    """
    parts = urlsplit(url)
    if parts.scheme == "sqlite":
        path = unquote(parts.path)
        if parts.netloc or not path.startswith("/") or path == "/":
            raise ConfigurationError(
                "A SQLite URL names a file after three slashes.",
                "Write sqlite:///folder/file.db for a relative path, sqlite:////folder/file.db for an absolute one.",
            )
        return SqliteEngine((base / path[1:]).resolve())
    raise ConfigurationError(
        f"Sources of the kind {parts.scheme or url!r} cannot be connected.", "Use a URL that starts with sqlite:///."
    )
