"""A new token."""

from __future__ import annotations

from harquel.contract import TokenCreated, TokenRequest
from harquel.service.errors import ProblemError
from harquel.service.operations import NO_SUBJECT, Call, operation
from harquel.service.runtime import runtime

from ..issuing import issue_token


@operation(
    "token.create", takes=TokenRequest, gives=TokenCreated, scope="admin", about=NO_SUBJECT, repeat="once",
    entries=("token-created",), rule="the secret is told once only, not again under the same key",
)  # fmt: skip
def create_token(call: Call[TokenRequest, None]) -> TokenCreated:
    """Makes a token; its secret is in this response only."""

    def make() -> TokenCreated:
        if call.once.earlier() is not None:
            raise ProblemError(409, "already-made", "problem-already-made")
        made = issue_token(call.asked, call.caller.name)
        call.once.settle(f"token {made.id}")
        return made

    return runtime().writer.do(make)
