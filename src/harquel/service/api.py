"""Django behind one hop: a request goes the whole way through it in one thread of ours, whose connection stays.

Django's own handler makes a thread for each request, opens the records there anew, and changes to it and back for
every middleware: that took longer than what most requests ask for.
"""

from __future__ import annotations

import asyncio
from concurrent.futures import ThreadPoolExecutor
from io import BytesIO
from typing import IO, Final

from django.conf import settings
from django.core.exceptions import RequestAborted
from django.core.handlers.asgi import ASGIHandler, get_script_prefix
from django.core.handlers.base import BaseHandler
from django.db import connection
from django.http import HttpRequest, HttpResponseBase
from django.urls import set_script_prefix
from starlette.types import Receive, Scope, Send

from .access.authentication import shown_by
from .lanes import Lanes

AT_ONCE: Final = 64
"""Requests that are worked on at the same time; streams and long waits are none of them."""


class Api(ASGIHandler):
    """The application of Django. Make one after django.setup()."""

    def __init__(self) -> None:
        BaseHandler.__init__(self)
        self.load_middleware(is_async=False)
        self._threads, self._lanes = ThreadPoolExecutor(AT_ONCE, "api"), Lanes()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """One request. Of somebody who leaves in the middle nothing more is heard or said."""
        try:
            body = await self.read_body(receive)
        except RequestAborted:
            return
        try:
            request, response = self.create_request(scope, body)
            if request is not None:
                async with self._lanes.of(shown_by(request)):
                    loop, prefix = asyncio.get_running_loop(), get_script_prefix(scope)
                    response = await loop.run_in_executor(self._threads, self._answer, request, prefix)
            try:
                await self.send_response(response, send)
            finally:
                response.close()
        finally:
            body.close()

    async def read_body(self, receive: Receive) -> IO[bytes]:
        """As much of it as is taken, and a byte more where there is more: the rest is heard and let go. Without an end
        it would fill the disk. Raises RequestAborted.
        """
        body, most = BytesIO(), settings.DATA_UPLOAD_MAX_MEMORY_SIZE + 1
        while True:
            message = await receive()
            if message["type"] == "http.disconnect":
                raise RequestAborted
            body.write(message.get("body", b"")[: most - body.tell()])
            if not message.get("more_body", False):
                body.seek(0)
                return body

    def _answer(self, request: HttpRequest, prefix: str) -> HttpResponseBase:
        """In a thread: never raises, what goes wrong is a response."""
        set_script_prefix(prefix)
        response: HttpResponseBase = self.get_response(request)
        if connection.errors_occurred:
            # Whatever is wrong with this connection, the next request gets another.
            connection.close()
        return response
