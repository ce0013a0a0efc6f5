"""What is known of one language."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field


@dataclass(frozen=True)
class Pack:
    """Words in small letters. `light` ones ask for nothing by themselves: who reads a question need not account for
    them. `denials` turn something around, and always ask for something.
    """

    code: str
    commonest: frozenset[str]
    """By which a text is told to be in this language."""
    light: frozenset[str]
    denials: frozenset[str]
    asking: frozenset[str] = frozenset()
    """Those by which a number is asked for."""
    turned: frozenset[str] = frozenset()
    """Those that a question has in another place than its answer: what holds one cannot be told by a number alone."""
    articles: frozenset[str] = frozenset()
    """Those that stand before a thing that is known."""
    capital_nouns: bool = False
    """Whether names of things are written with a capital letter, wherever they stand."""
    pictures: Mapping[str, str] = field(default_factory=dict)
    """To a word for how something is drawn, the kind of chart, or "table" for none."""
    chart: frozenset[str] = frozenset()
    """What pictures are called; one of `pictures` may stand before it, in one word, too."""
    each: frozenset[str] = frozenset()
    """What stands before that for each of which something is given."""
    as_a: frozenset[str] = frozenset()
    """What stands before the picture that is wished for: "in a bar chart"."""
    only_as: frozenset[str] = frozenset()
    """Those of them after which less than that is a picture: "as bars", "as a chart"."""
    only_first: frozenset[str] = frozenset()
    """What stands before a number of things that are to be drawn."""
    empty: frozenset[str] = frozenset()
    """Those that say nothing about what a text is about: what is looked up by words is not looked up by them."""
    bases: Mapping[str, str] = field(default_factory=dict)
    """To forms of common words that no rule of endings brings together, the word itself."""
    leads: frozenset[str] = frozenset()
    """Those that lead from an answer to what is said after it, and ask for nothing by themselves."""
    places: frozenset[str] = frozenset()
    """What stands before a thing without saying so much: "for it", "of it"."""
    why: frozenset[str] = frozenset()
    """By which a reason is asked for."""
    between: frozenset[str] = frozenset()
    """Those that hold what is said after an answer together, and neither ask nor choose."""
    tag: str = ""
    """What asks for agreement at the end of something, as a pattern: "right?", "wasn't it?"."""
    since_then: tuple[tuple[str, ...], ...] = ()
    """What says a time once more that had a beginning and no end."""
    openers: tuple[tuple[str, ...], ...] = ()
    """What leads from an answer to what is said after it, in several words: "what about"."""
    directions: frozenset[str] = frozenset()
    """What stands before a thing and says how it stands to the rest: from it, to it."""
    times: Mapping[str, str] = field(default_factory=dict)
    """To the words of the calendar, those that `periods_in` knows; empty where it knows them as they are."""


def words(text: str) -> frozenset[str]:
    """Those of a text, in the form in which they are compared."""
    return frozenset(text.casefold().split())


def bases(text: str) -> dict[str, str]:
    """Of words and their forms, `word form form, word form`, the word for each form."""
    return {form: word for word, *forms in (group.split() for group in text.split(",")) for form in forms}
