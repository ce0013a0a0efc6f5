"""The protocol's side: which tools, resources and prompts there are, and what comes of a call.

What must hold: a tool does what the token of its call lets it do over HTTP and nothing else, since it has no other
way; no tool runs SQL that it was given; every error is a sentence with what to do about it.
"""

from __future__ import annotations

import base64
import re
from collections.abc import Awaitable, Callable
from dataclasses import dataclass
from typing import Any, Final, TypeVar

import anyio
import mcp_types as types
from mcp.server.lowlevel import NotificationOptions, Server
from mcp.server.models import InitializationOptions
from mcp.shared.exceptions import MCPError
from mcp_types.version import MODERN_PROTOCOL_VERSIONS, is_version_at_least
from pydantic import BaseModel, ValidationError

from harquel import __version__
from harquel.client import AsyncHarquel, HarquelError, calls
from harquel.client.casebooks import keep_titled
from harquel.contract import Inquiry
from harquel.contract.base import Input, Shape

from .asking import followed
from .descriptions import ASK, CHECK, EARLIER, INSTRUCTIONS, KEEP, LOOK
from .looking import NoSuchTable, looked
from .moves import Moves
from .noted import Noted
from .reach import Context, Reach
from .resources import MIME, completed, listed, prompt_of, prompts, read, templates
from .shapes import (
    LONGEST_WAIT_S,
    AskArguments,
    CheckArguments,
    EarlierArguments,
    KeepArguments,
    LookArguments,
    ToldCatalog,
    ToldCheck,
    ToldFinding,
    ToldInquiry,
    ToldKept,
    schema_of,
)
from .wording import catalog_text, check_text, text_of, told

_T = TypeVar("_T")
Result = types.CallToolResult | types.InputRequiredResult
_ASKED: Final = "meant"
"""The key under which a choice is asked for."""
_MOST_ROUNDS: Final = 4
"""How often one call asks back."""
_LARGEST_PICTURE: Final = 1_000_000
"""Bytes of an image."""
_ID: Final = re.compile(r"[0-9a-z][0-9a-z-]{0,63}")


@dataclass(frozen=True)
class _Tool:
    takes: type[Input]
    gives: type[Shape]
    title: str
    does: str
    only_reads: bool
    call: Callable[[_Calls, Context, types.CallToolRequestParams, Any], Awaitable[Result]]


class _Server(Server[Any]):
    """Says by each version of the protocol that it tells of what has moved."""

    def create_initialization_options(
        self, notification_options: NotificationOptions | None = None,
        experimental_capabilities: dict[str, dict[str, Any]] | None = None,
        extensions: dict[str, dict[str, Any]] | None = None,
    ) -> InitializationOptions:  # fmt: skip
        told = notification_options or NotificationOptions(prompts_changed=True, resources_changed=True)
        return super().create_initialization_options(told, experimental_capabilities, extensions)


@dataclass(frozen=True)
class Tools:
    """The server, for any transport, and what tells its clients that something has moved, which is to be run beside."""

    server: Server[Any]
    moves: Moves


def build(reach: Reach, pause_s: float = 10.0) -> Tools:
    """`pause_s`: seconds between two looks at whether something has moved."""
    moves, noted = Moves(reach, pause_s), Noted()
    calls_ = _Calls(reach, moves, noted)
    server = _Server(
        "harquel", version=__version__, title="Harquel", instructions=INSTRUCTIONS,
        on_list_tools=calls_.list_tools, on_call_tool=calls_.call_tool,
        on_list_resources=calls_.list_resources, on_list_resource_templates=calls_.list_templates,
        on_read_resource=calls_.read_resource, on_list_prompts=calls_.list_prompts, on_get_prompt=calls_.get_prompt,
        on_completion=calls_.complete, on_subscriptions_listen=moves.listen, get_tool_input_schema=_schema,
    )  # fmt: skip
    server.add_notification_handler("notifications/initialized", types.NotificationParams, moves.begun)
    server.add_request_handler("logging/setLevel", types.SetLevelRequestParams, noted.set_level)
    return Tools(server, moves)


