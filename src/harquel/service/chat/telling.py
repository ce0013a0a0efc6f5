"""What became of an inquiry, told in a chat to whom that may be told.

What must hold: what is told goes to whoever asked alone, unless the policy lets everybody of that place see it; nothing
personal is told unless the policy lets it.
"""

from __future__ import annotations

from dataclasses import replace
from functools import partial
from typing import Final

from harquel.contract import Inquiry as Shape
from harquel.contract import events
from harquel.contract.figures import in_a_line
from harquel.core.clock import utc_now
from harquel.core.language.say import say
from harquel.service.access.caller import Caller
from harquel.service.errors import ProblemError
from harquel.service.inquiries.for_others import for_others
from harquel.service.inquiries.models import StoredInquiry
from harquel.service.inquiries.pictures import chart_of
from harquel.service.inquiries.shapes import inquiry_of, shape_of
from harquel.service.ledger.append import append
from harquel.service.runtime import runtime
from harquel.service.sources.choosing import SOURCE_CHOICE

from . import words
from .chats import Chat
from .forms import Choice, Reply, Said
from .models import StoredTurn
from .voice import Voice

_LARGEST_PICTURE: Final = 700_000


def link_to(key: str) -> str:
    """Where an inquiry is read."""
    return f"{runtime().config.reached_at}/inquiries/{key}"


def turn(chat: Chat, said: Said, thread: str, inquiry: str, heard: str = "") -> None:
    """Keeps that an inquiry was told in a thread. Runs inside the writer."""
    StoredTurn.objects.get_or_create(
        chat=chat.name, thread=thread, inquiry=inquiry,
        defaults={"theirs": said.person, "at": utc_now(), "heard": heard},
    )  # fmt: skip


def tell(voice: Voice, stored: StoredInquiry, caller: Caller, wish: str = "") -> None:
    """Tells it, its read-back ("why") or more of its rows ("table"). Raises NotTaken."""
    chat, said = voice.chat, voice.said
    source = runtime().sources.get(stored.source)
    terms = source.core.policy.chat if source is not None else None
    link = link_to(stored.key)
    inquiry = shape_of(inquiry_of(stored), stored.thread)
    if source is None or terms is None or chat.name not in terms.to:
        voice.alone(say(inquiry.language, "chat-not-here"), link, said_there=True)
        return
    if inquiry.answer is not None and not terms.personal and not for_others(stored, caller, source):
        voice.alone(say(inquiry.language, "chat-personal"), link, said_there=True)
        return
    if inquiry.answer is None and not terms.personal and set(caller.roles) & set(source.core.policy.personal.seen_by):
        # What is asked back, or said to be wrong, may hold what only they may see.
        voice.alone(say(inquiry.language, "chat-not-here"), link, said_there=True)
        return
    # A choice of sources shows which ones they have.
    of_sources = inquiry.clarify is not None and any(c.id.startswith(SOURCE_CHOICE) for c in inquiry.clarify.choices)
    alone = not said.direct and (of_sources or said.place not in terms.openly)
    told = events.ToldInChat(chat=chat.name, place=said.place, alone=alone or said.direct)
    if inquiry.answer is not None and voice.heard.tries == 0:
        runtime().writer.do(lambda: append(who=caller.name, what=told, inquiry=stored.key))
    base = Reply(voice.key, 2, said.place, said.person, said.thread, False, "", link=link)
    reply = _reply(base, stored, inquiry, wish)
    if not alone:
        voice.send(reply)
        return
    # The thread of what goes to them alone is a conversation of its own, which goes on there.
    reply = replace(reply, key=f"{reply.key}-alone", alone=True, thread=f"{reply.key}-alone")
    runtime().writer.do(partial(turn, chat, said, reply.thread, stored.key))
    voice.send(reply)
    voice.post(say(inquiry.language, "chat-alone"))


def _reply(base: Reply, stored: StoredInquiry, inquiry: Shape, wish: str) -> Reply:
    link = base.link
    if inquiry.answer is not None and wish == "why":
        return replace(base, text=words.read_back(inquiry, link))
    if inquiry.answer is not None and wish == "table":
        shown = min(inquiry.answer.table.row_count, words.MORE_ROWS)
        text = say(inquiry.language, "chat-rows", shown=shown, n=f"{inquiry.answer.table.row_count:,}")
        return replace(base, text=text, table=words.table(inquiry, more=True))
    if inquiry.answer is not None:
        more = [Choice(f"why {stored.key}", say(inquiry.language, "chat-button-why"))]
        if inquiry.answer.table.row_count > words.ROWS:
            more.append(Choice(f"table {stored.key}", say(inquiry.language, "chat-button-table")))
        text, table = words.answer(inquiry, link), words.table(inquiry)
        return replace(base, text=text, table=table, picture=_picture(stored), choices=tuple(more))
    if inquiry.clarify is not None:
        choices = tuple(
            Choice(f"choice {stored.key} {c.id}"[:200], words.calm(in_a_line(c.label, 70)))
            for c in inquiry.clarify.choices[:8]
        )
        return replace(base, text=words.asked_back(inquiry, link), choices=choices)
    return replace(base, text=words.trouble(inquiry, link))


def _picture(stored: StoredInquiry) -> bytes:
    try:
        made = chart_of(inquiry_of(stored), "png")
    except ProblemError:
        # Too many are being drawn: the figures stand there all the same.
        return b""
    return made if len(made) <= _LARGEST_PICTURE else b""
