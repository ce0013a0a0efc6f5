"""What a source that is made over HTTP may lead to: nothing of this machine that the configuration does not name.

Whoever connects a source chooses where its password is sent. So a reference to a variable or a file, a path of a
SQLite file and a host come only from patterns that whoever owns the configuration wrote down.
"""

from __future__ import annotations

from fnmatch import fnmatchcase
from urllib.parse import unquote

from sqlalchemy.engine import make_url
from sqlalchemy.exc import ArgumentError

from harquel.service.config import REFERENCES, HarquelConfig
from harquel.service.problems import ProblemError


def from_outside(
    config: HarquelConfig, url: str | None, password: str | None, path: str | None, ca: str | None, host: str | None
) -> None:
    """Raises ProblemError for what the configuration does not let in."""
    for text in (url, password, path, ca, host):
        if text is not None and text.startswith(REFERENCES):
            _reference(config, text)
    if url is not None and not url.startswith(REFERENCES):
        try:
            found = make_url(url)
        except (ArgumentError, ValueError):
            return  # it is turned down in its own words a moment later
        if found.get_backend_name() == "sqlite":
            _path(config, unquote(found.database or ""))
        else:
            _host(config, found.host or "")
        for name, value in found.query.items():
            # Drivers take files for keys and certificates, and hosts, from here.
            _refused(f"The url says {name}={value}; a source made over HTTP may not.", "Leave it out.")
    if path is not None:
        _path(config, path)
    if ca:
        _path(config, ca)
    if host is not None:
        _host(config, host)


def _reference(config: HarquelConfig, text: str) -> None:
    kind, _, name = text.partition(":")
    for pattern in config.service.references:
        allowed, _, names = pattern.partition(":")
        if allowed != kind:
            continue
        if kind == "env" and fnmatchcase(name, names):
            return
        # Compared as the file system sees it: no way leads out of a folder by .. or by a link.
        if kind == "file" and fnmatchcase(str((config.base / name).resolve()), str(config.base.resolve() / names)):
            return
    _refused(
        f"A source made over HTTP may not refer to {kind}:….",
        "Give the password itself: it is kept encrypted. Or let service.references name it in harquel.toml.",
    )


def _path(config: HarquelConfig, text: str) -> None:
    wanted = (config.base / text).resolve()
    folders = [(config.base / f).resolve() for f in config.service.folders]
    if not any(wanted.is_relative_to(f) for f in folders):
        _refused(
            "A source made over HTTP may not lead to this file.",
            "Let service.folders name its folder in harquel.toml, or declare the source there.",
        )


def _host(config: HarquelConfig, host: str) -> None:
    if host.startswith("/") or not any(fnmatchcase(host.lower(), p.lower()) for p in config.service.databases):
        _refused(
            f"A source made over HTTP may not lead to the host {host or '(none)'}.",
            "Let service.databases name it in harquel.toml, or declare the source there.",
        )


def _refused(title: str, hint: str) -> None:
    raise ProblemError(403, "not-let-in", title, hint)