class _Calls:
    def __init__(self, reach: Reach, moves: Moves, noted: Noted) -> None:
        self.reach, self.moves, self.noted = reach, moves, noted

    def link(self, context: Context, key: str) -> str:
        """To an inquiry, for people."""
        return f"{self.reach.base(context)}/inquiries/{key}"

    async def list_tools(self, _: Context, __: types.PaginatedRequestParams | None) -> types.ListToolsResult:
        """The same for everybody: what a tool may do depends on the token, not which there are."""
        return types.ListToolsResult(tools=[_told_tool(name, tool) for name, tool in TOOLS.items()])

    async def call_tool(self, context: Context, params: types.CallToolRequestParams) -> Result:
        """What comes of it; what is wrong with it is said in the result, so that a model can do better."""
        self.moves.used(context)
        tool = TOOLS.get(params.name)
        if tool is None:
            raise MCPError(types.INVALID_PARAMS, f"There is no tool of that name; there are {', '.join(TOOLS)}.")
        try:
            given = tool.takes.model_validate(params.arguments or {})
        except ValidationError as error:
            return _failed(_unfit(error))
        try:
            return await tool.call(self, context, params, given)
        except NoSuchTable:
            return _failed("There is no such table, or not for this token. Call what_can_be_asked without a table.")
        except HarquelError as error:
            await self.noted.note(context, "error", {"tool": params.name, "said": str(error)})
            return _failed(f"{error} {error.hint}".strip())

    # -- tools -----------------------------------------------------------------------------------

    async def ask(self, context: Context, params: types.CallToolRequestParams, given: AskArguments) -> Result:
        """A question, or a choice; what is asked back is put to whoever asks, where their client can."""
        follows = _key(given.follows) if given.follows is not None else None
        async with self.reach.client(context) as client:
            found, declined = await self._begun(client, context, params, given, follows)
            for _ in range(0 if declined else _MOST_ROUNDS):
                if not _can_choose(found, context):
                    break
                if context.protocol_version in MODERN_PROTOCOL_VERSIONS:
                    asked = types.ElicitRequest(params=_form(found, context))
                    return types.InputRequiredResult(input_requests={_ASKED: asked}, request_state=found.id)
                reply = None
                with anyio.move_on_after(LONGEST_WAIT_S):
                    form = _form(found, context)
                    reply = await context.session.elicit_form(form.message, form.requested_schema, context.request_id)
                choice = _chosen(reply, found)
                if choice is None:
                    break
                found = await self._choose(client, context, given, found.id, choice)
            return await self._result(client, context, found, picture=given.picture)

    async def _begun(
        self, client: AsyncHarquel, context: Context, params: types.CallToolRequestParams, given: AskArguments,
        follows: str | None,
    ) -> tuple[Inquiry, bool]:  # fmt: skip
        """The inquiry that was asked; for a call that comes again with what it asked back for, the one after that; and
        whether nobody wanted to choose.
        """
        if params.request_state is not None:
            # Whatever a client sends back: the service lets nobody go on from what is not theirs.
            earlier = await client.inquiry(_key(params.request_state))
            choice = _chosen((params.input_responses or {}).get(_ASKED), earlier)
            if choice is None:
                return earlier, True
            return await self._choose(client, context, given, earlier.id, choice), False
        if given.choice is not None:
            if follows is None:
                raise HarquelError("A choice belongs to an inquiry.", "Name it with follows.")
            return await self._choose(client, context, given, follows, given.choice), False
        if not given.question.strip():
            raise HarquelError("There is no question.", "Write it in plain words.")
        call = calls.ask(given.question, given.source, follows, given.as_of, 0, None)
        return await followed(client, call, given.wait_s, _Progress(context).tell), False

    async def _choose(
        self, client: AsyncHarquel, context: Context, given: AskArguments, key: str, choice: str
    ) -> Inquiry:  # fmt: skip
        call = calls.choose(key, choice, 0)
        return await followed(client, call, given.wait_s, _Progress(context).tell)

    async def look(self, context: Context, _: types.CallToolRequestParams, given: LookArguments) -> Result:
        """What can be asked."""
        async with self.reach.client(context) as client:
            found = await looked(client, given)
        return _done(catalog_text(found), found)

    async def check(self, context: Context, _: types.CallToolRequestParams, given: CheckArguments) -> Result:
        """What guard and review make of a statement; nothing is run."""
        async with self.reach.client(context) as client:
            said = await client.review(given.source, given.sql)
        found = ToldCheck(
            verdict=said.verdict, reasons=list(dict.fromkeys(r.reason for r in said.rulings)),
            findings=[
                ToldFinding(rule=f.rule, severity=f.severity, message=f.message, hint=f.hint) for f in said.findings
            ],
            read_back=said.read_back or "", would_run=said.rewritten_sql or "",
        )  # fmt: skip
        return _done(check_text(found), found)

    async def earlier(self, context: Context, _: types.CallToolRequestParams, given: EarlierArguments) -> Result:
        """An inquiry of before."""
        async with self.reach.client(context) as client:
            found = await client.inquiry(_key(given.inquiry))
            return await self._result(client, context, found, given.first, given.rows, given.picture)

    async def keep(self, context: Context, _: types.CallToolRequestParams, given: KeepArguments) -> Result:
        """Keeps an answer in a casebook."""
        async with self.reach.client(context) as client:
            book = await client.send(keep_titled(_key(given.inquiry), given.casebook, given.text))
        found = ToldKept(
            casebook=book.id, title=book.title, name=book.kept[-1].name, answers=book.answers,
            link=f"{self.reach.base(context)}/casebooks/{book.id}",
        )  # fmt: skip
        said = f"It is kept in the casebook “{found.title}” as {found.name}, answer {found.answers} there. {found.link}"
        return _done(said, found)

    async def _result(
        self, client: AsyncHarquel, context: Context, inquiry: Inquiry, first: int = 1, rows: int = 20,
        picture: bool = False,
    ) -> types.CallToolResult:  # fmt: skip
        found = told(inquiry, self.link(context, inquiry.id), first, rows)
        level: types.LoggingLevel = "info" if found.mark == "clear" else "notice"
        await self.noted.note(
            context, level, {"inquiry": found.inquiry, "outcome": found.outcome, "mark": found.mark, "sql": found.sql}
        )
        done = _done(text_of(found, inquiry.answer.table if inquiry.answer is not None else None), found)
        if picture and inquiry.answer is not None and inquiry.answer.chart is not None:
            drawn = await client.take_away(inquiry.id, "png")
            if len(drawn) <= _LARGEST_PICTURE:
                image = types.ImageContent(data=base64.b64encode(drawn).decode(), mime_type="image/png")
                done.content.append(image)
        return done

    # -- resources and prompts -------------------------------------------------------------------

    async def list_resources(
        self, context: Context, _: types.PaginatedRequestParams | None
    ) -> types.ListResourcesResult:  # fmt: skip
        """Sources, and the newest answers of whoever asks."""
        return types.ListResourcesResult(resources=await self._or_error(context, listed))

    async def list_templates(
        self, _: Context, __: types.PaginatedRequestParams | None
    ) -> types.ListResourceTemplatesResult:  # fmt: skip
        """How addresses of resources are made."""
        return types.ListResourceTemplatesResult(resource_templates=templates())

    async def read_resource(
        self, context: Context, params: types.ReadResourceRequestParams
    ) -> types.ReadResourceResult:  # fmt: skip
        """One of them."""
        text = await self._or_error(context, lambda client: read(client, params.uri, self.reach.base(context)))
        held = types.TextResourceContents(uri=params.uri, mime_type=MIME, text=text)
        return types.ReadResourceResult(contents=[held])

    async def list_prompts(self, context: Context, _: types.PaginatedRequestParams | None) -> types.ListPromptsResult:
        """Questions that were tried."""
        return types.ListPromptsResult(prompts=await self._or_error(context, prompts))

    async def get_prompt(self, context: Context, params: types.GetPromptRequestParams) -> types.GetPromptResult:
        """One of them, as somebody would say it."""
        return await self._or_error(context, lambda client: prompt_of(client, params.name))

    async def complete(self, context: Context, params: types.CompleteRequestParams) -> types.CompleteResult:
        """What an argument of a template can go on with."""
        given = dict(params.context.arguments or {}) if params.context is not None else {}
        name, begun = params.argument.name, params.argument.value
        values = await self._or_error(context, lambda client: completed(client, name, begun, given))
        return types.CompleteResult(
            completion=types.Completion(values=values[:100], total=len(values), has_more=len(values) > 100)
        )

    async def _or_error(self, context: Context, ask: Callable[[AsyncHarquel], Awaitable[_T]]) -> _T:
        try:
            async with self.reach.client(context) as client:
                return await ask(client)
        except HarquelError as error:
            raise MCPError(types.INVALID_PARAMS, f"{error} {error.hint}".strip()) from error


