"""A token that counts no more: it stops working at once and stays in the ledger."""

from __future__ import annotations

from django.utils import timezone

from harquel.contract import events
from harquel.service.access.caller import Caller
from harquel.service.errors import not_found
from harquel.service.ledger.append import append
from harquel.service.operations import Call, Nothing, Subject, operation
from harquel.service.runtime import runtime

from ..models import Token


def _find(key: str, _: Caller) -> Token:
    found = Token.objects.filter(pk=int(key)).first()
    if found is None:
        raise not_found("problem-unknown-token", key)
    return found


@operation(
    "token.revoke", takes=Nothing, scope="admin", about=Subject("token", "token_id", _find, "anybody's"),
    repeat="same", entries=("token-revoked",),
)  # fmt: skip
def revoke_token(call: Call[Nothing, Token]) -> None:
    """Revokes it."""

    def revoke() -> None:
        token = Token.objects.get(pk=call.about.pk)
        if token.revoked_at is None:
            token.revoked_at = timezone.now()
            token.save(update_fields=["revoked_at"])
            append(who=call.caller.name, what=events.TokenRevoked(token=token.pk, name=token.name))

    runtime().writer.do(revoke)
