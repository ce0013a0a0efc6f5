"""The HTTP client library: `Harquel` for ordinary code, `AsyncHarquel` for coroutines."""

from . import describing
from .asynchronous import AsyncHarquel
from .errors import (
    Busy,
    Forbidden,
    HarquelError,
    Invalid,
    NotFound,
    ServiceFault,
    TokenRefused,
    Unreachable,
)
from .events import StreamEvent
from .synchronous import Harquel

__all__ = [
    "AsyncHarquel", "Busy", "Forbidden", "Harquel", "HarquelError", "Invalid", "NotFound", "ServiceFault",
    "StreamEvent", "TokenRefused", "Unreachable", "describing",
]  # fmt: skip
