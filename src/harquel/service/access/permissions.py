"""What a token may do."""

from __future__ import annotations

from typing import TYPE_CHECKING

from rest_framework import exceptions
from rest_framework.permissions import BasePermission
from rest_framework.request import Request

from .models import Token

if TYPE_CHECKING:  # the framework loads this class while its views are being loaded
    from rest_framework.views import APIView


class HasScope(BasePermission):
    """A view names the scope it needs as `scope`, or one per method in `scopes`; None: any token."""

    def has_permission(self, request: Request, view: APIView) -> bool:
        """Raises NotAuthenticated or PermissionDenied with the scope that is missing."""
        if not isinstance(request.user, Token):
            raise exceptions.NotAuthenticated("This needs a token.")
        scope = getattr(view, "scopes", {}).get(request.method, getattr(view, "scope", None))
        if scope is not None and scope not in request.user.scopes:
            raise exceptions.PermissionDenied(f"This needs a token with the scope “{scope}”.")
        return True
