"""Who am I."""

from __future__ import annotations

from harquel.contract import Me
from harquel.service.operations import NO_SUBJECT, Call, Nothing, operation

from ..models import Token
from ..shapes import me_shape


@operation("me", takes=Nothing, gives=Me, about=NO_SUBJECT)
def me(call: Call[Nothing, None]) -> Me:
    """The person and the rights behind the credentials."""
    return me_shape(Token.objects.select_related("person").get(pk=call.caller.token))
