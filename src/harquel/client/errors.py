"""Every error that the client raises.

HarquelError
├── Unreachable      nobody answers at the address, or the connection broke
├── TokenRefused     401: no token, or one that is not known
├── Forbidden        403: the token lacks a scope
├── NotFound         404: no such thing, or not for this token
├── Invalid          400, 413, 422: the request makes no sense; `errors` names the fields
├── Busy             429: too many inquiries waiting; try again in `retry_after_s`
└── ServiceFault     everything else
"""

from __future__ import annotations

import httpx

from harquel.contract import Problem


class HarquelError(Exception):
    """`str()` is one sentence, `hint` says what to do, `problem` is what the service sent, if it did."""

    def __init__(self, message: str, hint: str = "", problem: Problem | None = None) -> None:
        super().__init__(message)
        self.hint, self.problem = hint, problem

    @property
    def errors(self) -> list[dict[str, str]]:
        """The fields at fault."""
        return self.problem.errors if self.problem else []


class Unreachable(HarquelError):
    """Nobody answers at the address, or the connection broke."""


class TokenRefused(HarquelError):
    """There was no token, or one that is not known."""


class Forbidden(HarquelError):
    """The token lacks a scope."""


class NotFound(HarquelError):
    """There is no such thing, or not for this token."""


class Invalid(HarquelError):
    """The request makes no sense."""


class Busy(HarquelError):
    """Too many inquiries are waiting."""

    retry_after_s: float = 1.0


class ServiceFault(HarquelError):
    """Something broke on the other side; `retry_after_s` is above 0 where it says that it will pass."""

    retry_after_s: float = 0.0


_BY_STATUS: dict[int, type[HarquelError]] = {
    400: Invalid, 401: TokenRefused, 403: Forbidden, 404: NotFound, 409: Invalid, 413: Invalid, 415: Invalid,
    422: Invalid, 429: Busy,
}  # fmt: skip


def from_response(response: httpx.Response) -> HarquelError:
    """The error for a response with a status of 400 and above, whose body was read."""
    try:
        problem = Problem.model_validate(response.json())
    except ValueError:
        problem = None
    kind = _BY_STATUS.get(response.status_code, ServiceFault)
    title = problem.title if problem else f"The service answered {response.status_code}."
    error = kind(title, problem.hint if problem else "", problem)
    after = response.headers.get("retry-after", "")
    if isinstance(error, Busy):
        error.retry_after_s = float(after) if _is_seconds(after) else 1.0
    elif isinstance(error, ServiceFault) and response.status_code == 503:
        error.retry_after_s = float(after) if _is_seconds(after) else 0.0
    return error


def _is_seconds(text: str) -> bool:
    return text.isascii() and text.isdecimal() and len(text) < 6


def from_transport(error: httpx.HTTPError, url: str) -> Unreachable:
    """The error for a request that got no response."""
    if isinstance(error, httpx.TimeoutException):
        return Unreachable(f"The service at {url} did not answer in time.", "Try again, or give it more time.")
    return Unreachable(
        f"Nobody answers at {url}.", "Start the service with “harquel serve”, or set HARQUEL_URL to where it runs."
    )
