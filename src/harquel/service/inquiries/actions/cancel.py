"""Stops an inquiry, down to the database. Stopping what has ended changes nothing."""

from __future__ import annotations

from harquel.service.access.models import Token
from harquel.service.ledger.append import append
from harquel.service.runtime import runtime

from .find import find_inquiry


def cancel(key: str, token: Token) -> None:
    """Returns at once; the end follows in the stream. Raises ProblemError when there is no such inquiry."""
    stored = find_inquiry(key, token)
    live = runtime()
    if stored.state != "ended" and live.pool.cancel(key):
        live.writer.do(lambda: append(who=token.person.name, kind="cancel-asked", inquiry=key, facts={}))
