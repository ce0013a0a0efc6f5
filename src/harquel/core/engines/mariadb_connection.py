"""How MariaDB is reached: names as it wants them, TLS, and a connection of its driver."""

from __future__ import annotations

import ssl
from functools import cache
from typing import Any

from pymysql.connections import Connection


def quoted(name: str) -> str:
    """A name as MariaDB wants it, whatever is in it."""
    return "`" + name.replace("`", "``") + "`"


def tls_options(tls: str, ca: str) -> dict[str, Any]:
    """How to encrypt, as the driver's arguments; without any it encrypts where the server can."""
    if tls == "off":
        return {"ssl_disabled": True}
    if tls == "prefer":
        return {}
    context = ssl.create_default_context(cafile=ca or None)
    if tls == "require":
        context.check_hostname = False
        context.verify_mode = ssl.CERT_NONE
    return {"ssl": context}


@cache
def _unverified() -> ssl.SSLContext:
    context = ssl.create_default_context()
    context.check_hostname = False
    context.verify_mode = ssl.CERT_NONE
    return context


class PlainConnection(Connection):  # type: ignore[misc]  # the driver says nothing of its types
    """The driver's, but for one thing: where it encrypts if it can, it loads all that the system believes for each
    connection anew, and verifies nothing with it. That takes longer than the connection.
    """

    def _create_ssl_ctx(self, asked: Any) -> ssl.SSLContext:
        made: ssl.SSLContext = super()._create_ssl_ctx(asked) if asked else _unverified()
        return made
