"""Health, readiness and metrics, outside the API's prefix and without a token."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse, JsonResponse
from prometheus_client import CONTENT_TYPE_LATEST, generate_latest
from rest_framework.exceptions import APIException
from rest_framework.request import Request

from harquel.service import metrics
from harquel.service.access.authentication import TokenOrSession
from harquel.service.errors import ProblemError
from harquel.service.problems import respond
from harquel.service.runtime import runtime


def _may_audit(request: HttpRequest) -> bool:
    try:
        found = TokenOrSession().authenticate(Request(request))
    except APIException:
        return False
    return found is not None and "audit" in found[0].scopes


def healthz(request: HttpRequest) -> JsonResponse:
    """The process answers."""
    return JsonResponse({"status": "ok"})


def readyz(request: HttpRequest) -> JsonResponse:
    """The records can be read and written, so that inquiries are taken."""
    live = runtime()
    trouble = live.probe.trouble()
    if trouble:
        return JsonResponse({"status": "not-ready", "reason": f"The records cannot be written: {trouble}."}, status=503)
    resting = sum(model.breaker.look().state != "closed" for model in live.duties.models.values())
    found = {"under_way": live.inquiries.pool.under_way(), "sources": len(live.sources), "models_resting": resting}
    return JsonResponse({"status": "ready", **found})


def metrics_page(request: HttpRequest) -> HttpResponse:
    """In the Prometheus text form; which sources there are is told to this machine and to auditors only."""
    # What a proxy hands on comes from this machine too, but says so.
    here = request.META.get("REMOTE_ADDR") in ("127.0.0.1", "::1") and "x-forwarded-for" not in request.headers
    if not here and not _may_audit(request):
        return respond(
            ProblemError(401, "not-authenticated", "problem-audit-needed", {"WWW-Authenticate": "Bearer"}), request
        )
    live = runtime()
    metrics.UNDER_WAY.set(live.inquiries.pool.under_way())
    metrics.models(live.duties.models)
    return HttpResponse(generate_latest(), content_type=CONTENT_TYPE_LATEST)
