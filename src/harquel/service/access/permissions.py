"""What a request needs before anything else is looked at: a token, and something that can be done there."""

from __future__ import annotations

from typing import Any

from rest_framework import exceptions
from rest_framework.permissions import BasePermission
from rest_framework.request import Request

from .models import Token


class OperationsOnly(BasePermission):
    """A view that names no operation (`ways`, see operations/http.py) has no rule, and is closed."""

    # The framework loads this class while its views are being loaded: nothing of them is imported here.
    def has_permission(self, request: Request, view: Any) -> bool:
        """Raises NotAuthenticated without a token."""
        if not isinstance(request.user, Token):
            raise exceptions.NotAuthenticated
        return bool(getattr(view, "ways", None))
