"""All that is printed goes through here: what a terminal would carry out, or turn around, is made visible first.

Rows, aliases, explanations and other people's questions are not ours: they may hold escape sequences that set a title,
clear the screen or hide text, and marks that reverse the direction of writing.
"""

from __future__ import annotations

import json
import re
from collections.abc import Iterable
from typing import Any, Final

import typer
from pydantic import BaseModel
from rich.console import Console, ConsoleOptions, ConsoleRenderable, RenderableType, RenderHook, RenderResult
from rich.segment import Segment

_UNSEEN: Final = re.compile(
    "[\x00-\x08\x0b-\x1f\x7f-\x9f\u061c\u200b\u200e\u200f\u2028-\u202e\u2060-\u206f\ufeff\ufff9-\ufffb\U000e0000-\U000e007f]"
)
"""Controls (C0 but tab and line feed, DEL, C1), marks of direction, and characters that are there and not seen."""
_IN_JSON: Final = re.compile(
    "[\x7f-\x9f\u061c\u200b\u200e\u200f\u2028-\u202e\u2060-\u206f\ufeff\ufff9-\ufffb\U000e0000-\U000e007f]"
)


def visible(text: str) -> str:
    """The text with a sign in the place of each character that a terminal would not simply show."""
    return _UNSEEN.sub(lambda found: _sign(found.group()), text)


def _sign(character: str) -> str:
    code = ord(character)
    if code < 0x20:
        return chr(0x2400 + code)
    return "\u2421" if code == 0x7F else f"‹U+{code:04X}›"


def say(text: str = "", err: bool = False, fg: str | None = None, nl: bool = True) -> None:
    """A line, or with `nl` false a text as it is."""
    typer.secho(visible(text), err=err, fg=fg, nl=nl)


_FILLED: Final = re.compile(r" +$", re.MULTILINE)
_asked_for_json: list[bool] = []


def ask_for_json(wanted: bool) -> bool:
    """The option's callback: what is wrong is said in JSON as well then."""
    _asked_for_json[:] = [wanted]
    return wanted


def in_json() -> bool:
    """Whether this call is to print JSON."""
    return _asked_for_json == [True]


def tell(value: Any, text: str) -> None:
    """What came of a call: the shape itself where JSON is wanted, otherwise a line."""
    if in_json():
        print_json(value)
    else:
        say(text)


def print_json(value: Any) -> None:
    """A shape, or a list of shapes, as JSON on standard output; what would not be seen is written as an escape."""
    text = json.dumps(_plain(value), indent=2, ensure_ascii=False)
    typer.echo(_IN_JSON.sub(lambda found: json.dumps(found.group())[1:-1], text))


def _plain(value: Any) -> Any:
    if isinstance(value, BaseModel):
        return value.model_dump(mode="json")
    if isinstance(value, list):
        return [_plain(v) for v in value]
    return value


class Trimmed:
    """A stream that drops the blanks which fill a line up."""

    def __init__(self, stream: Any) -> None:
        self._stream = stream

    def write(self, text: str) -> int:
        """Rich writes whole lines."""
        self._stream.write(_FILLED.sub("", text))
        return len(text)

    def __getattr__(self, name: str) -> Any:
        return getattr(self._stream, name)


class Plainly(RenderHook):
    """Rich's own styles stay; what it was given to show is made visible."""

    def process_renderables(self, renderables: list[ConsoleRenderable]) -> list[ConsoleRenderable]:
        """Each within a wrapper."""
        return [_Shown(r) for r in renderables]


class _Shown:
    def __init__(self, inner: RenderableType) -> None:
        self.inner = inner

    def __rich_console__(self, console: Console, options: ConsoleOptions) -> RenderResult:
        yield from _cleaned(console.render(self.inner, options))


def _cleaned(segments: Iterable[Segment]) -> Iterable[Segment]:
    for segment in segments:
        yield segment if segment.control else Segment(visible(segment.text), segment.style)
