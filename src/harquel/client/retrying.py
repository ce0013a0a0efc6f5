"""When a call may be sent once more, and how long to wait before."""

from __future__ import annotations

import random
import uuid
from dataclasses import replace
from typing import Final, TypeVar

from harquel.client.calls import Call
from harquel.client.errors import Busy, HarquelError, Invalid, ServiceFault, Unreachable

T = TypeVar("T")
LONGEST_PAUSE_S: Final = 15.0
"""A service that wants longer pauses than this is said to be busy instead."""
_FIRST_PAUSE_S: Final = 0.25
_REPEATABLE: Final = frozenset({"GET", "PUT", "DELETE"})


def keyed(call: Call[T]) -> Call[T]:
    """The call with an idempotency key of its own, where it creates something and bears none yet."""
    if not call.creates or "Idempotency-Key" in call.headers:
        return call
    return replace(call, headers={**call.headers, "Idempotency-Key": uuid.uuid4().hex})


def pause_before(call: Call[T], error: HarquelError, tried: int) -> float | None:
    """Seconds until the call may be sent once more, after it was tried so often; None: it may not, or it is no use."""
    if call.method not in _REPEATABLE and "Idempotency-Key" not in call.headers:
        return None
    passing = isinstance(error, Unreachable | Busy) or (isinstance(error, ServiceFault) and error.retry_after_s > 0)
    if not passing:
        return None
    wanted = getattr(error, "retry_after_s", 0.0)
    if wanted > LONGEST_PAUSE_S:
        return None
    # Not all at once, where many were turned away at once.
    return max(wanted, _FIRST_PAUSE_S * 2.0**tried) * random.uniform(1.0, 1.25)


def address(url: str) -> str:
    """The address without what is superfluous. Raises Invalid where it says no scheme."""
    bare = url.strip().rstrip("/")
    if not bare.lower().startswith(("http://", "https://")):
        raise Invalid(f"The address {url!r} does not say how to get there.", f"Write http://{bare or 'HOST:PORT'}.")
    return bare
