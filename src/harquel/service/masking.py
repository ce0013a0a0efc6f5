"""The last net under every output: secrets that this process knows are blotted out wherever they turn up."""

from __future__ import annotations

import threading
from collections.abc import MutableMapping
from typing import Any, Final
from urllib.parse import quote

_SHORTEST: Final = 4
_lock = threading.Lock()
_known: set[str] = set()


def remember(secret: str) -> None:
    """From now on this text is not to be seen. Very short ones would blot out half of every sentence."""
    if len(secret) >= _SHORTEST:
        with _lock:
            _known.update({secret, quote(secret, safe="")})


def masked(text: str) -> str:
    """The text without any known secret."""
    for secret in tuple(_known):
        if secret in text:
            text = text.replace(secret, "•••")
    return text


def mask_event(_: Any, __: str, event: MutableMapping[str, Any]) -> MutableMapping[str, Any]:
    """The same for a log event (structlog's processor)."""
    return {key: masked(value) if isinstance(value, str) else value for key, value in event.items()}
