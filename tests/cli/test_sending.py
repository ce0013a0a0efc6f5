"""`harquel sending` and `harquel inquiry send-on`, where nothing may be sent: the demo has no destination."""

from __future__ import annotations

import json

from harquel.client import Harquel
from tests.cli.test_cli import QUESTION, Run, run

__all__ = ["run"]


def test_what_may_not_be_sent_is_said_with_what_to_do(run: Run, client: Harquel) -> None:
    asked = client.ask(QUESTION, "ferries").id
    refused = run("inquiry", "send-on", asked, "--to", "board")
    assert refused.returncode == 9
    assert "does not let answers be sent to 'board'" in refused.stderr
    assert "ask a steward" in refused.stderr
    assert "Nothing was sent on yet" in run("sending", "list").stdout
    assert json.loads(run("sending", "list", "--json").stdout) == []
    assert "no sending" in run("sending", "again", "msg_none").stderr
