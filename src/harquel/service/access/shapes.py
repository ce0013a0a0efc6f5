"""From records to the shapes of the contract."""

from __future__ import annotations

from harquel.contract import Me
from harquel.contract import Token as TokenShape

from .models import Token


def token_shape(token: Token) -> TokenShape:
    """A token without its secret."""
    return TokenShape(
        id=token.pk,
        name=token.name,
        person=token.person.name,
        person_id=token.person_id,
        sources=token.sources,
        scopes=token.scopes,
        roles=token.roles,
        values=token.values,
        created_at=token.created_at,
        expires_at=token.expires_at,
        last_used_at=token.last_used_at,
        revoked_at=token.revoked_at,
    )


def me_shape(token: Token) -> Me:
    """Who the caller is."""
    return Me(
        person=token.person.name,
        person_id=token.person_id,
        token=token.name,
        scopes=token.scopes,
        sources=token.sources,
        roles=token.roles,
        values=token.values,
    )
