"""Who am I, console sessions, tokens."""

from __future__ import annotations

from django.middleware.csrf import get_token, rotate_token
from drf_spectacular.utils import extend_schema
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from harquel.contract import Me, SessionRequest, TokenCreated, TokenRequest, Tokens
from harquel.service.idempotency import Once
from harquel.service.problems import ProblemError
from harquel.service.runtime import runtime

from .actions.create_token import create_token
from .actions.revoke_token import revoke_token
from .authentication import SESSION_KEY
from .models import Token
from .secrets import digest
from .shapes import me_shape, token_shape
from .throttle import Throttle


class MeView(APIView):
    """Who am I."""

    @extend_schema(responses=Me)
    def get(self, request: Request) -> Response:
        """The person and the rights behind the credentials."""
        if "authorization" not in request.headers:
            get_token(request._request)
        return Response(me_shape(request.user).model_dump(mode="json"))


_sign_ins = Throttle()


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
                429, "too-many-tries", "Too many tokens were tried from here that are not known.",
                f"Try again in {wait_s} s.", {"Retry-After": str(wait_s)},
            )  # fmt: skip
        token = Token.living().select_related("person").filter(digest=digest(asked.token.strip())).first()
        if token is None:
            _sign_ins.failed(address)
            raise ProblemError(
                401, "not-authenticated", "The token is not known, or was revoked.",
                "Copy it again, or ask an administrator for a new one.", {"WWW-Authenticate": "Bearer"},
            )  # fmt: skip
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


class TokensView(APIView):
    """All tokens, and new ones."""

    scope = "admin"

    @extend_schema(responses=Tokens)
    def get(self, request: Request) -> Response:
        """Every token, revoked ones too, without secrets."""
        tokens = Token.objects.select_related("person").order_by("pk")
        return Response([token_shape(t).model_dump(mode="json") for t in tokens])

    @extend_schema(request=TokenRequest, responses={201: TokenCreated})
    def post(self, request: Request) -> Response:
        """Makes a token; its secret is in this response only."""
        once = Once.of(request)
        asked = TokenRequest.model_validate(request.data)

        def make() -> TokenCreated:
            if once.earlier() is not None:
                raise ProblemError(
                    409, "already-made", "This token was made before; its secret is shown once only.",
                    "Revoke it and make another if the secret is lost.",
                )  # fmt: skip
            made = create_token(asked, request.user.person.name)
            once.settle(f"token {made.id}")
            return made

        return Response(runtime().writer.do(make).model_dump(mode="json"), status=201)


class TokenView(APIView):
    """One token."""

    scope = "admin"

    @extend_schema(responses={204: None})
    def delete(self, request: Request, token_id: int) -> Response:
        """Revokes it."""
        runtime().writer.do(lambda: revoke_token(token_id, request.user.person.name))
        return Response(status=204)
