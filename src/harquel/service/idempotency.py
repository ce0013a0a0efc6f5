"""Creating once: the same Idempotency-Key of the same token within 24 hours creates nothing new."""

from __future__ import annotations

import datetime as dt
import time
from dataclasses import dataclass
from typing import Final

from django.utils import timezone

from harquel.service.access.models import IdempotencyKey
from harquel.service.errors import ProblemError

_COUNTS = dt.timedelta(hours=24)
_SWEEP_S: Final = 600.0
LONGEST: Final = 200
"""Characters of a key."""


REPEATED: Final = "Harquel-Repeated"
"""Header of a response to a request that was sent before: nothing was created for this one."""


class _Swept:
    """When keys that count no more were last taken away: they are nobody's hurry."""

    def __init__(self) -> None:
        self._at = -_SWEEP_S

    def due(self) -> bool:
        """Whether it is time; if so, whoever asked does it."""
        now = time.monotonic()
        if now - self._at < _SWEEP_S:
            return False
        self._at = now
        return True


_swept = _Swept()


@dataclass
class Once:
    """What a request says about repeating itself; without a key every request is a first one.

    `repeated` is known after `earlier`.
    """

    token: int
    key: str | None
    body_digest: str
    repeated: bool = False

    def earlier(self) -> str | None:
        """What the key created before. Runs inside the writer. Raises ProblemError for another body."""
        if self.key is None:
            return None
        found = IdempotencyKey.objects.filter(token_id=self.token, key=self.key).first()
        forgotten = timezone.now() - _COUNTS
        if _swept.due() or (found is not None and found.created_at < forgotten):
            IdempotencyKey.objects.filter(created_at__lt=forgotten).delete()
        if found is None or found.created_at < forgotten:
            return None
        if found.body_digest != self.body_digest:
            raise ProblemError(422, "key-reused", "problem-key-reused")
        self.repeated = True
        return found.target

    def settle(self, target: str) -> None:
        """Notes what was created. Runs inside the writer, in the transaction that creates it."""
        if self.key is not None:
            IdempotencyKey.objects.create(
                token_id=self.token, key=self.key, body_digest=self.body_digest, target=target
            )
