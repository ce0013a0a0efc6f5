"""What can be asked of the service: each call as a value that either client sends."""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any, Generic, TypeVar
from urllib.parse import quote

from pydantic import TypeAdapter

from harquel.contract import (
    CatalogShape,
    ChatCode,
    ChatLine,
    ChatLink,
    ChatLinks,
    Chats,
    Drawing,
    DrawWish,
    EntryPage,
    Form,
    Inquiry,
    InquiryPage,
    LedgerKeys,
    Me,
    ModelCheck,
    ModelLine,
    Reloaded,
    ReviewShape,
    SealShape,
    Sending,
    Sendings,
    SourceLine,
    Standstill,
    Token,
    TokenCreated,
    UsageReport,
    Verification,
    Visit,
    Watch,
    Watches,
    WatchRequest,
)

T = TypeVar("T")
LONGEST_WAIT_S = 60.0


@dataclass(frozen=True)
class Call(Generic[T]):
    """A request and how to read its response. What `creates` something bears an idempotency key when it is sent."""

    method: str
    path: str
    read: Callable[[Any], T]
    body: dict[str, Any] | None = None
    params: dict[str, str] = field(default_factory=dict)
    headers: dict[str, str] = field(default_factory=dict)
    creates: bool = False
    raw: bool = False
    """Whether the response is a file and no JSON."""


def _nothing(_: Any) -> None:
    return None


def part(name: str) -> str:
    """One part of a path, whatever stands in it: it leads to nothing else."""
    return quote(name, safe="") if name.strip(".") else quote(name, safe="").replace(".", "%2E")


def me() -> Call[Me]:
    """Who am I."""
    return Call("GET", "me", Me.model_validate)


def ask(
    question: str,
    source: str | None,
    follows: str | None,
    as_of: dt.datetime | None,
    wait_s: float,
    idempotency_key: str | None,
    silence: Sequence[str] = (),
    language: str | None = None,
    complete: bool = False,
) -> Call[Inquiry]:
    """Starts an inquiry and waits up to `wait_s` seconds, at most a minute a request."""
    given: dict[str, Any] = {
        "source": source, "follows": follows, "as_of": as_of.isoformat() if as_of else None, "silence": list(silence),
        "language": language, "complete": complete,
    }  # fmt: skip
    body = {"question": question, "wait_s": min(wait_s, LONGEST_WAIT_S)} | {k: v for k, v in given.items() if v}
    headers = {"Idempotency-Key": idempotency_key} if idempotency_key else {}
    return Call("POST", "inquiries", Inquiry.model_validate, body, headers=headers, creates=True)


def choose(key: str, choice: str, wait_s: float) -> Call[Inquiry]:
    """Starts the inquiry that follows one which asked back, with the reading that was chosen."""
    body = {"follows": key, "choice": choice, "wait_s": min(wait_s, LONGEST_WAIT_S)}
    return Call("POST", "inquiries", Inquiry.model_validate, body, creates=True)


def redraft(key: str, model: str | None, shipped: bool, wait_s: float) -> Call[Inquiry]:
    """Has an answered question of one's own drafted again, by another model or by the templates that ship."""
    body: dict[str, Any] = {"follows": key, "choice": "redraft", "wait_s": min(wait_s, LONGEST_WAIT_S)}
    body |= {"templates": "shipped" if shipped else "own"} | ({"model": model} if model else {})
    return Call("POST", "inquiries", Inquiry.model_validate, body, creates=True)


def inquiry(key: str) -> Call[Inquiry]:
    """One inquiry, whole."""
    return Call("GET", f"inquiries/{part(key)}", Inquiry.model_validate)


def take_away(key: str, form: Form, picture: str = "") -> Call[bytes]:
    """The answer of an inquiry as a file; its chart as it is wished in words."""
    wished = {"say": picture} if picture else {}
    return Call("GET", f"inquiries/{part(key)}/file", bytes, params={"form": form, **wished}, raw=True)


