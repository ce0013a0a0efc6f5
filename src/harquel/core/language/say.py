"""What we say to people, in the languages we speak: from catalogues of messages (Project Fluent), a file each."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path
from typing import Final

from fluent.runtime import FluentBundle, FluentResource

LANGUAGES: Final = ("en", "de")
_FOLDER: Final = Path(__file__).with_name("messages")


def say(language: str, message: str, **values: str | int) -> str:
    """A message with its values in place; English where nobody has translated it. Raises LookupError, ValueError."""
    return _said(language, message, values) if values else _alone(language, message)


@lru_cache(maxsize=512)
def _alone(language: str, message: str) -> str:
    """One without values: most of them, and each a millisecond's tenth to put together."""
    return _said(language, message, {})


def _said(language: str, message: str, values: dict[str, str | int]) -> str:
    bundle = catalogue(language)
    if not bundle.has_message(message):
        bundle = catalogue(LANGUAGES[0])
    pattern = bundle.get_message(message).value
    if pattern is None:
        raise LookupError(f"{message} has no text")
    text, errors = bundle.format_pattern(pattern, values)
    if errors:
        raise ValueError(f"{message} in {language}: {errors}")
    return str(text)


@lru_cache(maxsize=len(LANGUAGES))
def catalogue(language: str) -> FluentBundle:
    """All messages of a language."""
    # What marks off the direction of a value belongs to where text of both directions is shown, not into a record.
    bundle = FluentBundle([language], use_isolating=False)
    bundle.add_resource(FluentResource((_FOLDER / f"{language}.ftl").read_text(encoding="utf-8")))
    return bundle
