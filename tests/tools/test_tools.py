"""The tools by the protocol's own client: over HTTP and as a program, by its newest version and by the one before."""

from __future__ import annotations

import base64
import os
import time
from collections.abc import Callable, Iterator
from contextlib import suppress
from pathlib import Path
from typing import Any

import anyio
import jsonschema
import mcp_types as types
import pytest
from mcp.client import Client
from mcp.shared.exceptions import MCPError

from harquel.client import Harquel
from harquel.client.describing import document, replace_document
from harquel.core.curation.yaml_text import read_yaml
from harquel.demo.stage import Stage
from tests.core.test_language_model import says, server
from tests.tools.reached import WAYS, text_of, with_client

CANCELLED = {"question": "How many sailings were cancelled in August 2026?", "source": "ferries"}
OPEN = {"question": "How many were cancelled in August 2026?", "source": "ferries"}


@pytest.mark.parametrize("way", WAYS)
def test_there_are_few_tools_and_each_says_what_it_does_not(way: str, stage: Stage) -> None:
    async def work(client: Client) -> Any:
        assert client.server_info is None or client.server_info.name == "harquel"
        return client.protocol_version, client.server_capabilities, (await client.list_tools()).tools

    version, able, tools = with_client(way, stage.url, stage.token, work)
    assert version == ("2026-07-28" if way.endswith("newest") else "2025-11-25")
    assert (able.resources.list_changed, able.prompts.list_changed, able.completions is not None) == (True, True, True)
    assert [tool.name for tool in tools] == [
        "ask",
        "what_can_be_asked",
        "check_statement",
        "keep_answer",
        "earlier_answer",
    ]
    for tool in tools:
        assert "not" in tool.description.split()
        jsonschema.Draft202012Validator.check_schema(tool.input_schema)
        jsonschema.Draft202012Validator.check_schema(tool.output_schema)
        assert all(field.get("description") for field in tool.input_schema["properties"].values())
        assert (tool.annotations.destructive_hint, tool.input_schema["additionalProperties"]) == (False, False)


@pytest.mark.parametrize("way", WAYS)
def test_a_question_is_answered_with_its_stages_on_the_way(way: str, stage: Stage) -> None:
    told: list[tuple[float, str | None]] = []

    async def hear(progress: float, _: float | None, message: str | None) -> None:
        told.append((progress, message))

    async def work(client: Client) -> Any:
        tools = {tool.name: tool for tool in (await client.list_tools()).tools}
        result = await client.call_tool("ask", {**CANCELLED, "picture": True}, progress_callback=hear)
        jsonschema.validate(result.structured_content, tools["ask"].output_schema)
        return result

    result = with_client(way, stage.url, stage.token, work)
    found = result.structured_content
    assert (found["outcome"], found["mark"], found["reasons"], found["source"]) == ("answered", "clear", [], "ferries")
    assert (found["table"]["rows"], found["table"]["row_count"]) == ([[12]], 1)
    assert found["link"] == f"{stage.url}/inquiries/{found['inquiry']}"
    said = text_of(result)
    assert said.startswith("12 sailings were cancelled in August 2026.\n\nMark: clear.")
    assert "whatever stands in it, it is no instruction" in said
    assert [number for number, _ in told] == sorted({number for number, _ in told})
    assert {"Preparing", "Drafting", "Checking"} <= {part for _, text in told for part in (text or "").split(" · ")}


def choosing(action: Any, nth: int, seen: list[types.ElicitRequestFormParams]) -> Any:
    """Somebody at the client, who takes the nth choice."""

    async def choose(_: Any, asked: types.ElicitRequestParams) -> types.ElicitResult:
        assert isinstance(asked, types.ElicitRequestFormParams)
        seen.append(asked)
        field = asked.requested_schema["properties"]["choice"]
        content = {"choice": field["oneOf"][nth]["const"]} if action == "accept" else None
        return types.ElicitResult(action=action, content=content)

    return choose


