"""What operations raise for whoever called: errors with a name, a status and a hint, whatever way they came in."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Final

from django.utils.translation.trans_real import parse_accept_lang_header

from harquel.contract import Problem
from harquel.core.domain.inquiry import ProblemNote
from harquel.core.language.say import LANGUAGES, in_language, said_as, say

MEDIA_TYPE: Final = "application/problem+json"
_LONGEST: Final = 200
"""Characters of a header that are looked at."""


def spoken(headers: Mapping[str, str]) -> str:
    """The language of ours that whoever called reads best, by the header Accept-Language."""
    wished = parse_accept_lang_header(headers.get("Accept-Language", "")[:_LONGEST])
    return next((code for tag, _ in wished if (code := tag.partition("-")[0]) in LANGUAGES), LANGUAGES[0])


class ProblemError(Exception):
    """An error with a name of its own. It becomes the response, in the language of whoever called."""

    def __init__(
        self, status: int, name: str, message: str, headers: Mapping[str, str] | None = None, /, **values: str | int
    ) -> None:  # fmt: skip
        """`message` is one of the catalogue, with the hint as its attribute; `values` are put into both."""
        self._set(status, name, said_as(message, **values), said_as(f"{message}.hint", **values), headers)

    @classmethod
    def saying(
        cls, status: int, name: str, title: str, hint: str = "", headers: Mapping[str, str] | None = None
    ) -> ProblemError:  # fmt: skip
        """In words that were made elsewhere."""
        made = cls.__new__(cls)
        made._set(status, name, title, hint, headers)
        return made

    def with_hint(self, hint: str) -> ProblemError:
        """The same, but for what to do about it."""
        self._hint = hint
        return self

    def with_more(self, **more: Any) -> ProblemError:
        """The same with other fields of the problem, too."""
        self._more.update(more)
        return self

    def _set(self, status: int, name: str, title: str, hint: str, headers: Mapping[str, str] | None) -> None:
        Exception.__init__(self, str(title))
        self.status, self.name, self._title, self._hint = status, name, title, hint
        self.headers = dict(headers or {})
        self._more = dict[str, Any]()

    @property
    def problem(self) -> Problem:
        """In English, for whoever calls without a language."""
        return self.told()

    def told(self, language: str = LANGUAGES[0]) -> Problem:
        """The problem, in a language as far as its words are ours."""
        title, hint = in_language(self._title, language).strip(), in_language(self._hint, language)
        return Problem(type=f"/problems/{self.name}", title=title, status=self.status, hint=hint, **self._more)


def not_found(message: str, name: str, known: str = "") -> ProblemError:
    """There is no such thing, or it is not for the caller: both sound the same. The message names what."""
    return ProblemError(404, message.removeprefix("problem-"), message, name=name, known=known)


def note_of(kind: str, message: str, language: str, **values: str | int) -> ProblemNote:
    """How an inquiry ended that did not end well, by a message of the catalogue."""
    return ProblemNote(
        type=kind, title=say(language, message, **values), hint=say(language, f"{message}.hint", **values)
    )


def records_trouble(why: str) -> ProblemError:
    """Nothing is answered that cannot be put on record."""
    return ProblemError(503, "records-unwritable", "problem-records-unwritable", {"Retry-After": "10"}, why=why)
