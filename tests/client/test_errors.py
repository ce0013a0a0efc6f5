"""What the client makes of what went wrong: a kind for each status, and no trust in what a response says of itself."""

from __future__ import annotations

import httpx
import pytest

from harquel.client.errors import (
    Busy,
    Forbidden,
    HarquelError,
    Invalid,
    NotFound,
    ServiceFault,
    TokenRefused,
    Unreachable,
    from_response,
    from_transport,
)

PROBLEM = {"type": "/problems/x", "title": "It is so.", "hint": "Do that.", "status": 422,
           "errors": [{"field": "question", "message": "is empty"}]}  # fmt: skip


@pytest.mark.parametrize(("status", "kind"), [
    (400, Invalid), (401, TokenRefused), (403, Forbidden), (404, NotFound), (409, Invalid), (413, Invalid),
    (422, Invalid), (429, Busy), (405, ServiceFault), (500, ServiceFault), (503, ServiceFault),
])  # fmt: skip
def test_each_status_is_a_kind_of_its_own_with_the_services_words(status: int, kind: type[HarquelError]) -> None:
    error = from_response(httpx.Response(status, json=PROBLEM))
    assert type(error) is kind
    assert (str(error), error.hint, error.errors) == ("It is so.", "Do that.", PROBLEM["errors"])


@pytest.mark.parametrize("body", [b"", b"<html>gateway</html>", b"[]", b'{"title": 7}', b"\xff\xfe", b"null"])
def test_a_body_that_is_no_problem_is_none(body: bytes) -> None:
    error = from_response(httpx.Response(502, content=body))
    assert type(error) is ServiceFault
    assert (str(error), error.hint, error.problem, error.errors) == ("The service answered 502.", "", None, [])


@pytest.mark.parametrize(("said", "seconds"), [
    ("7", 7.0), ("0", 0.0), ("", None), ("-3", None), ("Wed, 21 Oct 2026 07:28:00 GMT", None), ("999999", None),
    ("1e9", None), ("٣", None),
])  # fmt: skip
def test_how_long_to_wait_is_taken_from_plain_seconds_only(said: str, seconds: float | None) -> None:
    headers = {"retry-after": said.encode()} if said else {}
    busy = from_response(httpx.Response(429, headers=headers, json=PROBLEM))
    assert isinstance(busy, Busy)
    assert busy.retry_after_s == (1.0 if seconds is None else seconds)
    for status, passes in ((503, seconds or 0.0), (500, 0.0)):
        fault = from_response(httpx.Response(status, headers=headers, json=PROBLEM))
        assert isinstance(fault, ServiceFault)
        assert fault.retry_after_s == passes


def test_what_got_no_response_says_whether_anybody_is_there() -> None:
    late = from_transport(httpx.ReadTimeout("read"), "http://harquel.example")
    gone = from_transport(httpx.ConnectError("refused"), "http://harquel.example")
    assert isinstance(late, Unreachable)
    assert "did not answer in time" in str(late)
    assert "Nobody answers at http://harquel.example" in str(gone)
    assert "harquel serve" in gone.hint
