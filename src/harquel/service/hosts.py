"""Requests that name another host than ours: turned away with a word, before anything else of Django is asked."""

from __future__ import annotations

from collections.abc import Callable
from typing import Final

import structlog
from django.core.exceptions import DisallowedHost
from django.http import HttpRequest, HttpResponseBase

from harquel.service.logs import Seldom
from harquel.service.problems import as_problem, respond

log = structlog.get_logger("harquel")
_EVERY_S: Final = 60.0
_SHOWN: Final = 100
"""Characters of a name; it is whatever somebody sent."""


class OwnHosts:
    """Django's middleware, the first of all."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self._go_on, self._seldom = get_response, Seldom(_EVERY_S)

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        """The problem, or what comes of the request."""
        try:
            request.get_host()
        except DisallowedHost as error:
            others = self._seldom.due()
            if others is not None:
                named = request.META.get("HTTP_HOST", "")[:_SHOWN]
                log.warning("a request named a host that is not in service.hosts", host=named, others_before=others)
            found = as_problem(error)
            assert found is not None
            return respond(found, request)
        return self._go_on(request)
