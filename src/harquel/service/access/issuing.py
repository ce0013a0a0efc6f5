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


def issue_token(request: TokenRequest, by: str) -> TokenCreated:
    """Runs inside the writer. The secret is in the result and nowhere else."""
    secret = new_secret()
    person = person_called(request.person)
    ends = timezone.now() + dt.timedelta(days=request.days) if request.days is not None else None
    token = Token.objects.create(
        person=person,
        name=request.name.strip(),
        digest=digest(secret),
        sources=request.sources,
        scopes=[*request.scopes],
        roles=request.roles,
        values=request.values,
        expires_at=ends,
    )
    made = events.TokenMade(
        token=token.pk, name=token.name, person=person.name, sources=request.sources, scopes=[*request.scopes],
        roles=request.roles, expires_at=ends.isoformat() if ends is not None else None, person_id=person.pk,
        rights=rights(request.scopes, request.sources, request.roles, token.values, token.digest),
    )  # fmt: skip
    append(who=by, what=made)
    return TokenCreated(**token_shape(token).model_dump(), secret=secret)