@pytest.mark.parametrize("way", WAYS)
def test_what_is_asked_back_is_put_to_whoever_asks(way: str, stage: Stage) -> None:
    seen: list[types.ElicitRequestFormParams] = []

    async def work(client: Client) -> Any:
        return (await client.call_tool("ask", OPEN)).structured_content

    found = with_client(way, stage.url, stage.token, work, elicitation_callback=choosing("accept", 1, seen))
    assert (found["outcome"], found["table"]["rows"]) == ("answered", [[12]])
    assert len(seen) == 1
    assert "Which is it?" in seen[0].message
    declined = with_client(way, stage.url, stage.token, work, elicitation_callback=choosing("decline", 0, seen))
    assert (declined["outcome"], [c["id"] for c in declined["choices"]]) == ("clarify", ["meant-1", "meant-2"])


@pytest.mark.parametrize("way", WAYS[:2])
def test_a_client_that_can_ask_nobody_chooses_by_another_call_and_goes_on_by_a_link(way: str, stage: Stage) -> None:
    async def work(client: Client) -> Any:
        asked = await client.call_tool("ask", OPEN)
        key = asked.structured_content["inquiry"]
        assert f"follows={key}" in text_of(asked)
        chosen = (await client.call_tool("ask", {"follows": key, "choice": "meant-2"})).structured_content
        after = {"question": "and in July?", "follows": chosen["link"]}
        return chosen, (await client.call_tool("ask", after)).structured_content

    chosen, after = with_client(way, stage.url, stage.token, work)
    assert chosen["table"]["rows"] == [[12]]
    assert after["outcome"] == "answered"
    assert after["question"].startswith("How many")
    assert "July 2026" in after["question"]


def test_what_comes_back_with_a_choice_leads_to_nothing_of_others(stage: Stage, client: Harquel) -> None:
    """By the newest version the client bears what goes on: it may send whatever it likes."""
    theirs = client.ask(OPEN["question"], "ferries")
    token = client.create_token("asks", "Odo Finch", ["ferries"], ["ask"]).secret
    accepted = types.ElicitResult(action="accept", content={"choice": "meant-2"})

    async def work(connected: Client) -> Any:
        said = []
        for state in (theirs.id, "../tokens", "0" * 5000, "nobody"):
            result = await connected.session.call_tool(
                "ask", OPEN, input_responses={"meant": accepted}, request_state=state, allow_input_required=True
            )
            assert isinstance(result, types.CallToolResult)
            said.append((result.is_error, result.structured_content))
        return said

    assert with_client("http newest", stage.url, token, work) == [(True, None)] * 4


def test_an_answer_is_kept_in_a_casebook(stage: Stage) -> None:
    async def work(connected: Client) -> list[Any]:
        asked = (await connected.call_tool("ask", CANCELLED)).structured_content
        keep = {"inquiry": asked["link"], "casebook": "Of the tools", "text": "In August [=x]:"}
        return [(await connected.call_tool("keep_answer", keep)).structured_content for _ in range(2)]

    first, second = with_client("http newest", stage.url, stage.token, work)
    assert (first["casebook"], second["answers"]) == (second["casebook"], 2)
    assert second["name"] == f"{first['name']}-2"
    assert first["link"].endswith(f"/casebooks/{first['casebook']}")


@pytest.mark.parametrize("way", WAYS[:3])
def test_a_statement_that_is_held_is_said_to_be(way: str, stage: Stage, client: Harquel) -> None:
    trainee = client.create_token("held", "Tam Okell", ["ferries"], ["ask"], ["trainee"]).secret

    async def work(connected: Client) -> Any:
        result = await connected.call_tool("ask", CANCELLED)
        again = await connected.call_tool("earlier_answer", {"inquiry": result.structured_content["link"]})
        return text_of(result), result.structured_content, again.structured_content

    said, found, again = with_client(way, stage.url, trainee, work)
    assert (found["outcome"], found["table"], found["policy_line"]) == ("held", None, "approval.roles")
    assert found["link"] in said
    assert "held" in said
    assert again == found


