"""What the Model Context Protocol asks of a server, requirement by requirement, by bare messages over HTTP."""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Iterator
from typing import Any

import httpx
import jsonschema
import pytest

from harquel.client import Harquel
from harquel.demo.stage import Stage

VERSION = "2025-11-25"
TAKES = {"accept": "application/json, text/event-stream", "content-type": "application/json"}
REQUIRED: dict[str, Callable[[Wire], None]] = {}


class Wire:
    """Messages of one session."""

    def __init__(self, url: str, secret: str) -> None:
        self.url, self.headers = f"{url}/mcp", {**TAKES, "authorization": f"Bearer {secret}"}
        self.hello = self.post({
            "jsonrpc": "2.0", "id": "hello", "method": "initialize",
            "params": {"protocolVersion": VERSION, "capabilities": {}, "clientInfo": {"name": "bare", "version": "1"}},
        })  # fmt: skip
        self.told = message(self.hello)["result"]
        self.session = {"mcp-session-id": self.hello.headers["mcp-session-id"], "mcp-protocol-version": VERSION}
        assert self.post({"jsonrpc": "2.0", "method": "notifications/initialized"}, **self.session).status_code == 202

    def post(self, body: Any, **headers: str) -> httpx.Response:
        return httpx.post(self.url, json=body, headers={**self.headers, **headers}, timeout=60)

    def call(self, method: str, params: dict[str, Any] | None = None, key: Any = 7) -> dict[str, Any]:
        body = {"jsonrpc": "2.0", "id": key, "method": method, **({"params": params} if params is not None else {})}
        found = message(self.post(body, **self.session))
        assert (found["jsonrpc"], found["id"]) == ("2.0", key)
        return found

    def result(self, method: str, params: dict[str, Any] | None = None) -> dict[str, Any]:
        found: dict[str, Any] = self.call(method, params)["result"]
        return found


def message(response: httpx.Response) -> dict[str, Any]:
    """The reply, as JSON or as the last event of a stream."""
    if response.headers["content-type"].startswith("text/event-stream"):
        lines = [line[6:] for line in response.text.splitlines() if line.startswith("data: ") and line[6:].strip()]
        return next(m for m in map(json.loads, reversed(lines)) if "id" in m and "method" not in m)
    found: dict[str, Any] = response.json()
    return found


def required(text: str) -> Callable[[Callable[[Wire], None]], Callable[[Wire], None]]:
    def kept(check: Callable[[Wire], None]) -> Callable[[Wire], None]:
        assert text not in REQUIRED
        REQUIRED[text] = check
        return check

    return kept


@pytest.fixture(scope="module")
def wire(stage: Stage) -> Iterator[Wire]:
    with Harquel(stage.url, stage.token) as client:
        yield Wire(stage.url, client.create_token("bare", "Bare Wire", ["ferries"], ["ask", "steward"]).secret)


@required("a version that is known is agreed on, and one that is not is answered with one that is")
def _(wire: Wire) -> None:
    assert wire.told["protocolVersion"] == VERSION
    for asked in ("2025-06-18", "2025-03-26", "1999-01-01"):
        hello = {"protocolVersion": asked, "capabilities": {}, "clientInfo": {"name": "x", "version": "1"}}
        found = message(wire.post({"jsonrpc": "2.0", "id": 1, "method": "initialize", "params": hello}))["result"]
        assert re.fullmatch(r"20\d\d-\d\d-\d\d", found["protocolVersion"])
        assert found["protocolVersion"] == (asked if asked != "1999-01-01" else found["protocolVersion"])
        assert found["protocolVersion"] != "1999-01-01"


@required("the server names itself and what it can")
def _(wire: Wire) -> None:
    assert {"name", "version"} <= wire.told["serverInfo"].keys()
    able = wire.told["capabilities"]
    assert {"tools", "resources", "prompts", "completions", "logging"} <= able.keys()
    assert (able["resources"]["listChanged"], able["prompts"]["listChanged"]) == (True, True)
    assert wire.told["instructions"]


@required("a session has an id of visible characters")
def _(wire: Wire) -> None:
    assert re.fullmatch(r"[\x21-\x7e]+", wire.session["mcp-session-id"])


@required("a notification is taken without a body")
def _(wire: Wire) -> None:
    cancelled = {"jsonrpc": "2.0", "method": "notifications/cancelled", "params": {"requestId": "nothing"}}
    found = wire.post(cancelled, **wire.session)
    assert (found.status_code, found.content) == (202, b"")


@required("ping is answered with nothing, under ids of any kind")
def _(wire: Wire) -> None:
    for key in (1, "a", "", 2**53, "ü" * 50):
        assert wire.call("ping", key=key)["result"] == {}


@required("a method that is none, and parameters that do not fit, have the codes of JSON-RPC")
def _(wire: Wire) -> None:
    assert wire.call("nothing/such")["error"]["code"] == -32601
    assert wire.call("tools/call", {"name": 7})["error"]["code"] == -32602
    assert wire.call("logging/setLevel", {"level": "loud"})["error"]["code"] == -32602
    for method, params in (("tools/call", {"name": "none"}), ("prompts/get", {"name": "none"})):
        assert wire.call(method, params)["error"]["code"] == -32602
    assert wire.call("resources/read", {"uri": "harquel://nothing"})["error"]["code"] in (-32002, -32602)


@required("each tool has a name that clients take, words, and schemas that are some")
def _(wire: Wire) -> None:
    tools = wire.result("tools/list")["tools"]
    assert tools
    for tool in tools:
        assert re.fullmatch(r"[A-Za-z0-9_.-]{1,128}", tool["name"])
        assert tool["description"]
        for schema in (tool["inputSchema"], tool["outputSchema"]):
            assert schema["type"] == "object"
            jsonschema.Draft202012Validator.check_schema(schema)
        assert isinstance(tool["annotations"]["readOnlyHint"], bool)


