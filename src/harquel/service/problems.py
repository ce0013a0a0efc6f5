"""Every error that leaves over HTTP is put into its form here: problem details with a stable type and a hint."""

from __future__ import annotations

import sys
from typing import Any

import pydantic
from django.core.exceptions import RequestDataTooBig, SuspiciousOperation
from django.db import OperationalError
from django.http import Http404, HttpRequest, JsonResponse
from rest_framework import exceptions
from rest_framework.response import Response
from rest_framework.views import set_rollback

from harquel.contract import Problem
from harquel.core.errors import ComputingError, ConfigurationError, CoreError, SandboxError, SourceError
from harquel.service.errors import ProblemError, records_trouble
from harquel.service.masking import masked
from harquel.service.records.writer import why_not

MEDIA_TYPE = "application/problem+json"


def _from_validation(error: pydantic.ValidationError) -> Problem:
    faults = [{"field": ".".join(map(str, e["loc"])) or "body", "message": e["msg"]} for e in error.errors()]
    first = faults[0]
    return Problem(
        type="/problems/invalid-request",
        title=f"{first['field']}: {first['message']}.",
        status=422,
        hint="Correct the fields named in errors and send it again.",
        errors=faults,
    )


def _from_framework(error: exceptions.APIException) -> Problem:
    names = {
        400: ("malformed-request", "Send valid JSON with content-type application/json."),
        401: ("not-authenticated", "Send a valid token as “Authorization: Bearer …”, or sign in to the console."),
        403: (
            "not-allowed",
            "Ask an administrator for a token with that scope, or make one where the service runs: "
            "harquel token create --local --scope …",
        ),
        404: ("not-found", "Check the path."),
        405: ("method-not-allowed", "Check the method."),
        415: ("unsupported-media-type", "Send content-type application/json."),
    }
    name, hint = names.get(error.status_code, ("request-failed", ""))
    said = str(error.detail)
    if isinstance(error, exceptions.ParseError):
        title = "The body of the request is not valid JSON."
        return Problem(type=f"/problems/{name}", title=title, status=400, detail=said, hint=hint)
    return Problem(type=f"/problems/{name}", title=said, status=error.status_code, hint=hint)


def problem_for(error: Exception) -> tuple[Problem, dict[str, str]] | None:
    """The problem for an exception and headers to send along; None for what is a fault of ours."""
    if isinstance(error, ProblemError):
        return error.problem, error.headers
    if isinstance(error, pydantic.ValidationError):
        return _from_validation(error), {}
    if isinstance(error, Http404):
        return Problem(
            type="/problems/not-found", title="There is nothing here.", status=404, hint="Check the path."
        ), {}
    if isinstance(error, RequestDataTooBig):
        title = "The request is larger than a megabyte."
        return Problem(type="/problems/too-large", title=title, status=413, hint="Send less."), {}
    if isinstance(error, RecursionError):
        return _from_framework(exceptions.ParseError("it is nested too deeply")), {}
    if isinstance(error, exceptions.APIException):
        return _from_framework(error), {"WWW-Authenticate": "Bearer"} if error.status_code == 401 else {}
    if isinstance(error, SuspiciousOperation):
        title = "The request names a host that is not ours."
        return Problem(
            type="/problems/foreign-host",
            title=title,
            status=400,
            hint="Use the address that you were given; an operator adds others to service.hosts.",
        ), {}
    if isinstance(error, OperationalError):
        return records_trouble(why_not(error))
    if isinstance(error, SandboxError) and error.fault not in ("source", "worker", "still"):
        hint = error.hint or "Change the statement; the database and its connection are in order."
        title = f"The database did not carry the statement out: {error}."
        return Problem(type="/problems/statement-failed", title=title, status=422, hint=hint), {}
    if isinstance(error, SourceError | SandboxError):
        return Problem(type="/problems/source-unreachable", title=str(error), status=503, hint=error.hint), {}
    if isinstance(error, ComputingError):
        name, status = {"lost": ("conductor-lost", 503), "busy": ("too-busy", 429)}.get(
            error.fault, ("too-much-computing", 422)
        )
        headers = {"Retry-After": "5"} if error.fault == "busy" else {}
        return Problem(type=f"/problems/{name}", title=str(error), status=status, hint=error.hint), headers
    if isinstance(error, ConfigurationError):
        return Problem(type="/problems/not-usable", title=str(error), status=422, hint=error.hint), {}
    if isinstance(error, CoreError):
        return Problem(type="/problems/failed", title=str(error), status=500, hint=error.hint), {}
    return None


def handle(error: Exception, context: dict[str, Any]) -> Response | None:
    """REST framework's hook."""
    found = problem_for(error)
    if found is None:
        return None
    set_rollback()
    problem, headers = found
    problem = problem.model_copy(update={"title": masked(problem.title), "hint": masked(problem.hint)})
    return Response(problem.model_dump(), status=problem.status, headers=headers, content_type=MEDIA_TYPE)


def respond(problem: Problem, headers: dict[str, str] | None = None) -> JsonResponse:
    """The same for plain Django views."""
    return JsonResponse(problem.model_dump(), status=problem.status, headers=headers, content_type=MEDIA_TYPE)


def nothing_here(request: HttpRequest, exception: Exception | None = None) -> JsonResponse:
    """Django's handler404."""
    return respond(
        Problem(type="/problems/not-found", title="There is nothing here.", status=404, hint="Check the path.")
    )


def broken(request: HttpRequest) -> JsonResponse:
    """Django's handler500; the log has the details."""
    error = sys.exc_info()[1]
    if isinstance(error, OperationalError):
        return respond(*records_trouble(why_not(error)))
    title = "Something broke on our side."
    return respond(
        Problem(
            type="/problems/internal", title=title, status=500, hint="The service's log says what; tell the operator."
        )
    )


def csrf_failure(request: HttpRequest, reason: str = "") -> JsonResponse:
    """A write by session cookie without the CSRF token."""
    title = "The request did not come from the console."
    return respond(Problem(type="/problems/csrf", title=title, status=403, hint="Reload the console and try again."))
