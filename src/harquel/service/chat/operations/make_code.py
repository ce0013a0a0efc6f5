"""A code for a chat."""

from __future__ import annotations

from harquel.contract import ChatCode
from harquel.core.clock import utc_now
from harquel.service.operations import Call, Nothing, operation
from harquel.service.runtime import runtime

from ..chats import Chat
from ..linking import COUNTS, digest_of, new_code
from ..models import StoredCode
from .find_chat import CHAT


@operation(
    "chat.code", takes=Nothing, about=CHAT, scope="ask", gives=ChatCode, repeat="anew",
    # The link that comes of it goes on record where it is made: in the chat.
    entries=("chat-linked",), rule="for one's own token: who writes it in the chat asks by that, with the scope ask",
)  # fmt: skip
def make_code(call: Call[Nothing, Chat]) -> ChatCode:
    """Makes a code by which one shows in a chat who one is. An earlier one counts no more."""
    code, ends_at, chat = new_code(), utc_now() + COUNTS, call.about.name

    def store() -> None:
        StoredCode.objects.filter(ends_at__lt=utc_now()).delete()
        StoredCode.objects.filter(token_id=call.caller.token, chat=chat).delete()
        StoredCode.objects.create(
            digest=digest_of(code), chat=chat, token_id=call.caller.token, ends_at=ends_at
        )  # fmt: skip

    runtime().writer.do(store)
    return ChatCode(chat=chat, code=code, write=f"link {code}", ends_at=ends_at)
