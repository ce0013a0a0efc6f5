"""A visit: a token for a short while, for a page within somebody's own."""

from __future__ import annotations

import datetime as dt
import hashlib
from typing import Final

from harquel.contract import TokenRequest, Visit, VisitRequest
from harquel.contract.figures import in_a_line
from harquel.service.errors import ProblemError
from harquel.service.operations import NO_SUBJECT, Call, operation
from harquel.service.runtime import runtime
from harquel.service.seldom import Seldom

from ..issuing import issue_token

_MOST_A_MINUTE: Final = 120
_begun: Final = Seldom(_MOST_A_MINUTE, 60)
"""Visits by one token."""


@operation(
    "visit.begin", takes=VisitRequest, gives=Visit, scope="ask", about=NO_SUBJECT, repeat="anew",
    entries=("token-created",), rule="sources, roles and values of one's own token; where the configuration embeds",
)  # fmt: skip
def begin_visit(call: Call[VisitRequest, None]) -> Visit:
    """Makes a token for a short while, in the name of a visitor of one's own program: it asks and reads what it asked,
    with the rights of one's own token for the sources named, and ends with that. Its secret is in this response only.
    """
    caller, wish, live = call.caller, call.asked, runtime()
    if live.config.embedding is None:
        raise ProblemError(409, "no-embedding", "problem-no-embedding")
    sources = sorted(caller.sources) if "*" in wish.sources else list(dict.fromkeys(wish.sources))
    beyond = [name for name in sources if not caller.sees(name) and name != "*"]
    if beyond:
        raise ProblemError(403, "not-allowed", "problem-visit-beyond", source=beyond[0])
    if not _begun.may(str(caller.token)):
        raise ProblemError(429, "too-many-visits", "problem-too-many-visits", {"Retry-After": "60"})
    _begun.happened(str(caller.token))
    # What is to be read, cut; by the digest no two are the same: names are here whatever their case and spaces, and
    # two tokens of one person may differ in rights.
    visitor = in_a_line(wish.visitor, 30)
    known = hashlib.sha256(f"{caller.token} {wish.visitor}".encode()).hexdigest()[:12]
    person = f"{visitor} {known} via {in_a_line(caller.name, 30)}"
    request = TokenRequest(
        name=f"visit of {visitor}"[:80], person=person, sources=sources, scopes=["ask"], roles=list(caller.roles),
        values=dict(caller.values), days=1,
    )  # fmt: skip
    within = dt.timedelta(minutes=wish.minutes)
    made = live.writer.do(lambda: issue_token(request, caller.name, within, caller.token))
    assert made.expires_at is not None
    return Visit(
        token=made.secret, person=made.person, sources=made.sources, expires_at=made.expires_at,
        page=f"{live.config.reached_at}/embed",
    )  # fmt: skip
