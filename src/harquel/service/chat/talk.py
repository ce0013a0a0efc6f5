"""What one message of a chat comes to: a command, a code, a question, and the reply.

What must hold: whoever is not linked is told that and nothing else; who is asks by their token, with the scope ask and
for sources whose policy names the chat; what shows which sources they have is told to them alone.
"""

from __future__ import annotations

import datetime as dt
import hashlib
import json
import re
import threading
import time
from collections.abc import Mapping
from dataclasses import replace
from functools import partial
from typing import Any, Final

from harquel.contract.asking import QUESTION_LIMIT
from harquel.contract.figures import in_a_line
from harquel.core.briefing.named import names_something
from harquel.core.language import language_of
from harquel.core.language.say import say
from harquel.service.access.caller import Caller
from harquel.service.access.models import Token
from harquel.service.casebooks.operations.keeping import keep_titled
from harquel.service.errors import ProblemError
from harquel.service.idempotency import Once
from harquel.service.inquiries.finding import find_inquiry
from harquel.service.inquiries.models import StoredInquiry
from harquel.service.inquiries.operations.ask import ask
from harquel.service.inquiries.operations.cancel import cancel
from harquel.service.inquiries.recovery import was_interrupted
from harquel.service.inquiries.shapes import inquiry_of
from harquel.service.operations import perform
from harquel.service.problems import as_problem
from harquel.service.runtime import runtime
from harquel.service.seldom import Seldom

from . import linking, words
from .chats import Chat
from .forms import Said
from .models import StoredHeard, StoredLink, StoredTurn
from .telling import link_to, tell, turn
from .voice import Voice

MOST_A_MINUTE: Final = 20
"""Messages of one person that are seen to."""
_WAIT_S: Final = 150.0
_LOOK_S: Final = 0.1
_CALLED: Final = re.compile(r"^(?:@?harquel\b[:,]?\s+|/(?:harquel\s+)?)", re.IGNORECASE)
_LINK: Final = re.compile(r"link\s+([A-Za-z0-9-]{5,20})\.?", re.IGNORECASE)
_KEEP: Final = re.compile(
    r"(?:keep (?:this|it|that) in|(?:behalte?|merke?) (?:das|dies|es) in|nimm (?:das|es) in)\s+"
    r"[\"“„'»]?(?P<title>[^\"“”„'«»]{1,120}?)[\"“”'«]?(?: auf)?[.!]?", re.IGNORECASE
)  # fmt: skip
_COMMANDS: Final = {
    "help": "help", "hilfe": "help", "sources": "sources", "quellen": "sources", "stop": "stop", "stopp": "stop",
    "why": "why", "warum": "why", "table": "table", "tabelle": "table", "unlink": "unlink",
}  # fmt: skip
_wrong: Final = Seldom(5, 3600)
_wrong_in_all: Final = Seldom(200, 3600)
"""Wrong codes of one person, and of a whole chat."""
_strangers: Final = Seldom(3, 600)
"""Hints for one who is not linked: two programs could go on for ever."""


def see_to(heard: StoredHeard, ended: threading.Event) -> None:
    """Does what a message wants. Raises NotTaken where a reply is not taken; once `ended`, it breaks off."""
    chat = runtime().chats.get(heard.chat)
    said = chat.form.read(bytes(heard.body)) if chat is not None and heard.body else None
    if chat is not None and said is not None:
        _Talk(chat, said, heard, ended).go()


