"""The door of `/mcp`: who gets in, what is bounded there, and that no tool reaches beyond the token of its call."""

from __future__ import annotations

import json
import socket
import time
from collections.abc import Callable, Iterator
from typing import Any

import anyio
import httpx
import mcp_types as types
import pytest
from mcp.client import Client
from mcp.server.lowlevel import Server
from mcp.shared.exceptions import MCPError

from harquel.client import AsyncHarquel, Harquel
from harquel.client.describing import connect, remove
from harquel.contract import TokenCreated
from harquel.demo.stage import Stage
from harquel.tools.server import build
from tests.tools.reached import opened, text_of, with_client

HELLO = {
    "jsonrpc": "2.0", "id": 1, "method": "initialize", "params": {
        "protocolVersion": "2025-11-25", "capabilities": {}, "clientInfo": {"name": "test", "version": "1"},
    },
}  # fmt: skip
TAKES = {"accept": "application/json, text/event-stream", "content-type": "application/json"}


@pytest.fixture(scope="module")
def own(new_stage: Callable[..., Stage], tmp_path_factory: pytest.TempPathFactory) -> Iterator[Stage]:
    with new_stage(tmp_path_factory.mktemp("tools")) as running:
        yield running


def made(own: Stage, scopes: str = "ask", sources: str = "*", person: str = "Odo Finch") -> TokenCreated:
    with Harquel(own.url, own.token) as admin:
        return admin.create_token(f"of {person}", person, sources.split(), scopes.split())


def token(own: Stage, scopes: str = "ask", sources: str = "*", person: str = "Odo Finch") -> str:
    return made(own, scopes, sources, person).secret


def post(own: Stage, secret: str, body: Any = HELLO, **headers: str) -> httpx.Response:
    bearer = {"authorization": f"Bearer {secret}"} if secret else {}
    known = {**TAKES, **bearer, **{k.replace("_", "-"): v for k, v in headers.items()}}
    content = body if isinstance(body, bytes) else json.dumps(body).encode()
    return httpx.post(f"{own.url}/mcp", content=content, headers=known, timeout=60)


def test_nobody_gets_in_without_a_token_that_counts(own: Stage) -> None:
    ended = made(own)
    assert post(own, ended.secret).status_code == 200
    with Harquel(own.url, own.token) as admin:
        admin.revoke_token(ended.id)
    about = f"{own.url}/.well-known/oauth-protected-resource/mcp"
    for secret in ("", "nonsense", ended.secret):
        refused = post(own, secret)
        assert refused.status_code == 401
        assert f'resource_metadata="{about}"' in refused.headers["www-authenticate"]
    said = httpx.get(about).json()
    assert (said["resource"], said["bearer_methods_supported"]) == (f"{own.url}/mcp", ["header"])
    assert httpx.get(f"{own.url}/mcp").status_code == 401


def test_pages_and_names_of_others_get_nowhere(own: Stage) -> None:
    secret = token(own)
    for refused in (
        post(own, secret, origin="https://elsewhere.example"), post(own, secret, host="elsewhere.example"),
        httpx.get(f"{own.url}/.well-known/oauth-protected-resource", headers={"host": "elsewhere.example"}),
    ):  # fmt: skip
        assert refused.status_code == 403
        assert "access-control-allow-origin" not in refused.headers
    assert post(own, secret, origin=own.url).status_code == 200


def test_a_session_serves_the_token_that_began_it_and_no_other(own: Stage) -> None:
    mine, same_person = token(own), token(own)
    session = post(own, mine).headers["mcp-session-id"]
    known = {"mcp_session_id": session, "mcp_protocol_version": "2025-11-25"}
    tools = {"jsonrpc": "2.0", "id": 2, "method": "tools/list"}
    assert post(own, mine, tools, **known).status_code == 200
    assert post(own, same_person, tools, **known).status_code == 404
    gone = httpx.delete(
        f"{own.url}/mcp", headers={"authorization": f"Bearer {mine}", "mcp-session-id": session}, timeout=60
    )
    assert gone.status_code == 200
    assert post(own, mine, tools, **known).status_code == 404


def test_one_token_opens_so_many_sessions_and_leaves_room_for_others(own: Stage) -> None:
    greedy, other = token(own), token(own, person="Cass Wren")
    opened_ = [post(own, greedy) for _ in range(40)]
    assert [r.status_code for r in opened_] == [200] * 20 + [429] * 20
    assert post(own, other).status_code == 200
    first = opened_[0].headers["mcp-session-id"]
    httpx.delete(f"{own.url}/mcp", headers={"authorization": f"Bearer {greedy}", "mcp-session-id": first}, timeout=60)
    assert post(own, greedy).status_code == 200


