"""Sources over HTTP: list, connect, check, catalog, review."""

from __future__ import annotations

from drf_spectacular.utils import extend_schema
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from harquel.contract import (
    AccountRequest,
    AccountScript,
    CatalogShape,
    CheckShape,
    Removal,
    ReviewRequest,
    ReviewShape,
    SourceChange,
    SourceLine,
    SourceLines,
    SourceRequest,
)
from harquel.service.runtime import runtime

from .actions import check, connect
from .actions.find import source_for
from .actions.review import review
from .shapes import catalog_shape, source_shape


class SourcesView(APIView):
    """All sources."""

    scopes = {"POST": "steward"}

    @extend_schema(operation_id="sources_list", responses=SourceLines)
    def get(self, request: Request) -> Response:
        """Those that the token may ask."""
        seen = [s for n, s in sorted(runtime().sources.items()) if request.user.sees(n)]
        return Response([source_shape(s, "steward" in request.user.scopes).model_dump(mode="json") for s in seen])

    @extend_schema(request=SourceRequest, responses={201: SourceLine})
    def post(self, request: Request) -> Response:
        """Connects one; its first scan begins at once."""
        asked = SourceRequest.model_validate(request.data)
        return Response(source_shape(connect.connect(asked, request.user), True).model_dump(mode="json"), status=201)


class SourceView(APIView):
    """One source."""

    scopes = {"PATCH": "steward", "DELETE": "steward"}

    @extend_schema(responses=SourceLine)
    def get(self, request: Request, name: str) -> Response:
        """Its line, with starter questions."""
        found = source_for(name, request.user, disabled_too=True)
        return Response(source_shape(found, "steward" in request.user.scopes).model_dump(mode="json"))

    @extend_schema(request=SourceChange, responses=SourceLine)
    def patch(self, request: Request, name: str) -> Response:
        """Renames, switches on or off, or gives another password."""
        asked = SourceChange.model_validate(request.data)
        return Response(source_shape(connect.change(name, asked, request.user), True).model_dump(mode="json"))

    @extend_schema(responses=Removal)
    def delete(self, request: Request, name: str) -> Response:
        """Lets it go, and says what stays."""
        return Response(connect.remove(name, request.user).model_dump(mode="json"))


class CheckView(APIView):
    """The connection check."""

    scope = "steward"

    @extend_schema(request=None, responses=CheckShape)
    def post(self, request: Request, name: str) -> Response:
        """Goes step by step and says what is wrong and what to do."""
        return Response(check.check(name, request.user).model_dump(mode="json"))


class AccountView(APIView):
    """The script for an account that may only read."""

    scope = "steward"

    @extend_schema(request=AccountRequest, responses=AccountScript)
    def post(self, request: Request, name: str) -> Response:
        """SQL for an administrator; nothing is run."""
        asked = AccountRequest.model_validate(request.data or {})
        return Response(check.account_script(name, asked, request.user).model_dump(mode="json"))


class RotationView(APIView):
    """The key of stored passwords."""

    scope = "admin"

    @extend_schema(request=None, responses={200: dict})
    def post(self, request: Request) -> Response:
        """Encrypts every stored password with the newest key; makes one where keys lie in a file."""
        return Response({"passwords": connect.rotate(request.user)})


class CatalogView(APIView):
    """What a source holds."""

    @extend_schema(responses=CatalogShape)
    def get(self, request: Request, name: str) -> Response:
        """Exposed tables and columns with their notes; with ?whole=1 and the scope steward the others too."""
        source = source_for(name, request.user)
        whole = bool(request.query_params.get("whole")) and "steward" in request.user.scopes
        return Response(
            catalog_shape(source, source.keeper.current(), request.user.asker, whole).model_dump(mode="json")
        )


class ReviewsView(APIView):
    """Reviews of statements."""

    scope = "ask"

    @extend_schema(request=ReviewRequest, responses=ReviewShape)
    def post(self, request: Request, name: str) -> Response:
        """Says what guard and review make of a statement; nothing is run."""
        asked = ReviewRequest.model_validate(request.data)
        return Response(review(name, asked, request.user).model_dump(mode="json"))
