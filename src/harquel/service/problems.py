"""Every error that leaves over HTTP is put into its form here: problem details with a stable type and a hint."""

from __future__ import annotations

import sys
from collections.abc import Mapping
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
from harquel.core.language.say import said_as
from harquel.service.errors import MEDIA_TYPE, ProblemError, records_trouble, spoken
from harquel.service.masking import masked
from harquel.service.records.writer import why_not

_OF_FRAMEWORK = {
    401: "not-authenticated", 403: "not-allowed", 404: "not-found", 405: "method-not-allowed",
    415: "unsupported-media-type",
}  # fmt: skip
_BY_CODE = {
    "not_authenticated": "problem-token-needed", "other_scheme": "problem-other-scheme",
    "token_unknown": "problem-token-unknown", "csrf": "problem-csrf",
}  # fmt: skip
"""What is said by the code of the framework's exception, where its own words would be in English only."""


def _from_validation(error: pydantic.ValidationError) -> ProblemError:
    faults = [{"field": ".".join(map(str, e["loc"])) or "body", "message": e["msg"]} for e in error.errors()]
    first, field = error.errors()[0], faults[0]["field"]
    fault = _fault(first["type"], first.get("ctx", {})) or faults[0]["message"]
    made = ProblemError(422, "invalid-request", "problem-invalid-field", field=field, fault=fault)
    return made.with_more(errors=faults)


def _fault(kind: str, about: Mapping[str, Any]) -> str:
    """What is commonly wrong with a field; empty for what only programs send."""
    limit = next((about[name] for name in ("max_length", "min_length", "le", "ge") if name in about), "")
    match kind:
        case "missing":
            return said_as("fault-missing")
        case "extra_forbidden":
            return said_as("fault-unknown")
        case "string_too_long":
            return said_as("fault-too-long", limit=str(limit))
        case "string_too_short":
            return said_as("fault-too-short", limit=str(limit))
        case "less_than_equal":
            return said_as("fault-too-much", limit=str(limit))
        case "greater_than_equal":
            return said_as("fault-too-little", limit=str(limit))
        case _:
            return ""


def _from_framework(error: exceptions.APIException) -> ProblemError:
    said = str(error.detail)
    if isinstance(error, exceptions.ParseError):
        return ProblemError(400, "malformed-request", "problem-malformed-request").with_more(detail=said)
    name = _OF_FRAMEWORK.get(error.status_code)
    if name is None:
        return ProblemError.saying(error.status_code, "request-failed", said)
    headers = {"WWW-Authenticate": "Bearer"} if error.status_code == 401 else {}
    message = _BY_CODE.get(str(error.get_codes()), f"problem-{name}")
    return ProblemError(error.status_code, name, message, headers, said=said)


def as_problem(error: Exception) -> ProblemError | None:
    """The problem that an exception is for whoever called; None for what is a fault of ours."""
    if isinstance(error, ProblemError):
        return error
    if isinstance(error, pydantic.ValidationError):
        return _from_validation(error)
    if isinstance(error, Http404):
        return ProblemError(404, "not-found", "problem-nothing-here")
    if isinstance(error, RequestDataTooBig):
        return ProblemError(413, "too-large", "problem-too-large")
    if isinstance(error, RecursionError):
        return _from_framework(exceptions.ParseError("it is nested too deeply"))
    if isinstance(error, exceptions.APIException):
        return _from_framework(error)
    if isinstance(error, SuspiciousOperation):
        return ProblemError(400, "foreign-host", "problem-foreign-host")
    if isinstance(error, OperationalError):
        return records_trouble(why_not(error))
    return _from_core(error) if isinstance(error, CoreError) else None


def _from_core(error: CoreError) -> ProblemError:
    if isinstance(error, SandboxError) and error.fault not in ("source", "worker", "still"):
        made = ProblemError(422, "statement-failed", "problem-statement-failed", why=error.said)
        return made if not error.hint else made.with_hint(error.hint)
    name, status, headers = "failed", 500, dict[str, str]()
    if isinstance(error, SourceError | SandboxError):
        name, status = "source-unreachable", 503
    elif isinstance(error, ComputingError):
        name, status = {"lost": ("conductor-lost", 503), "busy": ("too-busy", 429)}.get(
            error.fault, ("too-much-computing", 422)
        )
        headers = {"Retry-After": "5"} if error.fault == "busy" else {}
    elif isinstance(error, ConfigurationError):
        name, status = "not-usable", 422
    return ProblemError.saying(status, name, error.said, error.hint, headers)


def _told(problem: ProblemError, headers: Mapping[str, str]) -> Problem:
    told = problem.told(spoken(headers))
    return told.model_copy(update={"title": masked(told.title), "hint": masked(told.hint)})


def handle(error: Exception, context: dict[str, Any]) -> Response | None:
    """REST framework's hook."""
    problem = as_problem(error)
    if problem is None:
        return None
    set_rollback()
    told = _told(problem, context["request"].headers)
    return Response(told.model_dump(), status=told.status, headers=problem.headers, content_type=MEDIA_TYPE)


def respond(problem: ProblemError, request: HttpRequest) -> JsonResponse:
    """The same for plain Django views."""
    told = _told(problem, request.headers)
    return JsonResponse(told.model_dump(), status=told.status, headers=problem.headers, content_type=MEDIA_TYPE)


def nothing_here(request: HttpRequest, exception: Exception | None = None) -> JsonResponse:
    """Django's handler404."""
    return respond(ProblemError(404, "not-found", "problem-nothing-here"), request)


def broken(request: HttpRequest) -> JsonResponse:
    """Django's handler500; the log has the details."""
    error = sys.exc_info()[1]
    if isinstance(error, OperationalError):
        return respond(records_trouble(why_not(error)), request)
    return respond(ProblemError(500, "internal", "problem-internal"), request)


def csrf_failure(request: HttpRequest, reason: str = "") -> JsonResponse:
    """A write by session cookie without the CSRF token."""
    return respond(ProblemError(403, "csrf", "problem-csrf"), request)
