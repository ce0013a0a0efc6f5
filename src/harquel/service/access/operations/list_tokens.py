"""All tokens."""

from __future__ import annotations

from harquel.contract import Tokens
from harquel.service.operations import NO_SUBJECT, Call, Nothing, operation

from ..models import Token
from ..shapes import token_shape


@operation("token.list", takes=Nothing, gives=Tokens, scope="admin", about=NO_SUBJECT)
def list_tokens(_: Call[Nothing, None]) -> Tokens:
    """Every token, revoked ones too, without secrets."""
    return Tokens([token_shape(t) for t in Token.objects.select_related("person").order_by("pk")])
