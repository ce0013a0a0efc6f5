"""Who somebody of a chat is here: shown once, by a code that only they could have.

What must hold: nobody is anybody without a code of that person's own making, which counts once, for a while, in one
chat; a link asks by a token, and is over once the token is.
"""

from __future__ import annotations

import datetime as dt
import hashlib
import secrets
from typing import Final

from harquel.contract import events
from harquel.core.clock import utc_now
from harquel.service.access.models import Token
from harquel.service.ledger.append import append

from .models import StoredCode, StoredLink

COUNTS: Final = dt.timedelta(minutes=15)
_SIGNS: Final = "ABCDEFGHJKMNPQRSTVWXYZ23456789"
_LENGTH: Final = 10


def new_code() -> str:
    """A code nobody guesses: 49 bits, and few tries."""
    drawn = "".join(secrets.choice(_SIGNS) for _ in range(_LENGTH))
    return f"{drawn[:5]}-{drawn[5:]}"


def digest_of(code: str) -> str:
    """As it is kept; written small or without its hyphen it is the same."""
    plain = "".join(c for c in code.upper() if c.isalnum())
    return hashlib.sha256(plain.encode()).hexdigest()


def linked(chat: str, theirs: str) -> Token | None:
    """The token by which somebody of a chat asks, while it counts."""
    return (
        Token.living().select_related("person").filter(storedlink__chat=chat, storedlink__theirs=theirs).first()
    )  # fmt: skip


def link(chat: str, theirs: str, code: str) -> Token | None:
    """Whose code it is; from now on they are linked. None for one that does not count. Runs inside the writer."""
    found = StoredCode.objects.filter(chat=chat, digest=digest_of(code), ends_at__gt=utc_now()).first()
    token = Token.living().select_related("person").filter(pk=found.token_id).first() if found is not None else None
    if found is None or token is None:
        return None
    found.delete()
    StoredLink.objects.update_or_create(chat=chat, theirs=theirs, defaults={"token": token, "at": utc_now()})
    append(who=token.person.name, what=events.ChatLinked(chat=chat, theirs=theirs, token=token.pk))
    return token


def spend(chat: str, code: str) -> None:
    """What was written where others read it counts no more. Runs inside the writer."""
    StoredCode.objects.filter(chat=chat, digest=digest_of(code)).delete()


def unlink(found: StoredLink, who: str) -> None:
    """They are nobody here any more. Runs inside the writer."""
    if StoredLink.objects.filter(pk=found.pk).delete()[0]:
        append(who=who, what=events.ChatUnlinked(chat=found.chat, theirs=found.theirs))
