"""Holds what people see against the ledger: what differs, what has no entry, what has an entry and is gone.

Compared are inquiries (question, asker, source, outcome, the whole record, rows), tokens (what they may do, whether
they were revoked) and every version of notes and policies. Entries of earlier versions hold fewer digests: of those the
answer's text, outcome and trust are compared.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

from harquel.contract import Difference
from harquel.core.ledger.chain import text_digest
from harquel.service.access.models import Token
from harquel.service.inquiries.models import ResultRows, StoredInquiry
from harquel.service.sources.models import SourceDocument

from .digests import digest_of, rights
from .models import Entry, EntryText

_KINDS = (
    "accepted", "ended", "held", "token-created", "token-revoked", "document-changed", "source-changed",
    "source-removed",
)  # fmt: skip


@dataclass
class _Told:
    """What the ledger says of one inquiry."""

    who: str
    facts: dict[str, Any]
    question: tuple[str, str] | None
    last: str = "accepted"
    end: dict[str, Any] = field(default_factory=dict)
    answer: tuple[str, str] | None = None


@dataclass
class _Expected:
    inquiries: dict[str, _Told] = field(default_factory=dict)
    tokens: dict[int, dict[str, Any]] = field(default_factory=dict)
    revoked: set[int] = field(default_factory=set)
    documents: dict[tuple[str, str, int], str] = field(default_factory=dict)


def compare_records() -> tuple[int, list[Difference]]:
    """How many stored things were compared, and what was found. For a chain that holds; reads one state of it."""
    expected = _expected()
    count, found = 0, []
    for part in (_inquiries(expected), _tokens(expected), _documents(expected)):
        for difference in part:
            count += 1
            if difference is not None:
                found.append(difference)
    return count, found


def _expected() -> _Expected:
    told = _Expected()
    texts: dict[tuple[int, str], tuple[str, str]] = {
        (entry, name): (salt, digest)
        for entry, name, salt, digest in EntryText.objects.filter(
            name__in=("question", "answer"), entry__kind__in=("accepted", "ended")
        ).values_list("entry_id", "name", "salt", "digest").iterator(chunk_size=2000)
    }  # fmt: skip
    found = Entry.objects.filter(kind__in=_KINDS).order_by("seq").values_list("seq", "kind", "who", "inquiry", "body")
    for seq, kind, who, key, body in found.iterator(chunk_size=2000):
        facts = json.loads(bytes(body))["facts"]
        if kind == "accepted" and key:
            told.inquiries[key] = _Told(who, facts, texts.get((seq, "question")))
        elif kind in ("ended", "held") and key in told.inquiries:
            one = told.inquiries[key]
            one.last, one.end, one.answer = kind, facts, texts.get((seq, "answer"))
        elif kind == "token-created":
            told.tokens[facts["token"]] = facts
        elif kind == "token-revoked":
            told.revoked.add(facts["token"])
        elif kind == "document-changed":
            told.documents[facts["source"], facts["kind"], facts["number"]] = facts["digest"]
        elif kind in ("source-changed", "source-removed"):
            _moved(told, facts["source"], facts.get("name") if kind == "source-changed" else None)
    return told


def _moved(told: _Expected, old: str, new: str | None) -> None:
    """A source that was renamed takes its documents along; one that was removed takes them away."""
    if new == old:
        return
    for key in [k for k in told.documents if k[0] == old]:
        digest = told.documents.pop(key)
        if new is not None:
            told.documents[new, key[1], key[2]] = digest


def _inquiries(expected: _Expected) -> Iterator[Difference | None]:
    left = dict(expected.inquiries)
    rows = {r.inquiry_id: r for r in ResultRows.objects.all().iterator(chunk_size=500)}
    for stored in StoredInquiry.objects.select_related("person").iterator(chunk_size=500):
        told = left.pop(stored.key, None)
        said = "has no entry in the ledger" if told is None else _of_inquiry(stored, told, rows.get(stored.pk))
        yield Difference(what="inquiry", id=stored.key, said=said) if said else None
    for key in left:
        yield Difference(what="inquiry", id=key, said="has an entry in the ledger and is gone")


def _of_inquiry(stored: StoredInquiry, told: _Told, result: ResultRows | None) -> str:
    if told.who != stored.person.name:
        return f"was asked by {told.who}, not by {stored.person.name}"
    if told.facts.get("source") != stored.source:
        return f"was asked of {told.facts.get('source')}, not of {stored.source}"
    if told.question is not None and text_digest(told.question[0], stored.question) != told.question[1]:
        return "its question was changed"
    if told.last == "held" and stored.state == "held":
        return _of_record(stored, told.end)
    if told.last != "ended":
        return "is ended here and not in the ledger" if stored.state == "ended" else ""
    if stored.state != "ended":
        return "has ended, and does not say so"
    if (stored.outcome, stored.trust) != (told.end.get("outcome"), told.end.get("trust")):
        return f"ended as {told.end.get('outcome')} {told.end.get('trust') or ''}".rstrip() + ", and says otherwise"
    record = stored.record or {}
    if told.answer is not None and text_digest(told.answer[0], _answer(record)) != told.answer[1]:
        return "the text of its answer was changed"
    return _of_record(stored, told.end) or _of_rows(result, told.end)


def _answer(record: dict[str, Any]) -> str:
    return str((record.get("answer") or {}).get("text", ""))


def _of_record(stored: StoredInquiry, facts: dict[str, Any]) -> str:
    wanted = facts.get("record")
    return "its record was changed" if wanted is not None and digest_of(stored.record) != wanted else ""


def _of_rows(result: ResultRows | None, facts: dict[str, Any]) -> str:
    """Rows that were blanked say nothing; others must be those that came. Blanking leaves an empty place."""
    if result is None and facts.get("rows_digest") is not None:
        return "its rows are gone"
    for name in ("rows", "second"):
        wanted, found = facts.get(f"{name}_digest"), getattr(result, name, None)
        if found is not None and wanted is None and "record" in facts:
            return "has rows that never came"
        if wanted is not None and found is not None and digest_of(found) != wanted:
            return "its rows were changed"
    return ""


def _tokens(expected: _Expected) -> Iterator[Difference | None]:
    left = dict(expected.tokens)
    for token in Token.objects.select_related("person"):
        told = left.pop(token.pk, None)
        said = "has no entry in the ledger" if told is None else _of_token(token, told, token.pk in expected.revoked)
        yield Difference(what="token", id=str(token.pk), said=said) if said else None
    for number in left:
        yield Difference(what="token", id=str(number), said="has an entry in the ledger and is gone")


def _of_token(token: Token, told: dict[str, Any], revoked: bool) -> str:
    if told["person"] != token.person.name:
        return f"was made for {told['person']}, not for {token.person.name}"
    if (told["scopes"], told["sources"], told["roles"]) != (token.scopes, token.sources, token.roles):
        return "may do something else than it was made for"
    if "rights" in told and told["rights"] != rights(
        token.scopes, token.sources, token.roles, token.values, token.digest
    ):
        return "its values or its secret are not those that it was made with"
    if "expires_at" in told and told["expires_at"] != (token.expires_at and token.expires_at.isoformat()):
        return "comes to its end at another time"
    if told.get("parent") != token.parent_id:
        return "is that of another visit than it was made for"
    if revoked != (token.revoked_at is not None):
        return "was revoked, and counts again" if revoked else "is revoked here and not in the ledger"
    return ""


def _documents(expected: _Expected) -> Iterator[Difference | None]:
    left = dict(expected.documents)
    for document in SourceDocument.objects.iterator(chunk_size=200):
        name = f"{document.kind} of {document.source}, version {document.number}"
        wanted = left.pop((document.source, document.kind, document.number), None)
        said = ""
        if wanted is None:
            said = "has no entry in the ledger"
        elif hashlib.sha256(document.text.encode()).hexdigest() != wanted:
            said = "was changed"
        yield Difference(what="document", id=name, said=said) if said else None
    for source, kind, number in left:
        yield Difference(
            what="document", id=f"{kind} of {source}, version {number}", said="has an entry in the ledger and is gone"
        )
