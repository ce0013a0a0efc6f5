"""Sends a casebook on, as mail."""

from __future__ import annotations

import re
import secrets

from harquel.contract import CasebookSend, Sending, events
from harquel.contract.sending import ADDRESS
from harquel.core.answers.exports import File
from harquel.core.casebooks import as_text
from harquel.core.clock import utc_now
from harquel.core.language.say import say
from harquel.service.errors import ProblemError
from harquel.service.inquiries.for_others import for_others
from harquel.service.ledger.append import append
from harquel.service.operations import Call, operation
from harquel.service.outbox.letter import LARGEST, Envelope, enclosing
from harquel.service.outbox.models import StoredSending
from harquel.service.outbox.operations.send_on import MOST_WAITING
from harquel.service.outbox.shapes import sending_shape
from harquel.service.runtime import runtime
from harquel.service.sources.finding import source_for

from ..contents import Contents
from ..finding import OWN, newest
from ..models import StoredCasebook
from .taking import file_name, page_of


@operation(
    "casebook.send-on", takes=CasebookSend, about=OWN, scope="ask", gives=Sending, repeat="once",
    entries=("sent-on", "arrived", "not-arrived"),
    rule="to addresses that the policy of each of its sources names, for the roles that they name",
)  # fmt: skip
def send_casebook(call: Call[CasebookSend, StoredCasebook]) -> Sending:
    """Has a casebook of one's own mailed: its words in the letter, the whole of it as a page beside."""
    casebook, caller, to, live = call.about, call.caller, call.asked.to, runtime()
    if re.fullmatch(ADDRESS, to) is None:
        raise ProblemError(422, "no-address", "problem-no-address")
    contents = Contents(casebook, newest(casebook), caller, leaves=True)
    _must_go(contents, call, to)
    if live.carriers.to(to) is None or live.config.mail is None:
        raise ProblemError(409, "no-mail", "problem-no-mail", to=to)
    if StoredSending.objects.filter(person_id=caller.person, state="waiting").count() >= MOST_WAITING:
        raise ProblemError(429, "too-many-sendings", "problem-too-many-sendings", {"Retry-After": "60"})
    key, at, title, language = f"msg_{secrets.token_hex(12)}", utc_now(), contents.version.title, casebook.language
    link = f"{live.config.reached_at}/casebooks/{casebook.key}"
    about = Envelope(
        key, live.config.mail.sender, to, caller.name, at, link, title, say(language, "letter-casebook")
    )  # fmt: skip
    text = as_text(title, contents.line(), language, contents.parts(), contents.fill).decode()
    body = enclosing(about, language, text, File(f"{file_name(title)}.html", "text/html", page_of(contents)))
    if len(body) > LARGEST:
        raise ProblemError(413, "too-large", "problem-letter-too-large")
    keys = [one.stored.key for one in contents.held if one.stored is not None]

    def store() -> Sending:
        if (before := call.once.earlier()) is not None:
            return sending_shape(StoredSending.objects.select_related("person").get(key=before))
        made = StoredSending.objects.create(
            key=key, at=at, next_at=at, person_id=caller.person, inquiry="", casebook=casebook.key, also=keys,
            destination=to, body=body,
        )  # fmt: skip
        append(who=caller.name, what=events.SentOn(sending=key, destination=to))
        call.once.settle(key)
        return sending_shape(made)

    found = live.writer.do(store)
    live.outbox.wake()
    return found


def _must_go(contents: Contents, call: Call[CasebookSend, StoredCasebook], to: str) -> None:
    """Raises ProblemError where one of its answers may not go there, or there is none: then no policy would decide."""
    if all(held.stored is None for held in contents.held):
        raise ProblemError(409, "casebook-empty", "problem-casebook-empty")
    for held in contents.held:
        if held.stored is None:
            continue
        source = source_for(held.stored.source, call.caller)
        allowed = source.core.policy.sending
        if allowed is None or not allowed.lets_by(to, call.caller.roles):
            raise ProblemError(403, "not-sent-there", "problem-not-sent-there", to=to)
        if not allowed.personal and not for_others(held.stored, call.caller, source):
            raise ProblemError(403, "not-for-others", "problem-not-for-others")
