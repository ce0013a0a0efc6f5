"""What a source that is made over HTTP may lead to: nothing of this machine that the configuration does not name.

Whoever connects a source chooses where its password is sent. So a reference to a variable or a file, a path of a
SQLite file and a host come only from patterns that whoever owns the configuration wrote down. References are looked at
before anything is read; paths and hosts as the engine has understood them, since two readers of one URL can differ.
"""

from __future__ import annotations

from fnmatch import fnmatchcase

from harquel.core.engines import Engine
from harquel.service.config import REFERENCES, HarquelConfig
from harquel.service.errors import ProblemError


def references_let_in(config: HarquelConfig, *texts: str | None) -> None:
    """Raises ProblemError for a text that is a reference which the configuration does not name."""
    for text in texts:
        if text is not None and text.startswith(REFERENCES):
            _reference(config, text)


def address_let_in(config: HarquelConfig, engine: Engine) -> None:
    """Raises ProblemError for an engine that leads to a file or host which the configuration does not name."""
    address = engine.address()
    if "path" in address:
        _path(config, address["path"])
        return
    server = address["server"]
    _host(config, server["host"])
    if server["ca"]:
        _path(config, server["ca"])


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
    raise ProblemError(403, "not-let-in", "problem-reference-not-let-in", kind=kind)


def _path(config: HarquelConfig, text: str) -> None:
    wanted = (config.base / text).resolve()
    folders = [(config.base / f).resolve() for f in config.service.folders]
    if not any(wanted.is_relative_to(f) for f in folders):
        raise ProblemError(403, "not-let-in", "problem-file-not-let-in")


def _host(config: HarquelConfig, host: str) -> None:
    # A host that begins with a slash is a folder of sockets to the driver.
    if host.startswith("/") or not any(fnmatchcase(host.lower(), p.lower()) for p in config.service.databases):
        raise ProblemError(403, "not-let-in", "problem-host-not-let-in", host=host or "(–)")
