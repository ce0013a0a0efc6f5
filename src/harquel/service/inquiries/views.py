"""Inquiries over HTTP: asking, waiting, listing, stopping."""

from __future__ import annotations

import asyncio
import json
import time
from typing import Any

from asgiref.sync import sync_to_async
from django.http import HttpRequest, HttpResponseBase
from django.views.decorators.csrf import csrf_exempt
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from harquel.contract import Inquiry, InquiryPage, InquiryRequest, ReleaseRequest
from harquel.service.bus import END
from harquel.service.idempotency import Once
from harquel.service.pages import page
from harquel.service.runtime import runtime

from .actions.ask import ask
from .actions.cancel import cancel
from .actions.find import find_inquiry, visible_inquiries
from .actions.release import release
from .models import StoredInquiry
from .shapes import inquiry_shape, line_shape


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
            if request.query_params.get(name):
                found = found.filter(**{name: request.query_params[name]})
        return Response(page(request, found, lambda s: line_shape(s).model_dump(mode="json")))

    @extend_schema(request=InquiryRequest, responses={201: Inquiry})
    def post(self, request: Request) -> Response:
        """Asks a question. With `wait_s` the response waits that long for the end."""
        once = Once.of(request)
        asked = InquiryRequest.model_validate(request.data)
        key = ask(asked, request.user, once)
        shape = inquiry_shape(find_inquiry(key, request.user)).model_dump(mode="json")
        response = Response(shape, status=201, headers={"Location": f"/api/v1/inquiries/{key}"})
        response.wait_s = asked.wait_s
        return response


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


_sync_inquiries = InquiriesView.as_view()


@csrf_exempt
async def inquiries(request: HttpRequest) -> HttpResponseBase:
    """The same view, with the long wait in the event loop instead of a thread."""
    response: Any = await sync_to_async(_sync_inquiries)(request)
    wait_s = getattr(response, "wait_s", 0)
    if response.status_code == 201 and wait_s:
        key = response.data["id"]
        ended = await wait_for_end(key, wait_s)
        if ended is not None:
            response.content = json.dumps(ended).encode()
    return response


# What the schema generator looks for on a view.
inquiries.cls = InquiriesView
inquiries.initkwargs = {}
inquiries.view_class = InquiriesView


async def wait_for_end(key: str, wait_s: float) -> dict[str, Any] | None:
    """The ended inquiry, or None when it takes longer."""
    deadline = time.monotonic() + wait_s
    with runtime().bus.listening(key) as listener:
        while True:
            ended = await sync_to_async(_ended)(key)
            if ended is not None:
                return ended
            while True:
                left = deadline - time.monotonic()
                if left <= 0:
                    return None
                try:
                    # Pieces of text and single steps are of no interest here.
                    if await asyncio.wait_for(listener.get(), left) == END:
                        break
                except TimeoutError:
                    return await sync_to_async(_ended)(key)


def _ended(key: str) -> dict[str, Any] | None:
    if not StoredInquiry.objects.filter(key=key, state__in=("ended", "held")).exists():
        return None
    stored = StoredInquiry.objects.select_related("person", "result").get(key=key)
    return inquiry_shape(stored).model_dump(mode="json")
