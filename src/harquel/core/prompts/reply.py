"""Takes a model's reply apart: JSON, fences, thinking, prose; SQL, a reason why not, or neither.

A reply is hostile and may be long: every step here goes over it a bounded number of times.
"""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Final, Literal

from harquel.core.domain.statements import DraftedStatement

LONGEST: Final = 200_000
"""Characters of a reply that are looked at; a longer one is no reply."""
_THINKING = re.compile(
    r"<(think|thinking|reasoning|reflection)>.*?(</\1>|\Z)|\[THINK\].*?(\[/THINK\]|\Z)", re.DOTALL | re.IGNORECASE
)
_THOUGHT = re.compile(r"</(?:think|thinking|reasoning)>", re.IGNORECASE)
_STARTS = re.compile(r"(SELECT|WITH|VALUES|INSERT|UPDATE|DELETE|CREATE|DROP|ALTER|PRAGMA)\b", re.IGNORECASE)
_FENCE: Final = "```"
_KIND: Final = 40
"""Characters of the line that opens a fence."""
LONGEST_WORDS: Final = 4000
"""Characters of an explanation that are kept."""
LONGEST_WHY: Final = 400
_SAYS: Final = frozenset({"sql", "cannot", "need", "ask"})
_OPENS = re.compile(r'\{\s{0,40}"')
_GOES_OVER: Final = 8
"""How many times a reply may be gone over in search of its JSON object."""


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


def take_apart(text: str, cut: bool = False) -> Reply:
    """What a reply says. Never raises: a reply that cannot be used is a NoSqlReply.

    Of several different statements none is taken: which of them was meant, its model has to say. `cut`: it stopped
    because its model may say no more. Of such a one only what was closed is taken: the rest of a statement may be its
    conditions.
    """
    if len(text) > LONGEST:
        return NoSqlReply(f"The reply has more than {LONGEST:,} characters; give the JSON object only.")
    text = without_thinking(text)
    fences, prose = _fences(text, cut)
    said = [_from_object(found) for found in _objects(text)]
    drafts = [one for one in said if isinstance(one, SqlReply)]
    drafts = [one for one in drafts if _is_sql(one.sql)] or drafts
    words = " ".join(prose.split())[:LONGEST_WORDS] if not drafts else ""
    drafts += [SqlReply(DraftedStatement(body), words) for _, body in fences if _is_sql(body)]
    if len({_alike(one.sql) for one in drafts}) > 1:
        return NoSqlReply("The reply holds several different statements; give exactly one.")
    if drafts:
        return drafts[0]
    if said:
        return said[0]
    if cut:
        return NoSqlReply("The reply was cut off at its longest; reply with the JSON object only, in fewer words.")
    if _is_sql(text):
        return SqlReply(DraftedStatement(text), "")
    return NoSqlReply("No SQL can be told apart from the prose; reply with the JSON object only.")


def _alike(sql: str) -> str:
    return " ".join(sql.split()).rstrip("; ")


def _objects(text: str) -> list[dict[str, object]]:
    """Those that say something; one in a text that is JSON itself, as the arguments of a call are, counts as well."""
    found = list(objects_in(text, _SAYS))
    if found or text[:1] not in ('"', "{"):
        return found
    try:
        whole = json.loads(text, strict=False)
    except (ValueError, RecursionError):
        return []
    inside = whole.values() if isinstance(whole, dict) else [whole]
    return [one for part in inside if isinstance(part, str) for one in objects_in(part, _SAYS)]


def without_thinking(text: str) -> str:
    """What a model says once it has thought."""
    left = _THINKING.sub("", text)
    # Some servers keep the tag with which it begins to themselves.
    return _THOUGHT.split(left)[-1].strip("\ufeff \n\r\t")


