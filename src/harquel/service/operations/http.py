"""Operations over HTTP: who calls is read from the request, what is asked from its body or query, and nothing else is
decided here.
"""

from __future__ import annotations

import asyncio
import hashlib
from collections.abc import AsyncIterator, Callable, Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from django.http import HttpResponse, HttpResponseBase, StreamingHttpResponse
from django.urls import URLPattern, path
from django.utils.http import content_disposition_header
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from pydantic import BaseModel
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from harquel.core.answers.exports.file import File, Pieces
from harquel.service.access.caller import Caller
from harquel.service.errors import ProblemError
from harquel.service.idempotency import LONGEST, REPEATED, Once
from harquel.service.sentences import sentences

from .operation import Call, Nothing, Operation, perform

Adds = Callable[[Request, Response, Call[Any, Any], Any], None]


@dataclass(frozen=True)
class Way:
    """An operation as HTTP shows it: the status of what comes of it, and what HTTP alone adds to the response."""

    operation: Operation[Any, Any, Any]
    status: int = 200
    adds: Adds | None = None
    files: bool = False
    """Whether files come of it, of the media type that each is of."""


class OperationView(APIView):
    """The operations of one address. `ways` are methods of HTTP to what they do."""

    ways: Mapping[str, Way] = {}


def routes(table: Mapping[str, Mapping[str, Operation[Any, Any, Any] | Way]]) -> list[URLPattern]:
    """The part of a URL table for addresses and what each method does there."""
    made = []
    for address, named in table.items():
        ways = {method: way if isinstance(way, Way) else Way(way) for method, way in named.items()}
        methods = {method.lower(): _method(method, way) for method, way in ways.items()}
        # What is not declared is not there, OPTIONS neither; HEAD is a GET without its body.
        names = [*methods, *(["head"] if "get" in methods else [])]
        inside = {"ways": ways, "http_method_names": names, "__doc__": None, **methods}
        view: type[OperationView] = type("OperationView", (OperationView,), inside)
        made.append(path(address, view.as_view()))
    return made


def document_name(wanted: Operation[Any, Any, Any]) -> str:
    """What the API's document calls it."""
    return wanted.name.replace(".", "_")


def _method(method: str, way: Way) -> Callable[..., HttpResponseBase]:
    wanted = way.operation

    def handle(_: OperationView, request: Request, **at: Any) -> HttpResponseBase:
        def asked() -> Mapping[str, Any]:
            if wanted.takes is Nothing:
                return {}
            sent: Mapping[str, Any] = request.query_params.dict() if method == "GET" else request.data
            return sent

        once = _once(request) if wanted.repeat == "once" else None
        call, given = perform(wanted, Caller.of(request.user), asked, at, once)
        if isinstance(given, File | Pieces):
            return _file(given)
        body = given.model_dump(mode="json") if isinstance(given, BaseModel) else None
        response = Response(body, status=way.status)
        if call.once.repeated:
            response[REPEATED] = "true"
        if way.adds is not None:
            way.adds(request, response, call, given)
        return response

    takes = None if wanted.takes is Nothing else wanted.takes
    described = extend_schema(
        operation_id=document_name(wanted),
        description=wanted.says,
        request=takes if method != "GET" else None,
        parameters=_parameters(takes) if method == "GET" and takes is not None else [],
        responses={(way.status, "*/*"): OpenApiTypes.BINARY} if way.files else {way.status: wanted.gives},
    )
    made: Callable[..., HttpResponseBase] = described(handle)
    return made


def _file(file: File | Pieces) -> HttpResponseBase:
    """To be kept, not shown: what is in it is nobody's page of this place."""
    response: HttpResponseBase
    if isinstance(file, File):
        response = HttpResponse(file.content, content_type=file.media_type)
    else:
        response = StreamingHttpResponse(_one_by_one(file.pieces), content_type=file.media_type)
    response["Content-Disposition"] = content_disposition_header(True, file.name)
    response["X-Content-Type-Options"] = "nosniff"
    return response


async def _one_by_one(pieces: Iterator[bytes]) -> AsyncIterator[bytes]:
    """Each is made in a thread once the one before it has left: nobody waits for it, and nothing piles up."""
    loop, over = asyncio.get_running_loop(), b""
    while piece := await loop.run_in_executor(None, next, pieces, over):
        yield piece


def _parameters(query: type[BaseModel]) -> list[OpenApiParameter]:
    said = {field: text for base in reversed(query.__mro__) for field, text in sentences(base).items()}
    return [OpenApiParameter(name, str, description=said.get(name, "")) for name in query.model_fields]


def _once(request: Request) -> Once:
    """From the header. Call before the body is parsed. Raises ProblemError for a key too long."""
    key = request.headers.get("idempotency-key")
    if key is not None and not 0 < len(key) <= LONGEST:
        raise ProblemError(422, "invalid-key", "problem-key-too-long", most=LONGEST)
    body = request._request.path.encode() + b"\n" + request._request.body
    return Once(request.user.pk, key, hashlib.sha256(body).hexdigest())
