"""Health, readiness and metrics, outside the API's prefix and without a token."""

from __future__ import annotations

from django.db import connection
from django.http import HttpRequest, HttpResponse, JsonResponse
from prometheus_client import CONTENT_TYPE_LATEST, generate_latest

from harquel.service import metrics
from harquel.service.runtime import runtime


def healthz(request: HttpRequest) -> JsonResponse:
    """The process answers."""
    return JsonResponse({"status": "ok"})


def readyz(request: HttpRequest) -> JsonResponse:
    """The records can be read and inquiries are taken."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT 1")
    return JsonResponse({"status": "ready", "under_way": runtime().pool.under_way(), "sources": len(runtime().sources)})


def metrics_page(request: HttpRequest) -> HttpResponse:
    """In the Prometheus text form."""
    metrics.UNDER_WAY.set(runtime().pool.under_way())
    return HttpResponse(generate_latest(), content_type=CONTENT_TYPE_LATEST)
