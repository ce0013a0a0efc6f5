"""`harquel tools`: what whoever sets up a client meets."""

from __future__ import annotations

import json

from harquel.demo.stage import Stage
from tests.cli.test_cli import QUESTION, Run, run

__all__ = ["run"]


def test_a_tool_is_tried_as_another_program_would_call_it(run: Run) -> None:
    listed = run("tools", "try")
    assert [line for line in listed.stdout.splitlines() if line and line[0] != " "] == [
        "ask", "what_can_be_asked", "check_statement", "keep_answer", "earlier_answer",
    ]  # fmt: skip
    asked = run("tools", "try", "ask", f"question={QUESTION}", "source=ferries")
    assert (asked.returncode, asked.stdout.splitlines()[0]) == (0, "12 sailings were cancelled in August 2026.")
    found = json.loads(
        run("tools", "try", "ask", f"question={QUESTION}", "source=ferries", "wait_s=60", "--json").stdout
    )
    assert (found["mark"], found["table"]["rows"]) == ("clear", [[12]])


def test_what_goes_wrong_is_said_with_what_to_do(run: Run) -> None:
    for arguments, token, code, said in (
        (["ask", "question="], None, 7, "no question"), (["nothing"], None, 9, "There are: ask"),
        (["ask"], "nonsense", 9, "Give another"), (["ask", "question"], None, 2, "NAME=VALUE"),
        (["ask"], "", 9, "no token"),
    ):  # fmt: skip
        done = run("tools", "try", *arguments, **({} if token is None else {"token": token}))
        assert (done.returncode, said in done.stdout + done.stderr) == (code, True), done
    assert run("tools", "--stdio", token="").returncode == 9
    assert run("tools").returncode == 2


def test_the_block_for_a_client_says_where_and_leaves_room_for_a_token(run: Run, stage: Stage) -> None:
    served = json.loads(run("tools", "snippet").stdout)["mcpServers"]["harquel"]
    assert (served["url"], served["headers"]) == (f"{stage.url}/mcp", {"Authorization": "Bearer YOUR-TOKEN"})
    started = json.loads(run("tools", "snippet", "--stdio").stdout)["mcpServers"]["harquel"]
    assert [started["command"], *started["args"]] == ["harquel", "tools", "--stdio"]
    assert started["env"] == {"HARQUEL_URL": stage.url, "HARQUEL_TOKEN": "YOUR-TOKEN"}
