"""What can be asked of casebooks; see calls.py."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from harquel.contract import (
    Casebook,
    CasebookLine,
    CasebookRequest,
    Casebooks,
    CasebookVersion,
    CasebookVersions,
    Sending,
    ShownAnswer,
)

from .calls import Call, part


def casebooks() -> Call[list[CasebookLine]]:
    """One's own and those that one may read."""
    return Call("GET", "casebooks", lambda found: Casebooks.model_validate(found).root)


def make_casebook(wish: CasebookRequest) -> Call[Casebook]:
    """Makes one."""
    body = wish.model_dump(mode="json")
    return Call("POST", "casebooks", Casebook.model_validate, body, creates=True)


def read_casebook(key: str, version: int | None = None) -> Call[Casebook]:
    """One as it is now, or as it was."""
    path = f"casebooks/{part(key)}" + (f"/versions/{version}" if version is not None else "")
    return Call("GET", path, Casebook.model_validate)


def write_casebook(
    key: str, version: int, *, title: str | None = None, text: str | None = None,
    readers: Sequence[str] | None = None, drop: Sequence[str] = (),
) -> Call[Casebook]:  # fmt: skip
    """Writes it anew on top of a version; what is left out stays."""
    given: dict[str, Any] = {"title": title, "text": text, "readers": list(readers) if readers is not None else None}
    body = {"version": version, **{k: v for k, v in given.items() if v is not None}, "drop": list(drop)}
    return Call("PATCH", f"casebooks/{part(key)}", Casebook.model_validate, body)


def remove_casebook(key: str) -> Call[None]:
    """Takes it away."""
    return Call("DELETE", f"casebooks/{part(key)}", lambda _: None)


def keep_in_casebook(key: str, inquiry: str, name: str | None = None, text: str = "") -> Call[Casebook]:
    """Keeps an answer of one's own in it."""
    body = {"inquiry": inquiry, "text": text, **({"name": name} if name is not None else {})}
    return Call("POST", f"casebooks/{part(key)}/answers", Casebook.model_validate, body, creates=True)


def keep_titled(inquiry: str, title: str, text: str = "") -> Call[Casebook]:
    """Keeps an answer of one's own in the casebook of one's own that is called so; makes it where there is none."""
    body = {"title": title, "text": text}
    return Call("POST", f"inquiries/{part(inquiry)}/casebooks", Casebook.model_validate, body, creates=True)


def run_casebook(key: str, names: Sequence[str] = (), way: Literal["again", "anew"] = "again") -> Call[Casebook]:
    """Asks its answers again, all or those named."""
    body = {"names": list(names), "way": way}
    return Call("POST", f"casebooks/{part(key)}/runs", Casebook.model_validate, body)


def casebook_file(key: str, form: Literal["html", "md"] = "html") -> Call[bytes]:
    """It as a file."""
    return Call("GET", f"casebooks/{part(key)}/file", bytes, params={"form": form}, raw=True)


def send_casebook(key: str, to: str) -> Call[Sending]:
    """Mails it."""
    return Call("POST", f"casebooks/{part(key)}/sendings", Sending.model_validate, {"to": to}, creates=True)


def casebook_history(key: str) -> Call[list[CasebookVersion]]:
    """Every time that it was written."""
    return Call("GET", f"casebooks/{part(key)}/versions", lambda found: CasebookVersions.model_validate(found).root)


def restore_casebook(key: str, version: int) -> Call[Casebook]:
    """Makes what it was its newest version."""
    return Call("POST", f"casebooks/{part(key)}/versions/{version}", Casebook.model_validate)


def shown_answer(inquiry: str) -> Call[ShownAnswer]:
    """An answer that somebody else may have asked for, as far as it is for oneself."""
    return Call("GET", f"inquiries/{part(inquiry)}/shown", ShownAnswer.model_validate)
