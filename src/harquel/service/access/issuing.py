"""Makes a token for a person, who is made along with it when new."""

from __future__ import annotations

import datetime as dt

from django.utils import timezone

from harquel.contract import TokenCreated, TokenRequest, events
from harquel.service.ledger.append import append
from harquel.service.ledger.digests import rights

from .models import Token, person_called
from .secrets import digest, new_secret
from .shapes import token_shape


def issue_token(
    request: TokenRequest, by: str, within: dt.timedelta | None = None, parent: int | None = None
) -> TokenCreated:
    """Runs inside the writer. The secret is in the result and nowhere else. `within`, `parent`: of a visit, how long it
    lasts, and the token that has begun it.
    """
    secret = new_secret()
    person = person_called(request.person)
    lasts = within or (dt.timedelta(days=request.days) if request.days is not None else None)
    ends = timezone.now() + lasts if lasts is not None else None
    token = Token.objects.create(
        person=person,
        name=request.name.strip(),
        digest=digest(secret),
        sources=request.sources,
        scopes=[*request.scopes],
        roles=request.roles,
        values=request.values,
        expires_at=ends,
        parent_id=parent,
    )
    made = events.TokenMade(
        token=token.pk, name=token.name, person=person.name, sources=request.sources, scopes=[*request.scopes],
        roles=request.roles, expires_at=ends.isoformat() if ends is not None else None, person_id=person.pk,
        parent=parent, rights=rights(request.scopes, request.sources, request.roles, token.values, token.digest),
    )  # fmt: skip
    append(who=by, what=made)
    return TokenCreated(**token_shape(token).model_dump(), secret=secret)
