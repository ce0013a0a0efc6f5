"""All tokens."""

from __future__ import annotations

from django.db.models import Q

from harquel.contract import Tokens
from harquel.service.operations import NO_SUBJECT, Call, Nothing, operation

from ..models import Token
from ..shapes import token_shape


@operation("token.list", takes=Nothing, gives=Tokens, scope="admin", about=NO_SUBJECT)
def list_tokens(_: Call[Nothing, None]) -> Tokens:
    """Every token, revoked ones too, without secrets; of those for visits the ones that count."""
    visits = Q(pk__in=Token.living().exclude(parent=None).values("pk"))
    found = Token.objects.filter(Q(parent=None) | visits).select_related("person").order_by("pk")
    return Tokens([token_shape(token) for token in found])
