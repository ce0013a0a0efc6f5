"""The script for an account that may only read."""

from __future__ import annotations

from harquel.contract import AccountRequest, AccountScript
from harquel.service.operations import Call, operation

from ..finding import SOURCE_EVEN_OFF
from ..live import LiveSource


@operation("source.write-account", takes=AccountRequest, gives=AccountScript, scope="steward", about=SOURCE_EVEN_OFF)
def write_account(call: Call[AccountRequest, LiveSource]) -> AccountScript:
    """SQL for an administrator; nothing is run."""
    source = call.about
    script = source.engine.account_script(
        source.core.policy, call.asked.account, call.asked.whole_schema, source.keeper.known()
    )
    return AccountScript(engine=source.engine.name, script=script)