@required("what a tool returns fits the schema that it has told, and stands there as text, too")
def _(wire: Wire) -> None:
    schemas = {tool["name"]: tool["outputSchema"] for tool in wire.result("tools/list")["tools"]}
    asked = {"question": "How many vessels are there?", "source": "ferries"}
    for name, arguments in (
        ("ask", asked), ("what_can_be_asked", {}), ("what_can_be_asked", {"source": "ferries"}),
        ("check_statement", {"source": "ferries", "sql": "SELECT COUNT(*) FROM vessel"}),
    ):  # fmt: skip
        found = wire.result("tools/call", {"name": name, "arguments": arguments})
        assert not found.get("isError")
        assert found["content"][0]["type"] == "text"
        assert found["content"][0]["text"]
        jsonschema.validate(found["structuredContent"], schemas[name])


@required("what goes wrong in a tool is a result that says so, not an error of the protocol")
def _(wire: Wire) -> None:
    for arguments in (
        {},
        {"question": "x", "nonsense": 1},
        {"question": "Q" * 5000},
        {"question": "x", "source": "no"},
    ):
        found = wire.result("tools/call", {"name": "ask", "arguments": arguments})
        assert found["isError"] is True
        assert found["content"][0]["text"]


@required("resources have addresses, and templates; each that is listed can be read")
def _(wire: Wire) -> None:
    listed = wire.result("resources/list")["resources"]
    assert listed
    for one in listed[:5]:
        (held,) = wire.result("resources/read", {"uri": one["uri"]})["contents"]
        assert (held["uri"], bool(held["text"]), held["mimeType"]) == (one["uri"], True, one["mimeType"])
        assert one["name"]
    templates = wire.result("resources/templates/list")["resourceTemplates"]
    assert all("{" in one["uriTemplate"] for one in templates)


@required("each prompt that is listed can be got")
def _(wire: Wire) -> None:
    for one in wire.result("prompts/list")["prompts"][:5]:
        got = wire.result("prompts/get", {"name": one["name"]})["messages"]
        assert {m["role"] for m in got} <= {"user", "assistant"}
        assert all(m["content"]["type"] == "text" for m in got)


@required("an argument is completed by no more than a hundred values")
def _(wire: Wire) -> None:
    template = wire.result("resources/templates/list")["resourceTemplates"][0]["uriTemplate"]
    name = re.findall(r"\{(\w+)\}", template)[0]
    about = {"ref": {"type": "ref/resource", "uri": template}, "argument": {"name": name, "value": "f"}}
    found = wire.result("completion/complete", about)["completion"]
    assert len(found["values"]) <= 100
    assert "ferries" in found["values"]


@required("a level of the log is taken")
def _(wire: Wire) -> None:
    for level in ("debug", "warning", "emergency"):
        assert wire.result("logging/setLevel", {"level": level}) == {}


@required("a list has an end, and a place in it that is none is refused or begun anew")
def _(wire: Wire) -> None:
    for method in ("tools/list", "resources/list", "prompts/list"):
        assert wire.result(method).get("nextCursor") is None
        found = wire.call(method, {"cursor": "nowhere"})
        assert "result" in found or found["error"]["code"] == -32602


@required("a client says what it takes and sends; what is neither is refused")
def _(wire: Wire) -> None:
    ping = {"jsonrpc": "2.0", "id": 1, "method": "ping"}
    assert wire.post(ping, **wire.session, accept="text/html").status_code == 406
    assert wire.post(ping, **wire.session, **{"content-type": "text/plain"}).status_code in (400, 415)


@required("a version in the header that is not known, and a session that is none, are refused")
def _(wire: Wire) -> None:
    ping = {"jsonrpc": "2.0", "id": 1, "method": "ping"}
    assert wire.post(ping, **{**wire.session, "mcp-protocol-version": "1999-01-01"}).status_code == 400
    assert wire.post(ping, **{**wire.session, "mcp-session-id": "none"}).status_code == 404
    assert wire.post(ping, **{"mcp-protocol-version": VERSION}).status_code == 400


@required("a page of somebody else is refused, and nobody's token is taken from an address")
def _(wire: Wire) -> None:
    ping = {"jsonrpc": "2.0", "id": 1, "method": "ping"}
    assert wire.post(ping, **wire.session, origin="https://elsewhere.example").status_code == 403
    secret = wire.headers["authorization"].partition(" ")[2]
    for query in ("access_token", "token"):
        assert httpx.post(f"{wire.url}?{query}={secret}", json=ping, headers=TAKES, timeout=60).status_code == 401


@required("who has no token is told where to learn how to get in")
def _(wire: Wire) -> None:
    refused = httpx.post(wire.url, json={}, headers=TAKES, timeout=60)
    where = re.search(r'resource_metadata="([^"]+)"', refused.headers["www-authenticate"])
    assert refused.status_code == 401
    assert where is not None
    told = httpx.get(where[1], timeout=60).json()
    assert (told["resource"], told["bearer_methods_supported"]) == (wire.url, ["header"])


@required("a session ends when its client says so")
def _(wire: Wire) -> None:
    other = Wire(wire.url.removesuffix("/mcp"), wire.headers["authorization"].partition(" ")[2])
    ended = httpx.delete(other.url, headers={**other.headers, **other.session}, timeout=60)
    assert ended.status_code in (200, 204)
    assert other.post({"jsonrpc": "2.0", "id": 1, "method": "ping"}, **other.session).status_code == 404


@pytest.mark.parametrize("text", REQUIRED)
def test_the_protocol(text: str, wire: Wire) -> None:
    REQUIRED[text](wire)
