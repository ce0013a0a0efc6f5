"""The chat that somebody means."""

from __future__ import annotations

from typing import Final

from harquel.contract import ChatLine, Chats
from harquel.service.access.caller import Caller
from harquel.service.errors import not_found
from harquel.service.operations import NO_SUBJECT, Call, Nothing, Subject, operation
from harquel.service.runtime import runtime

from ..chats import Chat


def _find(name: str, _: Caller) -> Chat:
    found = runtime().chats.get(name)
    if found is None:
        raise not_found("problem-unknown-chat", name, ", ".join(sorted(runtime().chats)) or "–")
    return found


CHAT: Final = Subject("chat", "chat", _find, "anybody's")


@operation("chat.list", takes=Nothing, about=NO_SUBJECT, gives=Chats, scope="ask")
def list_chats(call: Call[Nothing, None]) -> Chats:
    """The chats in which one can ask, once one has shown there who one is."""
    return Chats([ChatLine(name=name) for name in sorted(runtime().chats)])