class _Talk:
    """One message."""

    def __init__(self, chat: Chat, said: Said, heard: StoredHeard, ended: threading.Event) -> None:
        self._chat, self._said, self._heard, self._ended = chat, said, heard, ended
        self._text = _CALLED.sub("", in_a_line(said.text, QUESTION_LIMIT))
        self._whose, self._once = f"{chat.name} {said.person}", ""
        self._language = language_of(self._text) if self._text else "en"
        self._voice = Voice(chat, said, heard, self._language)

    def go(self) -> None:
        """See `see_to`."""
        token, code = linking.linked(self._chat.name, self._said.person), _LINK.fullmatch(self._text)
        if code is not None:
            self._link(code[1])
        elif token is None:
            self._stranger()
        elif (many := self._lately(dt.timedelta(minutes=1))) > MOST_A_MINUTE:
            if many == MOST_A_MINUTE + 1:
                self._voice.say("chat-too-fast")
        elif len(self._said.text) > QUESTION_LIMIT:
            self._voice.say("chat-too-long", n=f"{QUESTION_LIMIT:,}")
        elif not self._text and not self._said.pressed:
            self._voice.say("chat-nothing")
        else:
            self._known(token)

    # -- who it is -----------------------------------------------------------------------------------

    def _lately(self, within: dt.timedelta) -> int:
        """The how manieth of theirs it is within a time."""
        return StoredHeard.objects.filter(
            chat=self._chat.name, theirs=self._said.person, key__startswith="said ", pk__lte=self._heard.pk,
            at__gt=self._heard.at - within,
        ).count()  # fmt: skip

    def _stranger(self) -> None:
        if _strangers.may(self._whose):
            _strangers.happened(self._whose)
            self._voice.say("chat-stranger", alone=True)

    def _link(self, code: str) -> None:
        chat, theirs, writer = self._chat.name, self._said.person, runtime().writer
        if not self._said.direct:
            writer.do(partial(linking.spend, chat, code))
            self._voice.say("chat-link-here", alone=True)
            return
        token = linking.linked(chat, theirs)
        before = StoredLink.objects.filter(chat=chat, theirs=theirs, at__gte=self._heard.at).first()
        if before is not None and token is not None and self._heard.tries:
            self._voice.say("chat-linked", name=token.person.name)  # it was done at an earlier try
            return
        if not _wrong.may(self._whose) or not _wrong_in_all.may(chat):
            self._voice.say("chat-code-rest")
            return
        found = writer.do(lambda: linking.link(chat, theirs, code))
        if found is None:
            _wrong.happened(self._whose)
            _wrong_in_all.happened(chat)
            self._voice.say("chat-code-wrong")
        else:
            self._voice.say("chat-linked", name=in_a_line(found.person.name, 80))

    def _caller(self, token: Token) -> Caller:
        """By their token, and no further than a chat may reach."""
        base = Caller.of(token)
        told = {
            name for name, source in runtime().sources.items()
            if base.sees(name) and (terms := source.core.policy.chat) is not None and self._chat.name in terms.to
        }  # fmt: skip
        return replace(base, scopes=base.scopes & {"ask"}, sources=frozenset(told))

    # -- what it wants -------------------------------------------------------------------------------

    def _known(self, token: Token) -> None:
        caller = self._caller(token)
        turns = StoredTurn.objects.filter(
            chat=self._chat.name, thread=self._said.thread, theirs=self._said.person
        ).order_by("-pk")  # fmt: skip
        done = turns.filter(heard=self._heard.key).first()
        asked = self._earlier(done.inquiry, caller) if done is not None else None
        if done is not None and not (asked is not None and was_interrupted(asked)):
            # Asked at an earlier try: only its reply is wanting.
            self._follow_up(done.inquiry, caller)
            return
        # What a stop of the service has ended is asked once more.
        self._once = done.inquiry if done is not None else ""
        last = turns.exclude(heard=self._heard.key).first()
        earlier = self._earlier(last.inquiry, caller) if last is not None else None
        try:
            self._wish(caller, earlier)
        except Exception as error:
            problem = as_problem(error)
            if problem is None:
                raise
            told = problem.told(self._language)
            self._voice.alone(words.within(f"{told.title} {told.hint}"))

    def _earlier(self, key: str, caller: Caller) -> StoredInquiry | None:
        try:
            return find_inquiry(key, caller)
        except ProblemError:
            return None

    def _wish(self, caller: Caller, earlier: StoredInquiry | None) -> None:
        """Raises ProblemError."""
        wish, value = self._wished()
        if not caller.sources and wish != "unlink":
            self._voice.say("chat-no-source", alone=True)
        elif wish == "choice":
            key, _, choice = value.partition(" ")
            self._ask(caller, {"follows": find_inquiry(key, caller).key, "choice": choice})
        elif wish in ("why", "table"):
            about = find_inquiry(value, caller) if value else earlier
            if about is None or inquiry_of(about).answer is None:
                self._voice.say("chat-nothing-before")
            else:
                tell(self._voice, about, caller, wish)
        elif wish == "keep":
            self._keep(caller, earlier, value)
        elif wish == "stop":
            self._stop(caller, earlier)
        elif wish in ("help", "sources"):
            self._about(caller, wish)
        elif wish == "unlink":
            found = StoredLink.objects.filter(chat=self._chat.name, theirs=self._said.person).first()
            if found is not None:
                runtime().writer.do(partial(linking.unlink, found, caller.name))
            self._voice.say("chat-unlinked")
        else:
            self._question(caller, earlier)

    def _wished(self) -> tuple[str, str]:
        """What it is, and of what."""
        if self._said.pressed:
            kind, _, value = self._said.pressed.partition(" ")
            return (kind if kind in ("choice", "why", "table") else "question"), value
        if (keep := _KEEP.fullmatch(self._text)) is not None:
            return "keep", keep["title"].strip()
        return _COMMANDS.get(self._text.casefold().rstrip("?!."), "question"), ""

    def _question(self, caller: Caller, earlier: StoredInquiry | None) -> None:
        """Raises ProblemError."""
        if earlier is not None and earlier.state not in ("ended", "held"):
            self._voice.say("chat-under-way")
            return
        known = inquiry_of(earlier) if earlier is not None and earlier.state == "ended" else None
        clarify = known.clarify if known is not None else None
        if known is not None and clarify is not None and self._text.rstrip(".").isdigit():
            number = int(self._text.rstrip(".")[:4])
            if not 1 <= number <= len(clarify.choices):
                self._voice.say("chat-no-such-choice", n=len(clarify.choices))
                return
            self._ask(caller, {"follows": known.id, "choice": clarify.choices[number - 1].id})
            return
        follows = known.id if known is not None and (known.answer is not None or clarify is not None) else None
        number_alone = self._text.rstrip(".").isdigit()
        name, _, rest = self._text.partition(":")
        named = name if rest.strip() and name in caller.sources else None
        text = rest.strip() if named else self._text
        usual = self._chat.section.source if self._chat.section.source in caller.sources else None
        source = named or (usual if follows is None else None)
        alone = " " not in text and (follows is None or number_alone)
        if alone and not self._names(text, caller, source):
            starters = [s for n in sorted(caller.sources) for s in runtime().sources[n].starters][:2]
            self._voice.say("chat-one-word", alone=True, word=in_a_line(text, 60), starters=" · ".join(starters))
            return
        wanted = {"question": text, "source": source, "follows": follows, "language": self._language}
        self._ask(caller, {k: v for k, v in wanted.items() if v})

    def _names(self, word: str, caller: Caller, source: str | None) -> bool:
        """Whether a word alone is a look-up: it names something by key or label."""
        for name in [source] if source else sorted(caller.sources):
            live = runtime().sources[name]
            catalog = live.keeper.known()
            if catalog is not None and names_something(word, live.core.describer.of(catalog, caller.asker)):
                return True
        return False

    def _keep(self, caller: Caller, earlier: StoredInquiry | None, title: str) -> None:
        """Keeps the last answer of the thread in a casebook of theirs, a new one where they have none of that title.
        Raises ProblemError.
        """
        if earlier is None or inquiry_of(earlier).answer is None:
            self._voice.say("chat-nothing-before")
            return
        once = hashlib.sha256(f"{self._chat.name} {self._heard.key} keep".encode()).hexdigest()
        wish = {"title": title, "language": self._language}
        found = perform(keep_titled, caller, lambda: wish, {"key": earlier.key}, Once(caller.token, once, once))[1]
        text = say(self._language, "chat-kept", title=in_a_line(found.title, 120), n=found.answers)
        self._voice.alone(words.calm(text), f"{runtime().config.reached_at}/casebooks/{found.id}")

    def _stop(self, caller: Caller, earlier: StoredInquiry | None) -> None:
        if earlier is None or earlier.state == "ended":
            self._voice.say("chat-nothing-under-way")
            return
        perform(cancel, caller, dict, {"key": earlier.key})
        self._voice.say("chat-stopped")

    def _about(self, caller: Caller, wish: str) -> None:
        names = ", ".join(sorted(caller.sources))
        starters = [s for n in sorted(caller.sources) for s in runtime().sources[n].starters][:3]
        lines = [words.calm(f"· {in_a_line(s, 120)}") for s in starters]
        text = say(self._language, "chat-help" if wish == "help" else "chat-sources", names=in_a_line(names, 200))
        self._voice.alone("\n".join([text, *lines])[: words.MOST])

    # -- asking --------------------------------------------------------------------------------------

    def _ask(self, caller: Caller, wanted: Mapping[str, Any]) -> None:
        """Raises ProblemError."""
        self._voice.say("chat-thinking", revision=1)
        digest = hashlib.sha256(json.dumps(dict(wanted), sort_keys=True).encode()).hexdigest()
        key = hashlib.sha256(f"{self._chat.name} {self._heard.key} {self._once}".encode()).hexdigest()
        once = Once(caller.token, key, digest)
        try:
            _, found = perform(ask, caller, lambda: wanted, {}, once)
        except Exception as error:
            problem = as_problem(error)
            if problem is None:
                raise
            told = problem.told(self._language)
            # It may name what they have. In the place of what says that it is being thought about, only that.
            self._voice.alone(words.within(f"{told.title} {told.hint}"), said_there=True)
            return
        runtime().writer.do(partial(turn, self._chat, self._said, self._said.thread, found.id, self._heard.key))
        self._follow_up(found.id, caller)

    def _follow_up(self, key: str, caller: Caller) -> None:
        """Waits for the end, and tells it."""
        live, until = runtime(), time.monotonic() + _WAIT_S
        while live.inquiries.is_open(key) and time.monotonic() < until:
            if self._ended.wait(_LOOK_S):
                return
        stored = self._earlier(key, caller)
        if stored is None:
            self._voice.say("chat-nothing-before")
        elif stored.state not in ("ended", "held"):
            self._voice.post(say(self._language, "chat-takes-long"), link=link_to(key))
        else:
            tell(self._voice, stored, caller)