def draw(key: str, wish: DrawWish) -> Call[Drawing]:
    """The chart of an answer."""
    given = {name: str(value) for name, value in wish.model_dump(exclude_none=True).items() if value != ""}
    return Call("GET", f"inquiries/{part(key)}/chart", Drawing.model_validate, params=given)


RESTING = frozenset({"ended", "held"})
"""States in which nothing goes on until somebody does something."""


def inquiries(
    cursor: str | None, limit: int, source: str | None, outcome: str | None, state: str | None,
    thread: str | None = None,
) -> Call[InquiryPage]:  # fmt: skip
    """A page of inquiries, newest first."""
    given = {
        "cursor": cursor, "limit": str(limit), "source": source, "outcome": outcome, "state": state, "thread": thread,
    }  # fmt: skip
    return Call(
        "GET", "inquiries", InquiryPage.model_validate,
        params={k: v for k, v in given.items() if v},
    )  # fmt: skip


def cancel(key: str) -> Call[None]:
    """Asks an inquiry to stop."""
    return Call("POST", f"inquiries/{part(key)}/cancel", _nothing)


def send_on(key: str, to: str, attach: str | None = None) -> Call[Sending]:
    """Has an answer of one's own sent to a destination of the service's configuration, or as mail to an address, with
    its rows as a file (xlsx, csv) where `attach` says so.
    """
    body = {"to": to} | ({"attach": attach} if attach else {})
    return Call("POST", f"inquiries/{part(key)}/sendings", Sending.model_validate, body, creates=True)


def sendings() -> Call[list[Sending]]:
    """What was sent on, newest first."""
    return Call("GET", "sendings", lambda found: Sendings.model_validate(found).root)


def send_again(key: str) -> Call[Sending]:
    """Tries again what was given up."""
    return Call("POST", f"sendings/{part(key)}/again", Sending.model_validate)


def watch(key: str, wish: WatchRequest) -> Call[Watch]:
    """Has the question of an answer of one's own asked again by itself."""
    body = wish.model_dump(mode="json", exclude_none=True)
    return Call("POST", f"inquiries/{part(key)}/watches", Watch.model_validate, body, creates=True)


def watches() -> Call[list[Watch]]:
    """What is watched, each with its last run."""
    return Call("GET", "watches", lambda found: Watches.model_validate(found).root)


def read_watch(key: str) -> Call[Watch]:
    """One, with its last runs."""
    return Call("GET", f"watches/{part(key)}", Watch.model_validate)


def change_watch(key: str, paused: bool | None = None, when: str | None = None) -> Call[Watch]:
    """Lets it rest or go on, or says when anew."""
    given = {"paused": paused, "when": when}
    return Call(
        "PATCH", f"watches/{part(key)}", Watch.model_validate, {k: v for k, v in given.items() if v is not None}
    )


def end_watch(key: str) -> Call[None]:
    """Ends it."""
    return Call("DELETE", f"watches/{part(key)}", _nothing)


def run_watch(key: str) -> Call[Watch]:
    """Has it asked now."""
    return Call("POST", f"watches/{part(key)}/runs", Watch.model_validate)


def chats() -> Call[list[ChatLine]]:
    """The chats in which one can ask."""
    return Call("GET", "chats", lambda found: Chats.model_validate(found).root)


def chat_code(chat: str) -> Call[ChatCode]:
    """A code by which one shows in a chat who one is."""
    return Call("POST", f"chats/{part(chat)}/codes", ChatCode.model_validate)


def chat_links() -> Call[list[ChatLink]]:
    """Who of which chat asks in one's name."""
    return Call("GET", "chats/links", lambda found: ChatLinks.model_validate(found).root)


def end_chat_link(number: int) -> Call[None]:
    """Ends such a link."""
    return Call("DELETE", f"chats/links/{number}", _nothing)


def review(source: str, sql: str, question: str | None) -> Call[ReviewShape]:
    """What guard and review make of a statement."""
    body = {"sql": sql} | ({"question": question} if question else {})
    return Call("POST", f"sources/{part(source)}/reviews", ReviewShape.model_validate, body)


