"""Where the messages of a chat come in: a signature that counts, once each, stored before they are said to be taken.

What must hold: nothing is looked at before its signature is; a message that comes again, by whomever, does nothing.
"""

from __future__ import annotations

import time
from typing import Final

from django.core.exceptions import RequestDataTooBig
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.views.decorators.csrf import csrf_exempt
from django.views.decorators.http import require_POST

from harquel.core.clock import utc_now
from harquel.service.errors import ProblemError
from harquel.service.outbox.signing import genuine
from harquel.service.problems import respond
from harquel.service.runtime import runtime

from .models import StoredHeard

LARGEST: Final = 64_000
"""Bytes of a message."""
MOST_WAITING: Final = 500
"""Messages that wait to be seen to."""


@csrf_exempt
@require_POST
def hear(request: HttpRequest, name: str) -> HttpResponse:
    """One message. 202: it is seen to; 200: it was heard before, or is nothing to reply to."""
    live = runtime()
    chat = live.chats.get(name)
    try:
        large = len(request.body) > LARGEST
    except RequestDataTooBig:
        large = True
    if large:
        return respond(ProblemError(413, "too-large", "problem-too-large"), request)
    headers = {k.lower(): v for k, v in request.headers.items()}
    key = genuine(chat.secret, headers, request.body, time.time()) if chat is not None else None
    if chat is None or key is None:
        # Which chats there are is nobody's business who cannot sign.
        return respond(ProblemError(401, "not-signed", "problem-not-signed"), request)
    try:
        said = chat.form.read(request.body)
    except (ValueError, RecursionError):
        return respond(ProblemError(422, "malformed-request", "problem-not-a-message"), request)
    if said is None or said.automated:
        return JsonResponse({"state": "nothing to reply to"})
    if StoredHeard.objects.filter(state="waiting").count() >= MOST_WAITING:
        return respond(ProblemError(503, "too-busy", "problem-chat-busy", {"Retry-After": "30"}), request)
    now, body = utc_now(), request.body

    def store() -> bool:
        # By either id: what is told again in a new envelope is the same message.
        keys = {key, f"said {said.key}"[:200]}
        if StoredHeard.objects.filter(chat=name, key__in=keys).exists():
            return False
        waits = {"chat": name, "theirs": said.person, "at": now, "next_at": now}
        StoredHeard.objects.create(key=key, body=b"", state="done", **waits)
        StoredHeard.objects.create(key=f"said {said.key}"[:200], body=body, **waits)
        return True

    if not live.writer.do(store):
        return JsonResponse({"state": "heard before"})
    live.inbox.wake()
    return JsonResponse({"state": "taken"}, status=202)
