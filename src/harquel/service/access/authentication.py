"""Who is calling: a bearer token (RFC 6750), or the console's session cookie with CSRF protection."""

from __future__ import annotations

import datetime as dt
from contextlib import suppress

from django.conf import settings
from django.db import OperationalError
from django.http import HttpRequest
from django.utils import timezone
from drf_spectacular.extensions import OpenApiAuthenticationExtension
from rest_framework import exceptions
from rest_framework.authentication import BaseAuthentication, CSRFCheck
from rest_framework.request import Request

from .models import Token
from .secrets import digest

SESSION_KEY = "token"
_USED_EVERY = dt.timedelta(minutes=1)


def bearer(request: Request | HttpRequest) -> tuple[str, str]:
    """The kind of the credentials in the header, and those; both empty where there are none."""
    kind, _, secret = request.headers.get("authorization", "").partition(" ")
    return kind, secret.strip()


def shown_by(request: HttpRequest) -> str:
    """What tells callers apart before anybody knows who they are: the secret or the session that is taken as theirs.

    However else it is written, it is the same; callers who show none are one.
    """
    kind, secret = bearer(request)
    return digest(secret) if kind or secret else digest(request.COOKIES.get(settings.SESSION_COOKIE_NAME, ""))


class TokenOrSession(BaseAuthentication):
    """REST framework's hook; the "user" of a request is its Token."""

    def authenticate(self, request: Request) -> tuple[Token, None] | None:
        """The token, or None where no credentials were sent. Raises AuthenticationFailed for wrong ones."""
        kind, secret = bearer(request)
        if kind or secret:
            if kind.lower() != "bearer":
                raise exceptions.AuthenticationFailed(code="other_scheme")
            return self._known(Token.living().filter(digest=digest(secret))), None
        token_id = request._request.session.get(SESSION_KEY)
        if token_id is None:
            return None
        token = self._known(Token.living().filter(pk=token_id))
        check_csrf(request._request)
        return token, None

    def authenticate_header(self, request: Request) -> str:
        """Makes the framework answer 401 rather than 403."""
        return "Bearer"

    @staticmethod
    def _known(found) -> Token:  # type: ignore[no-untyped-def]
        token = found.select_related("person").first()
        if token is None:
            raise exceptions.AuthenticationFailed(code="token_unknown")
        now = timezone.now()
        if token.last_used_at is None or now - token.last_used_at > _USED_EVERY:
            # Reading goes on where the records cannot be written.
            with suppress(OperationalError):
                Token.objects.filter(pk=token.pk).update(last_used_at=now)
        return token


class TokenOrSessionScheme(OpenApiAuthenticationExtension):  # type: ignore[no-untyped-call]
    """How the API's document describes it."""

    target_class = TokenOrSession
    name = ["bearer", "session"]

    def get_security_definition(self, auto_schema: object) -> list[dict[str, str]]:
        """Either of the two is enough."""
        return [
            {"type": "http", "scheme": "bearer"},
            {"type": "apiKey", "in": "cookie", "name": "harquel_session"},
        ]


def check_csrf(request: HttpRequest) -> None:
    """Raises PermissionDenied for a write that does not carry the console's CSRF token."""
    check = CSRFCheck(lambda _: None)
    check.process_request(request)
    reason = check.process_view(request, None, (), {})
    if reason:
        raise exceptions.PermissionDenied(code="csrf")
