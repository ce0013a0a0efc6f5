"""Revokes a token: it stops working at once and stays in the ledger."""

from __future__ import annotations

from django.utils import timezone

from harquel.service.ledger.append import append
from harquel.service.problems import not_found

from ..models import Token


def revoke_token(token_id: int, by: str) -> None:
    """Runs inside the writer. Revoking twice changes nothing. Raises ProblemError when there is none."""
    token = Token.objects.filter(pk=token_id).first()
    if token is None:
        raise not_found("token", str(token_id), "List them with “harquel token list”.")
    if token.revoked_at is None:
        token.revoked_at = timezone.now()
        token.save(update_fields=["revoked_at"])
        append(who=by, kind="token-revoked", facts={"token": token.pk, "name": token.name})