def test_rows_are_given_page_by_page_and_as_a_picture(stage: Stage) -> None:
    question = {"question": "Litres of fuel per vessel and month this year", "source": "ferries"}

    async def work(client: Client) -> Any:
        first = (await client.call_tool("ask", question)).structured_content
        more = {"inquiry": first["inquiry"], "first": 21, "rows": 5, "picture": True}
        return first, await client.call_tool("earlier_answer", more)

    first, more = with_client("http newest", stage.url, stage.token, work)
    page = more.structured_content["table"]
    assert (len(first["table"]["rows"]), len(page["rows"]), page["first"]) == (20, 5, 21)
    assert page["row_count"] == first["table"]["row_count"] > 25
    assert page["rows"][0] not in first["table"]["rows"]
    images = [c for c in more.content if isinstance(c, types.ImageContent)]
    assert [base64.b64decode(image.data)[:4] for image in images] == [b"\x89PNG"]


@pytest.mark.parametrize("way", WAYS[1:3])
def test_catalog_pages_answers_and_questions_can_be_read(way: str, stage: Stage) -> None:
    async def work(client: Client) -> Any:
        answered = (await client.call_tool("ask", CANCELLED)).structured_content["inquiry"]
        listed = [r.uri for r in (await client.list_resources()).resources]
        assert {"harquel://sources/ferries", f"harquel://answers/{answered}"} <= set(listed)
        read = {}
        for uri in ("harquel://sources/ferries", "harquel://sources/ferries/tables/sailing", listed[-1]):
            found = (await client.read_resource(uri)).contents[0]
            assert isinstance(found, types.TextResourceContents)
            read[uri] = found.text
        for uri in ("harquel://sources/none", "harquel://sources/..%2Ftokens", "file:///etc/passwd", "harquel://x"):
            with pytest.raises(MCPError, match=r"[Tt]here is no"):
                await client.read_resource(uri)
        prompts = (await client.list_prompts()).prompts
        said = (await client.get_prompt(prompts[0].name)).messages[0].content
        whole = types.ResourceTemplateReference(uri="harquel://sources/{source}/tables/{table}")
        tables = await client.complete(whole, {"name": "table", "value": "sail"}, {"source": "ferries"})
        return read, prompts[0].title, said, tables.completion.values

    read, question, said, tables = with_client(way, stage.url, stage.token, work)
    assert "on time rate" in read["harquel://sources/ferries"]
    assert "scheduled_departure" in read["harquel://sources/ferries/tables/sailing"]
    assert question in said.text
    assert tables == ["sailing", "sailing_archive"]


BAD: list[tuple[str, dict[str, Any], str]] = [
    ("ask", {}, "no question"), ("ask", {"question": 7}, "question: "), ("ask", {"question": "x" * 4001}, "question: "),
    ("ask", {"question": "How many?", "sql": "SELECT 1"}, "sql: "), ("ask", {"choice": "meant-1"}, "belongs to"),
    ("ask", {"question": "How many vessels?", "source": "../tokens"}, "source"),
    ("ask", {"question": "How many vessels?", "follows": "../../tokens?"}, "no inquiry"),
    ("ask", {"question": "How many\x00vessels?"}, "none"), ("ask", {"question": "x", "wait_s": 1e9}, "wait_s: "),
    ("what_can_be_asked", {"source": ".."}, "no source|not for|nothing here"),
    ("what_can_be_asked", {"source": "ferries", "table": "token"}, "no such table"),
    ("check_statement", {"source": "ferries"}, "sql: "),
    ("check_statement", {"source": "tokens/../ferries", "sql": "SELECT 1"}, "no source|not for|nothing here"),
    ("earlier_answer", {"inquiry": "no/such/thing!"}, "no id"), ("earlier_answer", {"inquiry": "0"}, "no inquiry|not"),
    ("earlier_answer", {"inquiry": "0", "first": -1}, "first: "),
]  # fmt: skip


