"""Whose certificates are believed: the system's, read once and only for addresses that need them."""

from __future__ import annotations

import functools
import ssl


@functools.cache
def _system() -> ssl.SSLContext:
    return ssl.create_default_context()


@functools.cache
def _nobody() -> ssl.SSLContext:
    return ssl.SSLContext(ssl.PROTOCOL_TLS_CLIENT)


def believed(url: str) -> ssl.SSLContext:
    """For httpx's `verify`. Without TLS nobody is believed, should such an address lead on to one with it."""
    return _nobody() if url.lower().startswith("http://") else _system()
