"""A destination of the configuration: a signed message by HTTP."""

from __future__ import annotations

from dataclasses import dataclass

from harquel.core.clock import utc_now
from harquel.service.config import DestinationSection

from .outward import post
from .signing import signed


@dataclass(frozen=True)
class Hook:
    """One of them, with its secret."""

    section: DestinationSection
    secret: bytes

    def carry(self, key: str, number: int, body: bytes) -> None:
        """Raises NotTaken."""
        headers = {
            "content-type": "application/cloudevents+json", "user-agent": "harquel", "harquel-try": str(number),
            **signed(self.secret, key, int(utc_now().timestamp()), body),
        }  # fmt: skip
        post(self.section.url, headers, body, self.section.private)
