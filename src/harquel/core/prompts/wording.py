"""The wish for a wording: what a model is told of a result, and what it says of it."""

from __future__ import annotations

from typing import Any, Final

from harquel.contract.figures import written
from harquel.core.domain.inquiry import ResultTable
from harquel.core.llm.model import Message
from harquel.core.prompts.compose import opened
from harquel.core.prompts.reply import LONGEST, object_in, without_thinking
from harquel.core.prompts.templates import SHIPPED, Prompts

_LONGEST_CELL: Final = 80
_SAYS: Final = frozenset({"says"})


def compose_wording(question: str, ours: str, table: ResultTable, prompts: Prompts = SHIPPED) -> list[Message]:
    """From the result only: the question, our own sentence, the rows."""
    head = "\t".join(f"{c.name} ({c.unit})" if c.unit else c.name for c in table.columns)
    rows = "\n".join("\t".join(_cell(v, n, table) for n, v in enumerate(row)) for row in table.rows)
    return opened(prompts, "word", sentence=ours, rows=f"{head}\n{rows}", question=question)


def _cell(value: Any, at: int, table: ResultTable) -> str:
    text = " ".join(str(written(value, table.columns[at])).split())
    return text if len(text) <= _LONGEST_CELL else f"{text[:_LONGEST_CELL]}…"


def said_in(reply: str) -> str:
    """What a reply says; empty where it says nothing in the form that was asked for."""
    found = object_in(without_thinking(reply), _SAYS) if len(reply) <= LONGEST else None
    said = found.get("says") if found is not None else None
    return said.strip() if isinstance(said, str) else ""