class _Progress:
    """Told with a number that grows, as the protocol wants it; nothing where nobody asked for it."""

    def __init__(self, context: Context) -> None:
        self._context, self._told = context, 0

    async def tell(self, said: str) -> None:
        """Of a stage."""
        self._told += 1
        await self._context.session.report_progress(float(self._told), None, said)


def _can_choose(found: Inquiry, context: Context) -> bool:
    """Whether it was asked back with choices, and the client can put that to somebody."""
    able = context.session.client_capabilities
    forms = able is not None and able.elicitation is not None and (
        able.elicitation.form is not None or able.elicitation.url is None
    )  # fmt: skip
    modern = context.protocol_version in MODERN_PROTOCOL_VERSIONS
    asked = found.state == "ended" and found.clarify is not None and bool(found.clarify.choices)
    return asked and forms and (modern or context.session.can_send_request)


def _form(found: Inquiry, context: Context) -> types.ElicitRequestFormParams:
    """The choices as a form of one field."""
    assert found.clarify is not None
    choices = found.clarify.choices
    if is_version_at_least(context.protocol_version, "2025-11-25"):
        field: dict[str, Any] = {"type": "string", "oneOf": [{"const": c.id, "title": c.label} for c in choices]}
    else:
        field = {"type": "string", "enum": [c.id for c in choices], "enumNames": [c.label for c in choices]}
    schema = {"type": "object", "properties": {"choice": {"title": "What is meant", **field}}, "required": ["choice"]}
    return types.ElicitRequestFormParams(message=found.clarify.question, requested_schema=schema)


