"""Console sign-in and out: what there is to say to cookies. Everything else is an operation."""

from __future__ import annotations

from typing import Any

from django.middleware.csrf import get_token, rotate_token
from drf_spectacular.utils import extend_schema
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from harquel.contract import Me, SessionRequest
from harquel.service.errors import ProblemError

from .authentication import SESSION_KEY
from .models import Token
from .secrets import digest
from .shapes import me_shape
from .throttle import Throttle

_sign_ins = Throttle()


def csrf_cookie(request: Request, *_: Any) -> None:
    """The console's token against forged requests, for whoever came by a cookie."""
    if "authorization" not in request.headers:
        get_token(request._request)


class SessionView(APIView):
    """Console sign-in and out."""

    authentication_classes = ()
    permission_classes = ()

    @extend_schema(request=SessionRequest, responses=Me)
    def post(self, request: Request) -> Response:
        """Exchanges a token for a session cookie."""
        asked = SessionRequest.model_validate(request.data)
        address = request.META.get("REMOTE_ADDR", "")
        wait_s = _sign_ins.wait_s(address)
        if wait_s:
            raise ProblemError(
                429, "too-many-tries", "problem-too-many-tries", {"Retry-After": str(wait_s)}, seconds=wait_s
            )
        token = Token.living().select_related("person").filter(parent=None, digest=digest(asked.token.strip())).first()
        if token is None:
            _sign_ins.failed(address)
            raise ProblemError(401, "not-authenticated", "problem-token-not-known", {"WWW-Authenticate": "Bearer"})
        request._request.session.cycle_key()
        request._request.session[SESSION_KEY] = token.pk
        rotate_token(request._request)
        get_token(request._request)
        return Response(me_shape(token).model_dump(mode="json"))

    @extend_schema(request=None, responses={204: None})
    def delete(self, request: Request) -> Response:
        """Ends the session."""
        request._request.session.flush()
        return Response(status=204)