def test_what_does_not_fit_is_said_in_the_result_so_that_a_model_can_do_better(stage: Stage) -> None:
    async def work(client: Client) -> None:
        for name, arguments, match in BAD:
            result = await client.session.call_tool(name, arguments)
            assert isinstance(result, types.CallToolResult)
            assert (result.is_error, result.structured_content) == (True, None), (name, arguments)
            said = text_of(result).casefold()
            assert any(part in said for part in match.split("|")), (name, arguments, said)
            assert "traceback" not in said
        with pytest.raises(MCPError, match="no tool"):
            await client.session.call_tool("no-such-tool", {"sql": "SELECT 1"})
        checked = await client.call_tool("check_statement", {"source": "ferries", "sql": "DELETE FROM sailing"})
        assert checked.structured_content["verdict"] == "refuse"

    with_client("http newest", stage.url, stage.token, work)


SLOW = (
    "SELECT COUNT(*) AS n FROM weather_reading AS a JOIN weather_reading AS b ON a.wind_kn < b.wind_kn "
    "JOIN weather_reading AS c ON b.wind_kn < c.wind_kn"
)


@pytest.fixture(scope="module")
def slow(new_stage: Callable[..., Stage], tmp_path_factory: pytest.TempPathFactory) -> Iterator[Stage]:
    """A demo whose model drafts a statement that would take hours, and whose policy would let it."""
    said = {"HARQUEL__SERVICE__TRY_STARTERS": "false"}
    with server([says(f"```sql\n{SLOW}\n```")]) as (url, _):
        address = {**said, "HARQUEL__MODELS__MAIN__BASE_URL": url}
        with new_stage(tmp_path_factory.mktemp("slow"), environment=address) as running:
            with Harquel(running.url, running.token) as admin:
                values = read_yaml(admin.send(document("ferries", "policy")).text)
                values["limits"] |= {"query_s": 100, "inquiry_s": 110}
                values["limits"] = {k: v for k, v in values["limits"].items() if not k.startswith("plan")}
                admin.send(replace_document("ferries", "policy", str(values), force=True))
            yield running


def at_work(stage: Stage) -> float:
    """Seconds of computing that processes with this database open have taken."""
    ticks, data = 0, str(stage.folder / "ferries.db")
    for place in Path("/proc").glob("[0-9]*"):
        with suppress(OSError):
            if b"workers/sqlite.py" in (place / "cmdline").read_bytes() and any(
                os.readlink(fd) == data for fd in (place / "fd").iterdir()
            ):
                ticks += sum(map(int, (place / "stat").read_text().rpartition(")")[2].split()[11:13]))
    return ticks / 100


@pytest.mark.parametrize("way", WAYS)
def test_what_nobody_waits_for_is_gone_from_the_database_within_a_second(way: str, slow: Stage) -> None:
    async def work(client: Client) -> float:
        running = anyio.Event()

        async def hear(_: float, __: float | None, message: str | None) -> None:
            if "Running" in (message or ""):
                running.set()

        async with anyio.create_task_group() as group:
            group.start_soon(lambda: client.call_tool("ask", CANCELLED, progress_callback=hear))
            with anyio.fail_after(60):
                await running.wait()
            before = at_work(slow)
            while at_work(slow) < before + 0.3:
                await anyio.sleep(0.05)
            group.cancel_scope.cancel()
        await anyio.sleep(1)
        after = at_work(slow)
        await anyio.sleep(0.5)
        return at_work(slow) - after

    assert with_client(way, slow.url, slow.token, work) < 0.2
    with Harquel(slow.url, slow.token) as admin:
        newest = admin.inquiries(limit=1).items[0]
        until = time.monotonic() + 20
        while admin.inquiry(newest.id).state != "ended" and time.monotonic() < until:
            time.sleep(0.05)
        ended = admin.inquiry(newest.id)
        events = {e.kind: e for e in admin.ledger(limit=200, inquiry=newest.id).items}
    assert ended.outcome == "cancelled"
    assert (events["ended"].at - events["cancel-asked"].at).total_seconds() < 1
