"""The conversation with the models that draft SQL and read questions, by the templates of a source."""

from __future__ import annotations

import datetime as dt
from collections.abc import Sequence
from typing import Any

from harquel.core.briefing.brief import Briefing
from harquel.core.domain.findings import Finding
from harquel.core.llm.model import Message
from harquel.core.prompts.templates import SHIPPED, Name, Prompts

DIALECT_NAMES = {"sqlite": "SQLite", "postgresql": "PostgreSQL", "mariadb": "MariaDB (|| joins texts)"}
_LONGEST_ERROR = 300


def opened(prompts: Prompts, name: Name, **values: Any) -> list[Message]:
    """The first messages of a conversation."""
    system, user = prompts.write(name, "system"), prompts.write(name, "user", **values)
    return [{"role": "system", "content": system}, {"role": "user", "content": user}]


def moment(instant: dt.datetime) -> str:
    """An instant as models are told it."""
    return f"{instant:%Y-%m-%d %H:%M:%S} ({instant:%A})"


def _of_the_source(question: str, briefing: Briefing, now: dt.datetime, person: str) -> dict[str, Any]:
    return {
        "now": moment(now), "person": person, "general": briefing.general, "calendar": briefing.reckoned,
        "schema": briefing.schema, "measures": briefing.measures, "question": question,
    }  # fmt: skip


def compose_reading(
    question: str, briefing: Briefing, now: dt.datetime, person: str, prompts: Prompts = SHIPPED
) -> list[Message]:  # fmt: skip
    """The wish for a reading: neither a draft nor an example is in it."""
    return opened(prompts, "read", **_of_the_source(question, briefing, now, person))


def read_again(faults: Sequence[str], prompts: Prompts = SHIPPED) -> Message:
    """What is wrong with a reading, as the next message to the model."""
    return {"role": "user", "content": prompts.write("read", "faults", faults=faults)}


def compose(
    question: str, briefing: Briefing, now: dt.datetime, person: str, afresh: bool = False, prompts: Prompts = SHIPPED
) -> list[Message]:  # fmt: skip
    """The opening of the conversation; `afresh` for a draft that is to be compared with another."""
    examples = [{"question": e.question, "sql": " ".join(e.sql.split())} for e in briefing.examples]
    return opened(
        prompts, "draft", dialect=DIALECT_NAMES[briefing.engine], examples=examples, afresh=afresh,
        **_of_the_source(question, briefing, now, person),
    )  # fmt: skip


def doubts(findings: Sequence[Finding], prompts: Prompts = SHIPPED) -> Message:
    """What is doubtful about a draft that could run, as the next message to the model."""
    return {"role": "user", "content": prompts.write("draft", "doubts", findings=_told(findings))}


def feedback(findings: Sequence[Finding], error: str | None, prompts: Prompts = SHIPPED) -> Message:
    """What was wrong with the last reply, as the next message to the model."""
    # Its words can hold a value, and a value can try to give orders: in quotes, as every text from the database.
    quoted = " ".join((error or "").split()).replace("'", "''")[:_LONGEST_ERROR]
    # The same fault in several places is one thing to be told.
    told = list({tuple(one.values()): one for one in _told(findings)}.values())
    return {"role": "user", "content": prompts.write("draft", "faults", findings=told, error=quoted)}


def _told(findings: Sequence[Finding]) -> list[dict[str, str]]:
    return [{"rule": f.rule, "message": str(f.message), "hint": str(f.hint)} for f in findings]
