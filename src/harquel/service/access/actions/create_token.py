"""Makes a token for a person, who is made along with it when new."""

from __future__ import annotations

from harquel.contract import TokenCreated, TokenRequest
from harquel.service.ledger.append import append

from ..models import Person, Token
from ..secrets import digest, new_secret
from ..shapes import token_shape


def create_token(request: TokenRequest, by: str) -> TokenCreated:
    """Runs inside the writer. The secret is in the result and nowhere else."""
    secret = new_secret()
    person, _ = Person.objects.get_or_create(name=request.person.strip())
    token = Token.objects.create(
        person=person,
        name=request.name.strip(),
        digest=digest(secret),
        sources=request.sources,
        scopes=request.scopes,
        roles=request.roles,
        values=request.values,
    )
    append(
        who=by,
        kind="token-created",
        facts={
            "token": token.pk, "name": token.name, "person": person.name,
            "sources": request.sources, "scopes": request.scopes, "roles": request.roles,
        },
    )  # fmt: skip
    return TokenCreated(**token_shape(token).model_dump(), secret=secret)
