"""Takes a model's reply apart: JSON, fences, thinking, prose; SQL, a reason why not, or neither."""

from __future__ import annotations

import json
import re
from dataclasses import dataclass
from typing import Literal

from harquel.core.domain.statements import DraftedStatement

_THINKING = re.compile(r"<(think|thinking|reasoning)>.*?(</\1>|\Z)", re.DOTALL | re.IGNORECASE)
_FENCE = re.compile(r"```[ \t]*(\w*)[ \t]*\n(.*?)```", re.DOTALL)
_STARTS = re.compile(r"\s*\(*\s*(SELECT|WITH|VALUES|INSERT|UPDATE|DELETE|CREATE|DROP|ALTER|PRAGMA)\b", re.IGNORECASE)


@dataclass(frozen=True)
class SqlReply:
    """A draft with the model's own explanation."""

    sql: DraftedStatement
    explanation: str


@dataclass(frozen=True)
class CannotReply:
    """The model says that it cannot, and why."""

    reason: Literal["not-in-data", "not-allowed"]
    why: str


@dataclass(frozen=True)
class MoreReply:
    """The model wants to see more of the catalog: names of tables, or words."""

    wanted: tuple[str, ...]


@dataclass(frozen=True)
class AskReply:
    """The model cannot decide between readings of the question."""

    question: str
    readings: tuple[str, ...]


@dataclass(frozen=True)
class NoSqlReply:
    """Nothing usable could be told apart; `fault` says so for the model."""

    fault: str


Reply = SqlReply | CannotReply | MoreReply | AskReply | NoSqlReply


def take_apart(text: str) -> Reply:
    """What a reply says. Never raises: a reply that cannot be used is a NoSqlReply."""
    text = _THINKING.sub("", text).strip()
    fences = [(kind.lower(), body.strip()) for kind, body in _FENCE.findall(text)]
    for candidate in [body for kind, body in fences if kind in ("json", "")] + [text]:
        found = _object(candidate)
        if found is not None:
            return _from_object(found)
    statements = [body for kind, body in fences if _STARTS.match(body)]
    if len(statements) == 1:
        prose = _FENCE.sub("", text)
        return SqlReply(DraftedStatement(statements[0]), " ".join(prose.split()))
    if len(statements) > 1:
        return NoSqlReply("The reply holds several SQL blocks; give exactly one.")
    if _STARTS.match(text):
        return SqlReply(DraftedStatement(text), "")
    return NoSqlReply("No SQL can be told apart from the prose; reply with the JSON object only.")


def _object(text: str) -> dict[str, object] | None:
    decoder = json.JSONDecoder(strict=False)
    for start in (m.start() for m in re.finditer(r"\{", text)):
        try:
            value, _ = decoder.raw_decode(text, start)
        except (json.JSONDecodeError, RecursionError):
            continue
        if isinstance(value, dict) and ({"sql", "cannot", "need", "ask"} & value.keys()):
            return value
    return None


def _from_object(value: dict[str, object]) -> Reply:
    sql, cannot = value.get("sql"), value.get("cannot")
    if isinstance(sql, str) and sql.strip():
        return SqlReply(DraftedStatement(sql.strip()), str(value.get("explanation") or "").strip())
    if cannot in ("not-in-data", "not-allowed"):
        reason: Literal["not-in-data", "not-allowed"] = "not-allowed" if cannot == "not-allowed" else "not-in-data"
        return CannotReply(reason, str(value.get("why") or "").strip())
    need = value.get("need")
    if isinstance(need, list) and (wanted := tuple(str(w).strip()[:80] for w in need[:10] if str(w).strip())):
        return MoreReply(wanted)
    ask, readings = value.get("ask"), value.get("readings")
    if isinstance(ask, str) and isinstance(readings, list):
        told = tuple(dict.fromkeys(" ".join(str(r).split())[:200] for r in readings[:4] if str(r).strip()))
        if ask.strip() and len(told) > 1:
            return AskReply(" ".join(ask.split())[:300], told)
    return NoSqlReply('The JSON object holds neither "sql" nor a known "cannot".')