@pytest.mark.parametrize(
    ("body", "status"),
    [
        (b"x" * 1_100_000, 413), (b"\xff\xfe{", 400), (b"[" * 100_000, 400), (b"", 400), ([HELLO, HELLO], 400),
        ({"jsonrpc": "2.0", "id": 1, "method": "tools/call", "params": {"name": "ask"}}, 400),
        (b'{"jsonrpc": "2.0", "id": 1' + b"0" * 5000 + b', "method": "initialize"}', 400),
    ],
)  # fmt: skip
def test_what_is_no_message_is_refused_and_leaves_nothing(own: Stage, body: Any, status: int) -> None:
    for version in ({}, {"mcp_protocol_version": "2026-07-28"}, {"mcp_protocol_version": "1999-01-01"}):
        refused = post(own, token(own), body, **version)
        assert refused.status_code in (status, 400), refused.text
        assert "traceback" not in refused.text.casefold()
        if (session := refused.headers.get("mcp-session-id")) is not None:
            again = {"mcp_session_id": session, "mcp_protocol_version": "2025-11-25"}
            assert post(own, token(own), {**HELLO, "method": "tools/list"}, **again).status_code == 404


CALLS: dict[str, dict[str, Any]] = {
    "ask": {"question": "How many vessels are there?", "source": "ferries"},
    "what_can_be_asked": {"source": "ferries"},
    "check_statement": {"source": "ferries", "sql": "SELECT COUNT(*) FROM vessel"},
    "earlier_answer": {"inquiry": ""},
    "keep_answer": {"inquiry": "", "casebook": "Of theirs"},
}
SCOPES = ("ask", "release", "steward", "audit", "admin")


@pytest.mark.parametrize("scopes", [*SCOPES, " ".join(SCOPES)])
@pytest.mark.parametrize("sources", ["*", "pair"])
def test_no_tool_reaches_beyond_the_token_of_its_call(own: Stage, scopes: str, sources: str) -> None:
    """Each tool does what the same token does over HTTP, and refuses what that refuses, in the same words."""
    with Harquel(own.url, own.token) as admin:
        theirs = admin.ask("How many vessels are there?", "ferries").id
        secret = token(own, scopes, sources, person=f"Bo {scopes} {sources}")
        held = admin.create_token("stranger", "Stranger", ["*"], ["ask"]).secret
    CALLS["earlier_answer"]["inquiry"] = CALLS["keep_answer"]["inquiry"] = theirs

    async def work(client: Client) -> dict[str, tuple[bool, str]]:
        found = {}
        for name, arguments in CALLS.items():
            result = await client.call_tool(name, arguments)
            found[name] = (bool(result.is_error), text_of(result))
        uris = ("harquel://sources/ferries", f"harquel://answers/{theirs}")
        for uri in uris:
            try:
                await client.read_resource(uri)
                found[uri] = (False, "")
            except Exception as error:  # each refusal is one of the protocol's
                found[uri] = (True, str(error))
        return found

    found = with_client("http newest", own.url, secret, work)
    mine, reads = sources == "*", "audit" in scopes
    wanted = {
        "ask": mine and "ask" in scopes, "what_can_be_asked": mine, "earlier_answer": mine and reads,
        # Not one's own.
        "keep_answer": False,
        "harquel://sources/ferries": mine, f"harquel://answers/{theirs}": mine and reads,
    }  # fmt: skip
    assert {name: not found[name][0] for name in wanted} == wanted
    over_http = httpx.post(
        f"{own.url}/api/v1/sources/ferries/reviews", json={"sql": "SELECT COUNT(*) FROM vessel"},
        headers={"authorization": f"Bearer {secret}"}, timeout=60,
    )  # fmt: skip
    assert found["check_statement"][0] is (over_http.status_code >= 400)
    if over_http.status_code >= 400:
        assert over_http.json()["title"] in found["check_statement"][1]
    stranger = with_client("http newest", own.url, held, work)
    assert stranger["earlier_answer"][0]
    assert not stranger["ask"][0]


def test_whoever_is_revoked_in_the_middle_is_refused_by_the_next_call(own: Stage) -> None:
    mine = made(own, person="Tam Okell")

    async def work(client: Client) -> Any:
        assert not (await client.call_tool("what_can_be_asked", {})).is_error
        async with AsyncHarquel(own.url, own.token) as admin:
            await admin.revoke_token(mine.id)
        with pytest.raises(MCPError):
            await client.call_tool("what_can_be_asked", {})
        return "refused"

    assert with_client("http handshake", own.url, mine.secret, work) == "refused"


class _Here:
    """The service at an address, for a server that is made in this process."""

    def __init__(self, own: Stage) -> None:
        self._own = own

    def client(self, _: Any) -> AsyncHarquel:
        return AsyncHarquel(self._own.url, self._own.token)

    def base(self, _: Any) -> str:
        return self._own.url


