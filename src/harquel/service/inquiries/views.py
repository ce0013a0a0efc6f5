"""Inquiries over HTTP: asking, waiting, listing, stopping."""

from __future__ import annotations

import difflib
from typing import get_args

from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from harquel.contract import Inquiry, InquiryPage, InquiryRequest, ReleaseRequest
from harquel.contract.inquiry import Outcome, State
from harquel.service.access.models import Token
from harquel.service.idempotency import REPEATED, Once
from harquel.service.pages import page
from harquel.service.problems import ProblemError
from harquel.service.runtime import runtime

from .actions.ask import ask
from .actions.cancel import cancel
from .actions.find import find_inquiry, visible_inquiries
from .actions.release import release
from .shapes import inquiry_shape, line_shape
from .waiting import WAIT_HEADER


class InquiriesView(APIView):
    """Asking, and the list of what was asked."""

    scopes = {"POST": "ask"}

    @extend_schema(
        operation_id="inquiries_list",
        responses=InquiryPage,
        parameters=[OpenApiParameter(n, str) for n in ("cursor", "limit", "source", "outcome", "state")],
    )
    def get(self, request: Request) -> Response:
        """A page of inquiries, newest first: one's own, or all with the scope audit."""
        found = visible_inquiries(request.user)
        for name in ("source", "outcome", "state"):
            wanted = request.query_params.get(name)
            if wanted:
                _known(name, wanted, request.user)
                found = found.filter(**{name: wanted})
        return Response(page(request, found, lambda s: line_shape(s).model_dump(mode="json")))

    @extend_schema(request=InquiryRequest, responses={201: Inquiry})
    def post(self, request: Request) -> Response:
        """Asks a question. With `wait_s` the response waits that long for the end."""
        once = Once.of(request)
        asked = InquiryRequest.model_validate(request.data)
        key = ask(asked, request.user, once)
        shape = inquiry_shape(find_inquiry(key, request.user)).model_dump(mode="json")
        headers = {"Location": f"/api/v1/inquiries/{key}"}
        if once.repeated:
            headers[REPEATED] = "true"
        if asked.wait_s:
            headers[WAIT_HEADER] = f"{key} {asked.wait_s}"
        return Response(shape, status=201, headers=headers)


def _known(name: str, wanted: str, token: Token) -> None:
    """Raises ProblemError for what no inquiry can have, with the nearest that one can."""
    known = {"outcome": get_args(Outcome), "state": get_args(State)}.get(name)
    if known is None:
        # Sources that are gone are still asked about: what was asked of them stays.
        asked = visible_inquiries(token).values_list("source", flat=True).distinct()
        known = tuple(sorted({*(n for n in runtime().sources if token.sees(n)), *asked}))
    if wanted in known:
        return
    near = difflib.get_close_matches(wanted, known, n=1)
    hint = f"Did you mean {near[0]}?" if near else f"Known: {', '.join(known) or 'none'}."
    raise ProblemError(422, f"unknown-{name}", f"There is no {name} {wanted!r}.", hint)


class InquiryView(APIView):
    """One inquiry."""

    @extend_schema(responses=Inquiry)
    def get(self, request: Request, key: str) -> Response:
        """The whole of it."""
        return Response(inquiry_shape(find_inquiry(key, request.user)).model_dump(mode="json"))


class CancelView(APIView):
    """Stopping one."""

    scope = "ask"

    @extend_schema(request=None, responses={202: None})
    def post(self, request: Request, key: str) -> Response:
        """Asks for it to stop; it ends within a second."""
        cancel(key, request.user)
        return Response(status=202)


class ReleaseView(APIView):
    """Deciding on a held statement."""

    scope = "release"

    @extend_schema(request=ReleaseRequest, responses=Inquiry)
    def post(self, request: Request, key: str) -> Response:
        """Lets it run, or ends it; who decided, and why, goes on record."""
        asked = ReleaseRequest.model_validate(request.data)
        release(key, asked, request.user)
        return Response(inquiry_shape(find_inquiry(key, request.user)).model_dump(mode="json"))
