"""What models are told, as templates: those that ship, or a source's own in their place, block by block.

A template is a program of whoever keeps the configuration. It runs in a sandbox without names of Python, where our
other computing runs, and is tried before it counts. It sees nothing but the values of its block.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterator, Mapping
from functools import cache
from importlib import resources
from typing import Any, Final, Literal, get_args

from jinja2 import StrictUndefined, Template, TemplateError, TemplateSyntaxError
from jinja2.sandbox import ImmutableSandboxedEnvironment

from harquel.core.errors import ConfigurationError

Name = Literal["draft", "read", "word", "follow"]
"""A template for each of what models are asked for; a second opinion is drafted by that of drafts."""
NAMES: Final[tuple[Name, ...]] = get_args(Name)
LONGEST: Final = 64_000
"""Characters of a template."""
_LONGEST_PROMPT: Final = 4_000_000
"""Characters of what one may come to."""
_DIGITS: Final = 8
_SAMPLE: Final = "(a sample of what stands here)"
_FINDING: Final = {"rule": _SAMPLE, "message": _SAMPLE, "hint": _SAMPLE}
_SAMPLES: Final[Mapping[str, Any]] = {
    "dialect": "SQLite", "now": "2026-09-14 10:00:00 (Monday)", "person": "Ada", "general": "", "calendar": "",
    "schema": "«schema»", "measures": "", "examples": [{"question": _SAMPLE, "sql": _SAMPLE}], "afresh": False,
    "question": "«question»", "findings": [_FINDING], "error": _SAMPLE, "faults": [_SAMPLE], "sentence": "«sentence»",
    "rows": "«rows»", "earlier": "«earlier»", "asked_then": "", "understood": [_SAMPLE], "does": _SAMPLE,
    "asked_back": "", "ways": [], "said": "«said»",
}  # fmt: skip
_MUST: Final[Mapping[Name, tuple[str, ...]]] = {
    "draft": ("question", "schema"), "read": ("question", "schema"), "word": ("sentence", "rows"),
    "follow": ("earlier", "said"),
}  # fmt: skip
"""What the block `user` of each cannot leave out."""
_Block = Callable[..., Iterator[str]]


def _environment() -> ImmutableSandboxedEnvironment:
    return ImmutableSandboxedEnvironment(undefined=StrictUndefined, trim_blocks=True, lstrip_blocks=True)


@cache
def shipped(name: Name) -> str:
    """The text of a template that ships."""
    return resources.files("harquel.core.prompts.templates").joinpath(f"{name}.jinja").read_text("utf-8")


class Prompts:
    """The templates of a source. `own` are texts that take the place of those that ship, as far as their blocks go."""

    def __init__(self, own: Mapping[Name, str] | None = None) -> None:
        """Raises ConfigurationError for a text that is no template, or leaves out what a model has to know."""
        self.own = dict(own or {})
        self._blocks: dict[tuple[Name, str], tuple[Template, _Block]] = {}
        self._versions: dict[Name, str] = {}
        for name in NAMES:
            texts = [shipped(name), *([self.own[name]] if name in self.own else [])]
            for text in texts:
                made = _template(name, text)
                self._blocks |= {(name, block): (made, write) for block, write in made.blocks.items()}
            digest = hashlib.sha256("\0".join(texts).encode()).hexdigest()[:_DIGITS]
            self._versions[name] = f"{'own' if name in self.own else 'shipped'} {digest}"
        for name in self.own:
            self._try(name)

    def version(self, name: Name) -> str:
        """By which it is told apart from what it was before: whose it is, and a digest of its text."""
        return self._versions[name]

    def write(self, name: Name, block: str, **values: Any) -> str:
        """A block with its values. Raises ConfigurationError where its template cannot be followed to its end."""
        template, write = self._blocks[name, block]
        pieces, length = [], 0
        try:
            for piece in write(template.new_context(values)):
                length += len(piece)
                if length > _LONGEST_PROMPT:
                    raise ConfigurationError(_where(name), f"It comes to more than {_LONGEST_PROMPT:,} characters.")
                pieces.append(piece)
        except (TemplateError, TypeError, ValueError, ArithmeticError, LookupError, AttributeError) as error:
            raise ConfigurationError(f"{_where(name)} {error}", _HINT) from error
        return "".join(pieces).strip("\n")

    def _try(self, name: Name) -> None:
        for other, block in list(self._blocks):
            if other == name:
                said = self.write(name, block, **_SAMPLES)
                left_out = [v for v in _MUST[name] if block == "user" and f"«{v}»" not in said]
                if left_out:
                    value = left_out[0]
                    hint = f"Write {{{{ {value} }}}} there."
                    raise ConfigurationError(f"{_where(name)} It leaves out {value}.", hint)


_HINT: Final = "docs/prompts.md says which blocks there are and what each may use."


def _where(name: Name) -> str:
    return f"The template {name}.jinja cannot be used."


def _template(name: Name, text: str) -> Template:
    if len(text) > LONGEST:
        raise ConfigurationError(f"{_where(name)} It has more than {LONGEST:,} characters.")
    try:
        made = _environment().from_string(text)
    except TemplateSyntaxError as error:
        raise ConfigurationError(f"{_where(name)} Line {error.lineno}: {error.message}.", _HINT) from error
    known = _environment().from_string(shipped(name)).blocks
    unknown = [block for block in made.blocks if block not in known]
    if unknown or not made.blocks:
        what = f"It has a block {unknown[0]!r}" if unknown else "It has no block"
        raise ConfigurationError(f"{_where(name)} {what}; there are {', '.join(known)}.", _HINT)
    return made


SHIPPED: Final = Prompts()
"""Those that ship."""