@pytest.mark.parametrize("mode", ["auto", "legacy"])
def test_what_can_be_asked_having_moved_is_told(own: Stage, mode: Any) -> None:
    heard: list[str] = []

    async def hear(message: Any) -> None:
        heard.append(type(message).__name__)

    async def work() -> None:
        tools = build(_Here(own), pause_s=0.1)
        server: Server[Any] = tools.server
        async with anyio.create_task_group() as group, AsyncHarquel(own.url, own.token) as admin:
            group.start_soon(tools.moves.run)
            async with Client(server, mode=mode, message_handler=hear) as client:
                if mode == "auto":
                    group.start_soon(_listening, client, heard)
                await anyio.sleep(0.5)
                assert heard == []
                name = f"more-{mode}"
                await admin.send(connect(name, url=f"sqlite:///{own.folder}/ferries.db"))
                with anyio.fail_after(30):
                    while not any("ResourceListChanged" in h or "ResourcesListChanged" in h for h in heard):
                        await anyio.sleep(0.1)
                await admin.send(remove(name))
                group.cancel_scope.cancel()

    anyio.run(work)


async def _listening(client: Client, heard: list[str]) -> None:
    async with client.listen(resources_list_changed=True) as stream:
        async for event in stream:
            heard.append(type(event).__name__)


@pytest.mark.filterwarnings("ignore::mcp.shared.exceptions.MCPDeprecationWarning")
def test_a_client_is_told_in_its_log_from_the_level_on_that_it_asked_for(own: Stage) -> None:
    told: list[types.LoggingMessageNotificationParams] = []

    async def hear(params: types.LoggingMessageNotificationParams) -> None:
        told.append(params)

    async def work(client: Client) -> None:
        await client.call_tool("ask", CALLS["ask"])
        assert told == []
        await client.set_logging_level("info")
        await client.call_tool("ask", CALLS["ask"])

    with_client("http handshake", own.url, own.token, work, logging_callback=hear)
    assert [(one.level, one.data["outcome"], one.data["mark"]) for one in told] == [("info", "answered", "clear")]
    told.clear()

    async def other(client: Client) -> None:
        await client.call_tool("ask", CALLS["ask"])

    with_client("http newest", own.url, own.token, other, logging_callback=hear, log_level="info")
    assert len(told) == 1


def test_one_that_never_reads_and_one_that_leaves_hold_nobody_up(own: Stage) -> None:
    secret = token(own, person="Rhea Quist")
    lines = [
        "POST /mcp HTTP/1.1", f"Host: {own.url.removeprefix('http://')}", f"Authorization: Bearer {secret}",
        *(f"{k}: {v}" for k, v in TAKES.items()), f"Content-Length: {len(json.dumps(HELLO))}", "", json.dumps(HELLO),
    ]  # fmt: skip
    address = own.url.removeprefix("http://").partition(":")
    silent = []
    for number in range(30):
        line = socket.create_connection((address[0], int(address[2])), timeout=10)
        line.sendall("\r\n".join(lines).encode()[: None if number % 2 else 200])
        silent.append(line)
    started = time.monotonic()
    assert with_client("http newest", own.url, own.token, _vessels) == [[6]]
    assert time.monotonic() - started < 60
    for line in silent:
        line.close()
    assert with_client("http handshake", own.url, own.token, _vessels) == [[6]]


async def _vessels(client: Client) -> Any:
    return (await client.call_tool("ask", CALLS["ask"])).structured_content["table"]["rows"]


def test_one_token_listens_so_often_and_leaves_room_for_others(own: Stage) -> None:
    async def work() -> list[str]:
        refused: list[str] = []
        listening = 0

        async def listen(secret: str) -> None:
            nonlocal listening
            async with opened("http newest", own.url, secret) as client:
                try:
                    async with client.listen(resources_list_changed=True):
                        listening += 1
                        await anyio.sleep_forever()
                except MCPError as error:
                    refused.append(str(error))

        greedy, other = token(own, person="Greedy"), token(own, person="Other")
        async with anyio.create_task_group() as group:
            for secret, wanted in ((greedy, 8), (other, 9)):
                for _ in range(8 if secret == greedy else 1):
                    group.start_soon(listen, secret)
                with anyio.fail_after(60):
                    while listening < wanted:
                        await anyio.sleep(0.05)
            group.start_soon(listen, greedy)
            with anyio.fail_after(60):
                while not refused:
                    await anyio.sleep(0.05)
            group.cancel_scope.cancel()
        return refused

    assert anyio.run(work) == ["Too many clients listen already. Try again later."]


def test_the_service_ends_while_others_listen_and_says_nothing_of_it(own: Stage) -> None:
    with httpx.Client(timeout=60) as line:
        bearer = {**TAKES, "authorization": f"Bearer {token(own)}", "mcp-protocol-version": "2025-11-25"}
        session = line.post(f"{own.url}/mcp", json=HELLO, headers=bearer).headers["mcp-session-id"]
        listening = line.build_request("GET", f"{own.url}/mcp", headers={**bearer, "mcp-session-id": session})
        stream = line.send(listening, stream=True)
        assert stream.status_code == 200
        own.service.terminate()
        assert own.service.wait(timeout=30) == 0
        # The stream has come to its end: it was not torn off.
        assert b"".join(stream.iter_bytes()).strip() in (b"", b": ping")
    assert "ERROR" not in (own.folder / "serve.log").read_text()
    own.serve_again()
