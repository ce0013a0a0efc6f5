"""The chats of the configuration, with their secrets."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from harquel.service.config import ChatSection, HarquelConfig, resolve_secret
from harquel.service.masking import remember
from harquel.service.outbox.signing import secret_of

from .forms import FORMS, ChatForm


@dataclass(frozen=True)
class Chat:
    """One of them."""

    name: str
    section: ChatSection
    secret: bytes

    @property
    def form(self) -> ChatForm:
        """How its messages are written."""
        return FORMS[self.section.form]


def chats_of(config: HarquelConfig) -> Mapping[str, Chat]:
    """By their names. Raises ConfigurationError for a secret that is not there, or is none."""
    found = {}
    for name, section in config.chats.items():
        what = f"chats.{name}.secret"
        text = resolve_secret(section.secret, config.base, what)
        remember(text)
        found[name] = Chat(name, section, secret_of(text, what))
    return found
