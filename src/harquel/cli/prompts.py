"""What models were told and said for an inquiry, call by call: from its entries in the ledger."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

from rich.console import Group, RenderableType
from rich.rule import Rule
from rich.text import Text

from harquel.client import StreamEvent
from harquel.contract import events

DUTIES = {"": "draft", "control": "reading", "word": "wording"}
"""What a call was for, by what its entries say."""


@dataclass
class ToldAndSaid:
    """One call: who was asked for what, the messages, and what came back (None: nothing)."""

    number: int
    duty: str
    asked: str
    messages: list[dict[str, str]] = field(default_factory=list)
    reply: str | None = None
    answered: str = ""
    prompt_tokens: int = 0
    completion_tokens: int = 0


def calls_of(told: list[StreamEvent]) -> list[ToldAndSaid]:
    """In the order in which they were made. A reply belongs to the oldest call of its number and duty without one."""
    found: list[ToldAndSaid] = []
    for event in told:
        what = event.what
        if isinstance(what, events.Prompted):
            prompt = event.texts.get("prompt")
            messages: list[dict[str, str]] = json.loads(prompt) if prompt else []
            duty = DUTIES.get(what.duty or "", what.duty or "")
            found.append(ToldAndSaid(what.number, duty, what.model, messages))
        elif isinstance(what, events.Replied):
            duty = DUTIES.get(what.duty or "", what.duty or "")
            waiting = (c for c in found if c.reply is None and (c.number, c.duty) == (what.number, duty))
            call = next(waiting, None)
            if call is not None:
                call.reply, call.answered = event.texts.get("reply") or "", what.model or call.asked
                call.prompt_tokens, call.completion_tokens = what.prompt_tokens, what.completion_tokens
    return found


def as_data(call: ToldAndSaid) -> dict[str, Any]:
    """For JSON."""
    return {**vars(call)}


def shown(calls: list[ToldAndSaid]) -> RenderableType:
    """Each whole."""
    return Group(*(part for call in calls for part in _parts(call)))


def _parts(call: ToldAndSaid) -> Iterator[RenderableType]:
    yield Rule(f"{call.duty} {call.number}, asked of {call.asked}", align="left", style="bold")
    if not call.messages:
        yield Text("What it was told is kept no more.", style="dim")
    for message in call.messages:
        yield Rule(message["role"], align="left", style="dim")
        yield Text(message["content"])
    who = f", by {call.answered}" if call.answered not in ("", call.asked) else ""
    said = f"reply{who} · {call.prompt_tokens:,} tokens read, {call.completion_tokens:,} written"
    yield Rule(said if call.reply is not None else "no reply", align="left", style="dim")
    yield Text((call.reply or "") + "\n")
