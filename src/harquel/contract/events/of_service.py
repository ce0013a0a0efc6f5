"""What can happen to people, their tokens and the service."""

from __future__ import annotations

from typing import Literal

from .happening import Happening


class TokenMade(Happening):
    """A token was made."""

    happened: Literal["token-created"] = "token-created"
    token: int = 0
    """Its number."""
    name: str = ""
    """Its name."""
    person: str = ""
    """Whose it is."""
    person_id: int = 0
    """The number of that person."""
    sources: list[str] = []
    """The sources that it is for."""
    scopes: list[str] = []
    """What it may do."""
    roles: list[str] = []
    """The roles of the person."""
    expires_at: str | None = None
    """When it ends; null: never."""
    rights: str = ""
    """The digest of what it may."""
    parent: int | None = None
    """The token that has begun the visit that it is for; null for any other."""


class TokenRevoked(Happening):
    """A token counts no more."""

    happened: Literal["token-revoked"] = "token-revoked"
    token: int = 0
    """Its number."""
    name: str = ""
    """Its name."""


class ChatLinked(Happening):
    """Somebody of a chat asks by a token from now on."""

    happened: Literal["chat-linked"] = "chat-linked"
    chat: str = ""
    """Which chat, by the configuration's name."""
    theirs: str = ""
    """Who they are there."""
    token: int = 0
    """The token's number."""


class ChatUnlinked(Happening):
    """They do so no more."""

    happened: Literal["chat-unlinked"] = "chat-unlinked"
    chat: str = ""
    """Which chat, by the configuration's name."""
    theirs: str = ""
    """Who they are there."""


class WatchAdded(Happening):
    """A question is asked again by itself from now on."""

    happened: Literal["watch-added"] = "watch-added"
    watch: str = ""
    """Its id."""
    when: str = ""
    """When, as five fields of cron."""
    tell: str = ""
    """What of it is told."""
    to: list[str] = []
    """Whom."""
    token: int = 0
    """By which token."""


class WatchChanged(Happening):
    """It rests, goes on, or is asked at other times."""

    happened: Literal["watch-changed"] = "watch-changed"
    watch: str = ""
    """Its id."""
    state: str = ""
    """Whether it is asked."""
    when: str = ""
    """When, as five fields of cron."""


class WatchRan(Happening):
    """It was due."""

    happened: Literal["watch-ran"] = "watch-ran"
    watch: str = ""
    """Its id."""
    due: str = ""
    """For when."""
    outcome: str = ""
    """What came of it."""
    late: bool = False
    """Whether it was caught up."""


class WatchEnded(Happening):
    """It is asked no more."""

    happened: Literal["watch-ended"] = "watch-ended"
    watch: str = ""
    """Its id."""
    why: str = ""
    """Why."""


class CasebookWritten(Happening):
    """A casebook was made, or written anew."""

    happened: Literal["casebook-written"] = "casebook-written"
    casebook: str = ""
    """Its id."""
    version: int = 1
    """The version that came of it."""
    what: str = ""
    """What was done: made, written, kept, dropped, asked-again, restored."""
    names: list[str] = []
    """To which answers."""
    digest: str = ""
    """Of title, text and answers."""


class CasebookReaders(Happening):
    """Other people may read a casebook."""

    happened: Literal["casebook-readers"] = "casebook-readers"
    casebook: str = ""
    """Its id."""
    readers: list[int] = []
    """Their numbers."""
    everybody: bool = False
    """Whether everybody may who may sign in."""


class CasebookRemoved(Happening):
    """A casebook was taken away."""

    happened: Literal["casebook-removed"] = "casebook-removed"
    casebook: str = ""
    """Its id."""


class OpenLinkMade(Happening):
    """A link was made by which people without an account see an answer or a casebook."""

    happened: Literal["open-link-made"] = "open-link-made"
    link: str = ""
    """Its id, which is not its address."""
    casebook: str = ""
    """The casebook that it shows; empty for an answer."""
    days: int = 0
    """How long it holds."""
    token: int = 0
    """The token that it was made by."""
    digest: str = ""
    """Of the page that it shows."""


class OpenLinkOpened(Happening):
    """Somebody has opened it; told once an hour at most."""

    happened: Literal["open-link-opened"] = "open-link-opened"
    link: str = ""
    """Its id."""


class OpenLinkEnded(Happening):
    """It shows nothing any more."""

    happened: Literal["open-link-ended"] = "open-link-ended"
    link: str = ""
    """Its id."""


class KeysRotated(Happening):
    """Passwords of sources are kept under another key."""

    happened: Literal["keys-rotated"] = "keys-rotated"
    passwords: int = 0
    """How many there are."""


class RowsBlanked(Happening):
    """Rows of answers of a source were deleted: they had had their time."""

    happened: Literal["rows-blanked"] = "rows-blanked"
    source: str = ""
    """The source."""
    answers: int = 0
    """Of how many."""
    days: int = 0
    """After how many days."""


class ModelChecked(Happening):
    """Somebody has asked a language model whether it can be used."""

    happened: Literal["model-checked"] = "model-checked"
    model: str = ""
    """Which."""
    reached: bool = False
    """Whether it replied."""


class ConfigurationReloaded(Happening):
    """The configuration was read again."""

    happened: Literal["configuration-reloaded"] = "configuration-reloaded"
    changed: list[str] = []
    """What of it counts otherwise from now on."""


class StandstillOn(Happening):
    """Everything was stopped."""

    happened: Literal["standstill-on"] = "standstill-on"


class StandstillOff(Happening):
    """That was taken back."""

    happened: Literal["standstill-off"] = "standstill-off"


class ServiceStarted(Happening):
    """The service has started."""

    happened: Literal["service-started"] = "service-started"
    interrupted: int = 0
    """Inquiries that an earlier stop had interrupted."""
    sealed_with: str | None = None
    """The key that seals from now on."""


class ServiceStopped(Happening):
    """The service stops."""

    happened: Literal["service-stopped"] = "service-stopped"


class LedgerSealed(Happening):
    """Somebody had the ledger sealed; the first seal of a new key names it."""

    happened: Literal["ledger-sealed"] = "ledger-sealed"
    new: str | None = None
    """The new key."""


class LedgerKeyChanged(Happening):
    """The key that seals was changed; the last entry under the old one."""

    happened: Literal["ledger-key-changed"] = "ledger-key-changed"
    old: str = ""
    """The old key."""