def _fences(text: str, cut: bool) -> tuple[list[tuple[str, str]], str]:
    """Kind and body of every fence, and what stands outside them. Linear. The last one need not be closed, unless the
    text was cut.
    """
    found, outside, done, at = [], [], 0, text.find(_FENCE)
    while at >= 0:
        opened = at + len(_FENCE)
        line = text[opened : opened + _KIND].partition("\n")
        kind = line[0].strip()
        if not line[1] or not (kind == "" or kind.isidentifier()):
            at = text.find(_FENCE, opened)
            continue
        begins = opened + len(line[0]) + 1
        ends = text.find(_FENCE, begins)
        if ends < 0 and cut:
            break
        ends = ends if ends >= 0 else len(text)
        found.append((kind.lower(), text[begins:ends].strip()))
        outside.append(text[done:at])
        done = ends + len(_FENCE)
        at = text.find(_FENCE, done)
    return found, "".join((*outside, text[done:]))


def _is_sql(text: str) -> bool:
    """Whether a text begins like a statement, behind comments and parentheses."""
    at = 0
    while at < len(text):
        if text[at].isspace() or text[at] == "(":
            at += 1
        elif text.startswith("--", at):
            ends = text.find("\n", at)
            at = ends + 1 if ends >= 0 else len(text)
        elif text.startswith("/*", at):
            ends = text.find("*/", at)
            at = ends + 2 if ends >= 0 else len(text)
        else:
            return _STARTS.match(text, at) is not None
    return False


def object_in(text: str, says: frozenset[str]) -> dict[str, object] | None:
    """The first JSON object with one of some keys."""
    return next(objects_in(text, says), None)


def objects_in(text: str, says: frozenset[str]) -> Iterator[dict[str, object]]:
    """The JSON objects with one of some keys, the outermost of each. Whatever the text, it is gone over a bounded
    number of times.
    """
    decoder = json.JSONDecoder(strict=False)
    left, opened = _GOES_OVER * len(text), _OPENS.search(text)
    while opened is not None and left > 0:
        start = after = opened.start()
        try:
            value, ends = decoder.raw_decode(text, start)
        except json.JSONDecodeError as error:
            # The library counts the lines from the first character on.
            ends = start + error.pos
        except (RecursionError, ValueError):
            ends = start + len(text)  # nested beyond measure, or a number of thousands of digits
        else:
            if isinstance(value, dict) and (says & value.keys()):
                yield value
                after = ends - 1
        left -= ends - start + 1
        opened = _OPENS.search(text, after + 1)


def _from_object(value: dict[str, object]) -> Reply:
    sql, cannot = value.get("sql"), value.get("cannot")
    if isinstance(sql, str) and sql.strip():
        fences, outside = _fences(sql, cut=True)
        bare = fences[0][1] if len(fences) == 1 and not outside.strip() else sql.strip()
        return SqlReply(DraftedStatement(bare), str(value.get("explanation") or "").strip()[:LONGEST_WORDS])
    cannot = re.sub(r"[_\s]+", "-", cannot.strip().lower()) if isinstance(cannot, str) else None
    if cannot in ("not-in-data", "not-allowed"):
        reason: Literal["not-in-data", "not-allowed"] = "not-allowed" if cannot == "not-allowed" else "not-in-data"
        return CannotReply(reason, " ".join(str(value.get("why") or "").split())[:LONGEST_WHY])
    return _wish(value)


def _wish(value: dict[str, object]) -> Reply:
    """What a reply without a statement asks for."""
    need = value.get("need")
    need = [need] if isinstance(need, str) else need
    if isinstance(need, list) and (wanted := tuple(str(w).strip()[:80] for w in need[:10] if str(w).strip())):
        return MoreReply(wanted)
    ask, readings = value.get("ask"), value.get("readings")
    if isinstance(ask, str) and isinstance(readings, list):
        told = tuple(dict.fromkeys(" ".join(str(r).split())[:200] for r in readings[:4] if str(r).strip()))
        if ask.strip() and len(told) > 1:
            return AskReply(" ".join(ask.split())[:300], told)
    return NoSqlReply('The JSON object holds neither "sql" nor a known "cannot".')