def _chosen(reply: object, found: Inquiry) -> str | None:
    """The id of what was chosen; None where nothing was, or nothing that was offered."""
    if not isinstance(reply, types.ElicitResult) or reply.action != "accept" or found.clarify is None:
        return None
    choice = (reply.content or {}).get("choice")
    return choice if isinstance(choice, str) and choice in {c.id for c in found.clarify.choices} else None


def _key(said: str) -> str:
    """The id of an inquiry, from it or from a link to it. Raises HarquelError."""
    key = said.strip().rstrip("/").rpartition("/")[2].partition("?")[0].partition("#")[0]
    if not _ID.fullmatch(key):
        raise HarquelError("That is no id of an inquiry, and no link to one.", "Give it as ask returned it.")
    return key


def _done(text: str, found: BaseModel) -> types.CallToolResult:
    return types.CallToolResult(
        content=[types.TextContent(text=text)], structured_content=found.model_dump(mode="json")
    )


def _failed(said: str) -> types.CallToolResult:
    return types.CallToolResult(content=[types.TextContent(text=said)], is_error=True)


def _unfit(error: ValidationError) -> str:
    """What is wrong with the arguments, without repeating what was sent."""
    said = [f"{'.'.join(map(str, e['loc'])) or 'arguments'}: {e['msg']}" for e in error.errors()[:5]]
    return f"The arguments do not fit. {'; '.join(said)}."


def _schema(name: str) -> dict[str, Any] | None:
    return schema_of(TOOLS[name].takes) if name in TOOLS else None


def _told_tool(name: str, tool: _Tool) -> types.Tool:
    return types.Tool(
        name=name, title=tool.title, description=tool.does, input_schema=schema_of(tool.takes),
        output_schema=schema_of(tool.gives),
        annotations=types.ToolAnnotations(
            title=tool.title, read_only_hint=tool.only_reads, destructive_hint=False, idempotent_hint=tool.only_reads,
            open_world_hint=False,
        ),
    )  # fmt: skip


TOOLS: Final[dict[str, _Tool]] = {
    "ask": _Tool(
        AskArguments, ToldInquiry, "Ask the data a question", ASK, False,
        lambda calls_, context, params, given: calls_.ask(context, params, given),
    ),
    "what_can_be_asked": _Tool(
        LookArguments, ToldCatalog, "See what can be asked", LOOK, True,
        lambda calls_, context, params, given: calls_.look(context, params, given),
    ),
    "check_statement": _Tool(
        CheckArguments, ToldCheck, "Check a SQL statement", CHECK, True,
        lambda calls_, context, params, given: calls_.check(context, params, given),
    ),
    "keep_answer": _Tool(
        KeepArguments, ToldKept, "Keep an answer in a casebook", KEEP, False,
        lambda calls_, context, params, given: calls_.keep(context, params, given),
    ),
    "earlier_answer": _Tool(
        EarlierArguments, ToldInquiry, "Read an earlier answer", EARLIER, True,
        lambda calls_, context, params, given: calls_.earlier(context, params, given),
    ),
}  # fmt: skip
