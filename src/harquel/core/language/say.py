"""What we say to people, in the languages we speak: from catalogues of messages (Project Fluent), a file each."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path
from typing import Any, Final

from fluent.runtime import FluentBundle, FluentResource

LANGUAGES: Final = ("en", "de")
_FOLDER: Final = Path(__file__).with_name("messages")


def say(language: str, message: str, **values: str | int) -> str:
    """A message with its values in place, or its attribute ("message.attribute"); English where nobody has translated
    it. Raises LookupError, ValueError.
    """
    return _said(language, message, values) if values else _alone(language, message)


class Said(str):
    """Words in English that can be told in another language, too: for what is made before it is known who reads it.

    It is what it says: a text like any other, and whatever takes it for one may.
    """

    message: str
    values: dict[str, str | int]

    def __new__(cls, text: str, message: str, values: dict[str, str | int]) -> Said:
        """`text` is what the message says in English."""
        made = super().__new__(cls, text)
        made.message, made.values = message, values
        return made

    def __getnewargs__(self) -> tuple[str, str, dict[str, str | int]]:  # type: ignore[override]
        return str(self), self.message, self.values


def said_as(message: str, **values: str | int) -> Said:
    """A message in English that is told in other languages by `in_language`; its values may be such themselves."""
    return Said(say(LANGUAGES[0], message, **values), message, values)


def in_language(text: str, language: str) -> str:
    """A text as it is told in a language; what was not made as a message stays as it is."""
    if not isinstance(text, Said) or language == LANGUAGES[0]:
        return str(text)
    told = {name: in_language(v, language) if isinstance(v, str) else v for name, v in text.values.items()}
    return say(language, text.message, **told)


def packed(text: str) -> Any:
    """A text as JSON can carry it to another process, and still be told there in other languages."""
    if not isinstance(text, Said):
        return str(text)
    values = {name: packed(v) if isinstance(v, str) else v for name, v in text.values.items()}
    return {"message": text.message, "values": values}


def unpacked(value: Any) -> str:
    """What was packed. Raises LookupError, ValueError for what no catalogue holds."""
    if not isinstance(value, dict):
        return str(value)
    values = {name: v if isinstance(v, int) else unpacked(v) for name, v in value["values"].items()}
    return said_as(str(value["message"]), **values)


@lru_cache(maxsize=512)
def _alone(language: str, message: str) -> str:
    """One without values: most of them, and each a millisecond's tenth to put together."""
    return _said(language, message, {})


def _said(language: str, message: str, values: dict[str, str | int]) -> str:
    name, _, attribute = message.partition(".")
    bundle = catalogue(language)
    if not bundle.has_message(name):
        bundle = catalogue(LANGUAGES[0])
    found = bundle.get_message(name)
    pattern = found.attributes[attribute] if attribute else found.value
    if pattern is None:
        raise LookupError(f"{message} has no text")
    text, errors = bundle.format_pattern(pattern, values)
    if errors:
        raise ValueError(f"{message} in {language}: {errors}")
    # A value that is empty at the end leaves no blank behind.
    return str(text).rstrip()


@lru_cache(maxsize=len(LANGUAGES))
def catalogue(language: str) -> FluentBundle:
    """All messages of a language."""
    # What marks off the direction of a value belongs to where text of both directions is shown, not into a record.
    bundle = FluentBundle([language], use_isolating=False)
    for name in (f"{language}.ftl", f"problems.{language}.ftl"):
        bundle.add_resource(FluentResource((_FOLDER / name).read_text(encoding="utf-8")))
    return bundle
