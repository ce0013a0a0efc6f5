"""Sources over HTTP."""

from __future__ import annotations

from drf_spectacular.utils import extend_schema
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from harquel.contract import CatalogShape, ReviewRequest, ReviewShape, SourceLine, SourceLines
from harquel.service.inquiries.actions.ask import choose_source
from harquel.service.runtime import runtime

from .actions.review import review
from .shapes import catalog_shape, source_shape


class SourcesView(APIView):
    """All sources."""

    @extend_schema(operation_id="sources_list", responses=SourceLines)
    def get(self, request: Request) -> Response:
        """Those that the token may ask."""
        seen = [s for n, s in sorted(runtime().sources.items()) if request.user.sees(n)]
        return Response([source_shape(s).model_dump(mode="json") for s in seen])


class SourceView(APIView):
    """One source."""

    @extend_schema(responses=SourceLine)
    def get(self, request: Request, name: str) -> Response:
        """Its line, with starter questions."""
        return Response(source_shape(choose_source(name, request.user)).model_dump(mode="json"))


class CatalogView(APIView):
    """What a source holds."""

    @extend_schema(responses=CatalogShape)
    def get(self, request: Request, name: str) -> Response:
        """Exposed tables and columns with their notes."""
        return Response(catalog_shape(choose_source(name, request.user)).model_dump(mode="json"))


class ReviewsView(APIView):
    """Reviews of statements."""

    scope = "ask"

    @extend_schema(request=ReviewRequest, responses=ReviewShape)
    def post(self, request: Request, name: str) -> Response:
        """Says what guard and review make of a statement; nothing is run."""
        asked = ReviewRequest.model_validate(request.data)
        return Response(review(name, asked, request.user).model_dump(mode="json"))
