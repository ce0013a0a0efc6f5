"""Catalog pages and answers as resources, and tried questions as prompts."""

from __future__ import annotations

import re
from typing import Final
from urllib.parse import quote, unquote

import mcp_types as types

from harquel.client import AsyncHarquel, HarquelError

from .looking import NoSuchTable, looked
from .shapes import LookArguments
from .wording import catalog_text, plain, text_of, told

MIME: Final = "text/markdown"
_NEWEST: Final = 20
"""Answers that are listed; others are read by their ids."""
_MOST_PROMPTS: Final = 60
_SOURCE: Final = re.compile(r"harquel://sources/([^/]+)")
_TABLE: Final = re.compile(r"harquel://sources/([^/]+)/tables/([^/]+)")
_ANSWER: Final = re.compile(r"harquel://answers/([0-9a-z-]{1,64})")


async def listed(client: AsyncHarquel) -> list[types.Resource]:
    """Sources, then the newest answers of whoever asks. Raises HarquelError."""
    found = [
        types.Resource(
            uri=f"harquel://sources/{quote(line.name, safe='')}", name=line.name, title=plain(line.title or line.name),
            description="What can be asked of this source: tables, agreed measures, questions.", mime_type=MIME,
        )
        for line in await client.sources()
    ]  # fmt: skip
    page = await client.inquiries(_NEWEST, outcome="answered")
    return found + [
        types.Resource(
            uri=f"harquel://answers/{line.id}", name=line.id, title=plain(line.standalone_question or line.question),
            description=f"An answer of {line.asked_at:%Y-%m-%d %H:%M} UTC from {line.source}.", mime_type=MIME,
        )
        for line in page.items
    ]  # fmt: skip


def templates() -> list[types.ResourceTemplate]:
    """How their addresses are made."""
    made = (
        ("sources/{source}", "source", "A source", "Tables, agreed measures and questions of a source."),
        ("sources/{source}/tables/{table}", "table", "A table", "The columns of a table, with what is known of them."),
        ("answers/{inquiry}", "answer", "An answer", "An earlier answer, as it came then."),
    )
    return [
        types.ResourceTemplate(
            uri_template=f"harquel://{path}", name=name, title=title, description=about, mime_type=MIME
        )
        for path, name, title, about in made
    ]


async def read(client: AsyncHarquel, uri: str, base: str) -> str:
    """The text of one. Raises HarquelError."""
    try:
        if found := _TABLE.fullmatch(uri):
            given = LookArguments(source=unquote(found[1]), table=unquote(found[2]))
            return catalog_text(await looked(client, given))
        if found := _SOURCE.fullmatch(uri):
            return catalog_text(await looked(client, LookArguments(source=unquote(found[1]))))
    except (NoSuchTable, ValueError) as error:
        raise _nothing() from error
    if found := _ANSWER.fullmatch(uri):
        inquiry = await client.inquiry(found[1])
        what = told(inquiry, f"{base}/inquiries/{inquiry.id}", rows=50)
        return text_of(what, inquiry.answer.table if inquiry.answer is not None else None)
    raise _nothing()


def _nothing() -> HarquelError:
    return HarquelError("There is no such resource, or not for this token.", "List resources and templates.")


async def prompts(client: AsyncHarquel) -> list[types.Prompt]:
    """Questions that were answered in a trial, a prompt each. Raises HarquelError."""
    return [
        types.Prompt(name=f"{source}-{number}", title=plain(question), description=f"Ask {source}: {plain(question)}")
        for source, number, question in await _questions(client)
    ]


async def prompt_of(client: AsyncHarquel, name: str) -> types.GetPromptResult:
    """What a person says to have it asked. Raises HarquelError."""
    for source, number, question in await _questions(client):
        if f"{source}-{number}" == name:
            text = (
                f"Use the tool ask with source={source} for this question, and pass the answer on with its mark and "
                f"reasons: {plain(question)}"
            )
            said = types.PromptMessage(role="user", content=types.TextContent(text=text))
            return types.GetPromptResult(description=plain(question), messages=[said])
    raise HarquelError("There is no such prompt, or not any more.", "List the prompts again.")


async def _questions(client: AsyncHarquel) -> list[tuple[str, int, str]]:
    found = [(s.name, n, q) for s in await client.sources() for n, q in enumerate(s.starters, 1)]
    return found[:_MOST_PROMPTS]


async def completed(client: AsyncHarquel, name: str, begun: str, given: dict[str, str]) -> list[str]:
    """How an argument of a template can go on; nothing for one that is not known. Raises HarquelError."""
    values: list[str] = []
    if name == "source":
        values = [line.name for line in await client.sources()]
    elif name == "table" and (source := given.get("source")):
        values = [table.name for table in (await client.catalog(source)).tables]
    elif name == "inquiry":
        values = [line.id for line in (await client.inquiries(_NEWEST, outcome="answered")).items]
    return [value for value in values if value.casefold().startswith(begun.casefold())]