def sources() -> Call[list[SourceLine]]:
    """All sources for this token."""
    return Call("GET", "sources", TypeAdapter(list[SourceLine]).validate_python)


def source(name: str) -> Call[SourceLine]:
    """One source."""
    return Call("GET", f"sources/{part(name)}", SourceLine.model_validate)


def catalog(name: str) -> Call[CatalogShape]:
    """What a source holds."""
    return Call("GET", f"sources/{part(name)}/catalog", CatalogShape.model_validate)


def tokens() -> Call[list[Token]]:
    """All tokens."""
    return Call("GET", "tokens", TypeAdapter(list[Token]).validate_python)


def models() -> Call[list[ModelLine]]:
    """The language models of the configuration."""
    return Call("GET", "models", TypeAdapter(list[ModelLine]).validate_python)


def check_model(name: str) -> Call[ModelCheck]:
    """Whether a language model can be used."""
    return Call("POST", f"models/{part(name)}/check", ModelCheck.model_validate)


def usage(by: str, since: str | None, until: str | None) -> Call[UsageReport]:
    """What calls of language models came to."""
    params = {"by": by} | ({"since": since} if since else {}) | ({"until": until} if until else {})
    return Call("GET", "usage", UsageReport.model_validate, params=params)


def reload() -> Call[Reloaded]:
    """Reads the configuration again."""
    return Call("POST", "configuration/reload", Reloaded.model_validate)


def standstill(on: bool | None) -> Call[Standstill]:
    """Switches the standstill, or with None asks for its state."""
    if on is None:
        return Call("GET", "standstill", Standstill.model_validate)
    return Call("PUT", "standstill", Standstill.model_validate, {"on": on})


def release(key: str, approve: bool, note: str = "") -> Call[Inquiry]:
    """Lets a held statement run, or not."""
    return Call("POST", f"inquiries/{part(key)}/release", Inquiry.model_validate, {"approve": approve, "note": note})


def create_token(
    name: str, person: str, sources: list[str], scopes: list[str], roles: list[str], values: dict[str, Any],
    days: int | None = 365,
) -> Call[TokenCreated]:  # fmt: skip
    """A new token with its secret; `days` until it ends by itself, None: never."""
    body = {
        "name": name, "person": person, "sources": sources, "scopes": scopes, "roles": roles, "values": values,
        "days": days,
    }  # fmt: skip
    return Call("POST", "tokens", TokenCreated.model_validate, body, creates=True)


def revoke_token(token_id: int) -> Call[None]:
    """Revokes a token."""
    return Call("DELETE", f"tokens/{token_id}", _nothing)


def ledger(cursor: str | None, limit: int, inquiry_key: str | None) -> Call[EntryPage]:
    """A page of ledger entries, newest first."""
    given = {"cursor": cursor, "limit": str(limit), "inquiry": inquiry_key}
    return Call(
        "GET", "ledger", EntryPage.model_validate,
        params={k: v for k, v in given.items() if v},
    )  # fmt: skip


def ledger_keys() -> Call[LedgerKeys]:
    """The public keys of the ledger."""
    return Call("GET", "ledger/keys", LedgerKeys.model_validate)


def change_ledger_key() -> Call[LedgerKeys]:
    """A new key for the ledger's seals."""
    return Call("POST", "ledger/keys", LedgerKeys.model_validate)


def seal_ledger() -> Call[SealShape]:
    """A seal on the chain as it is now."""
    return Call("POST", "ledger/seals", SealShape.model_validate)


def verify_ledger(anchor: str | None) -> Call[Verification]:
    """Whether the chain holds."""
    return Call("GET", "ledger/verification", Verification.model_validate, params={"anchor": anchor} if anchor else {})


def begin_visit(visitor: str, sources: Sequence[str] = ("*",), minutes: int = 15) -> Call[Visit]:
    """A token for a short while, to be handed to a page; it asks and reads what it asked, and nothing else."""
    body = {"visitor": visitor, "sources": list(sources), "minutes": minutes}
    return Call("POST", "visits", Visit.model_validate, body)
