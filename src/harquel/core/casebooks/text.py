"""The text of a casebook, in Markdown (CommonMark with tables), as HTML that does nothing, figures filled in.

What must hold: nothing in a text or in data becomes a tag, an attribute or an address of its own making; nothing is
fetched. It is held twice: no HTML of a text is taken over, and what comes out passes a list of what may stand there.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from html import escape
from typing import Any, Final

import nh3
from markdown_it import MarkdownIt
from markdown_it.renderer import RendererHTML
from markdown_it.rules_inline import StateInline
from markdown_it.token import Token

from .figures import Cited
from .references import CITED, Shows, whole_in

LONGEST: Final = 40_000
"""Characters of a text."""
_DEEPEST: Final = 20
_TAGS: Final = {
    "a", "blockquote", "br", "code", "em", "h2", "h3", "h4", "h5", "h6", "hr", "li", "ol", "p", "pre", "s", "strong",
    "table", "tbody", "td", "th", "thead", "tr", "ul", "span",
}  # fmt: skip
_ATTRIBUTES: Final = {"a": {"href", "rel"}, "ol": {"start"}, "span": {"class", "title"}}
_SCHEMES: Final = {"http", "https", "mailto"}
_LINK: Final = re.compile(r"(?:https?://|mailto:)", re.IGNORECASE)
_NUMBER: Final = re.compile(r"\d[\d.,\u202f']*\d|\d")
Fill = Callable[[str, str | None, Sequence[str]], Cited]
"""Gives what a reference stands for: name, column, keys."""


@dataclass(frozen=True)
class Block:
    """A part of a text: HTML, or the answer that stands there as a whole; `source` is as it was written."""

    html: str = ""
    name: str = ""
    shows: tuple[Shows, ...] = ()
    source: str = ""
    missing: list[str] = field(default_factory=list)
    """Why figures of it could not be filled in."""


def blocks(text: str, fill: Fill) -> Iterator[Block]:
    """The parts of a text, in their order."""
    lines = text.splitlines()
    missing: list[str] = []
    tokens = _READER.parse(text, {"fill": fill, "missing": missing})
    begun, line = 0, 0

    def so_far(until: int, source_until: int) -> Iterator[Block]:
        if until > begun:
            # What it refers to is looked up as it is written out.
            html = _READER.renderer.render(tokens[begun:until], _READER.options, {"fill": fill, "missing": missing})
            yield Block(_safe(html), source="\n".join(lines[line:source_until]).strip("\n"), missing=missing[:])
            missing.clear()

    for at, token in enumerate(tokens):
        if token.type != "paragraph_open" or token.level or token.map is None:
            continue
        whole = whole_in(tokens[at + 1].content)
        if whole is None:
            continue
        yield from so_far(at, token.map[0])
        yield Block(name=whole.name, shows=whole.shows, source="\n".join(lines[token.map[0] : token.map[1]]))
        begun, line = at + 3, token.map[1]
    yield from so_far(len(tokens), len(lines))


def typed_again(text: str, values: dict[str, list[str]]) -> dict[str, list[str]]:
    """Figures of answers that were typed into a text instead of being referred to: those of each, by its name. Of one
    digit none: they are too many things.
    """
    rest = CITED.sub(" ", text)
    typed = {found[0] for found in _NUMBER.finditer(rest)}
    return {
        name: here for name, those in values.items()
        if (here := [v for v in those if len(v) > 1 and (v in typed or v.replace(",", "") in typed)])
    }  # fmt: skip


def _safe(html: str) -> str:
    return nh3.clean(
        html, tags=_TAGS, attributes=_ATTRIBUTES, url_schemes=_SCHEMES, link_rel=None, strip_comments=True
    )  # fmt: skip


def _reference(state: StateInline, silent: bool) -> bool:
    """A rule of the reader of Markdown: a reference is one thing, whatever stands in it."""
    if state.src[state.pos : state.pos + 2] != "[=":
        return False
    found = CITED.match(state.src, state.pos, min(state.posMax, state.pos + 600))
    if found is None:
        return False
    if not silent:
        token = state.push("cited", "", 0)
        token.meta = {"name": found[1], "column": found[2], "keys": [k.strip() for k in found[3].split("|")[1:]]}
    state.pos = found.end()
    return True


def _written(_: RendererHTML, tokens: Sequence[Token], at: int, __: Any, env: Any) -> str:
    meta = tokens[at].meta
    column = meta["column"].strip() if meta["column"] is not None else None
    found: Cited = env["fill"](meta["name"], column, meta["keys"])
    if found.missing:
        env["missing"].append(f"{meta['name']}: {found.missing}")
        return f'<span class="cited missing" title="{escape(found.missing)}">[{escape(meta["name"])}: ?]</span>'
    kind = "cited doubt" if found.doubt else "cited"
    return f'<span class="{kind}" title="{escape(meta["name"])}">{escape(found.text)}</span>'


def _lower(_: RendererHTML, tokens: Sequence[Token], at: int, __: Any, ___: Any) -> str:
    """The title of the page is the first head."""
    token = tokens[at]
    level = min(6, int(token.tag[1]) + 1)
    return f"<{'/' if token.nesting < 0 else ''}h{level}>"


def _link(renderer: RendererHTML, tokens: Sequence[Token], at: int, options: Any, env: Any) -> str:
    tokens[at].attrSet("rel", "noopener noreferrer nofollow")
    return str(renderer.renderToken(tokens, at, options, env))


def _reader() -> MarkdownIt:
    made = MarkdownIt("commonmark", {"html": False, "maxNesting": _DEEPEST}).enable(["table", "strikethrough"])
    # A picture would be fetched from wherever a text says.
    made.disable(["image", "html_block", "html_inline"])
    made.validateLink = lambda url: _LINK.match(url) is not None  # type: ignore[method-assign]
    made.inline.ruler.before("link", "cited", _reference)
    for kind, rule in (("cited", _written), ("heading_open", _lower), ("heading_close", _lower), ("link_open", _link)):
        made.add_render_rule(kind, rule)
    return made


_READER: Final = _reader()
