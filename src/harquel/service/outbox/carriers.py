"""What carries a sending to where it is to go: the destinations and the mail server of the configuration."""

from __future__ import annotations

from typing import Final, Protocol

from harquel.service.config import HarquelConfig, resolve_secret
from harquel.service.masking import remember

from .hook import Hook
from .mail import Mail
from .signing import secret_of


class Carrier(Protocol):
    """One way to one place."""

    def carry(self, key: str, number: int, body: bytes) -> None:
        """Takes a sending there, by its id and the number of the try. Raises NotTaken."""


class Carriers:
    """All that a configuration has, with their secrets."""

    def __init__(self, config: HarquelConfig) -> None:
        """Raises ConfigurationError for a secret that is not there, or is none."""
        self._hooks: Final[dict[str, Hook]] = {}
        for name, section in config.destinations.items():
            what = f"destinations.{name}.secret"
            text = resolve_secret(section.secret, config.base, what)
            remember(text)
            self._hooks[name] = Hook(section, secret_of(text, what))
        self._password = ""
        if config.mail is not None and config.mail.password is not None:
            self._password = resolve_secret(config.mail.password, config.base, "mail.password")
            remember(self._password)
        self._mail = config.mail

    def to(self, where: str) -> Carrier | None:
        """By the name of a destination or an address of mail; None where there is no way."""
        if "@" not in where:
            return self._hooks.get(where)
        return Mail(self._mail, self._password, where) if self._mail is not None else None
