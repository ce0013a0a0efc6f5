"""Who is linked, and the end of it."""

from __future__ import annotations

from typing import Final

from django.db.models import QuerySet

from harquel.contract import ChatLink, ChatLinks
from harquel.service.access.caller import Caller
from harquel.service.access.models import Token
from harquel.service.errors import not_found
from harquel.service.operations import NO_SUBJECT, Call, Nothing, Subject, operation
from harquel.service.runtime import runtime

from ..linking import unlink
from ..models import StoredLink

_RULE: Final = "one's own; with admin anybody's"
_SHOWN: Final = 500


def _visible(caller: Caller) -> QuerySet[StoredLink]:
    found = StoredLink.objects.select_related("token__person").filter(token__in=Token.living())
    return found if caller.may("admin") else found.filter(token__person_id=caller.person)


def _find(key: str, caller: Caller) -> StoredLink:
    found = _visible(caller).filter(pk=int(key)).first()
    if found is None:
        raise not_found("problem-unknown-chat-link", key)
    return found


@operation("chat.links", takes=Nothing, about=NO_SUBJECT, gives=ChatLinks, rule=_RULE)
def list_links(call: Call[Nothing, None]) -> ChatLinks:
    """Who of which chat asks in whose name."""
    found = _visible(call.caller).order_by("-at")[:_SHOWN]
    return ChatLinks([
        ChatLink(
            id=one.pk, chat=one.chat, theirs=one.theirs, person=one.token.person.name, token=one.token_id, at=one.at
        )
        for one in found
    ])  # fmt: skip


@operation(
    "chat.unlink", takes=Nothing, about=Subject("link of a chat", "link", _find, _RULE), repeat="same",
    entries=("chat-unlinked",),
)  # fmt: skip
def end_link(call: Call[Nothing, StoredLink]) -> None:
    """Ends a link: whoever it was asks there no more."""
    runtime().writer.do(lambda: unlink(call.about, call.caller.name))
