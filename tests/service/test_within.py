"""What the tools hear of an application that breaks under their requests, and what is in the log of it."""

from __future__ import annotations

import anyio
import pytest
from starlette.types import ASGIApp, Receive, Scope, Send
from structlog.testing import capture_logs

from harquel.client import AsyncHarquel, HarquelError, ServiceFault, Unreachable
from harquel.service.within import Within

LIKE = {"headers": [(b"host", b"here.example")]}


async def at_once(scope: Scope, receive: Receive, send: Send) -> None:
    raise RuntimeError("a fault of ours")


async def in_the_middle(scope: Scope, receive: Receive, send: Send) -> None:
    await send({"type": "http.response.start", "status": 200, "headers": []})
    await send({"type": "http.response.body", "body": b'{"ver', "more_body": True})
    raise RuntimeError("a fault of ours")


async def fault_of(application: ASGIApp) -> HarquelError:
    async with AsyncHarquel("http://within", "x", transport=Within(application, LIKE), retries=0) as client:
        with pytest.raises(HarquelError) as told:
            await client.me()
    return told.value


@pytest.mark.parametrize("application", [at_once, in_the_middle])
def test_a_fault_is_told_and_logged(application: ASGIApp) -> None:
    with capture_logs() as logged:
        told = anyio.run(fault_of, application)
    assert [(one["log_level"], one["exc_info"]) for one in logged] == [("error", True)]
    # What breaks off is never taken for the whole; what broke before it said anything is told as over a connection.
    assert isinstance(told, ServiceFault if application is at_once else Unreachable)
    assert "Nobody answers" not in str(told) or application is in_the_middle
