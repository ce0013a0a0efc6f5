"""Says what follows an answer as a whole question, when a prompt asks for that: words in the place of other words."""

from __future__ import annotations

import re
from typing import Any, Final

from .periods import MONTHS
from .words import number, tokens

ASKED_TO_FOLLOW: Final = '{"alone": true}'
_PARTS: Final = re.compile(r"^## (.+)\n", re.MULTILINE)
_LEADS: Final = re.compile(
    r"^(?:and|but|so|now|then|what about|how about|(?:the )?same(?: again)?|only|just|instead|und|aber|nun|jetzt|nur|"
    r"also|was ist mit|dasselbe|stattdessen)\b[\s,]*",
    re.IGNORECASE,
)
_TRAILS: Final = re.compile(r"[\s,]*\b(?:instead|then|only|stattdessen|please|bitte)?[\s?.!]*$", re.IGNORECASE)
_THANKS: Final = re.compile(
    r"^\W*(?:(?:ok(?:ay)?|great|fine|super|gut)\W+)?(?:many )?(?:thanks|thank you|danke)", re.IGNORECASE
)
_ASKS: Final = re.compile(
    r"^(?:how|which|what|who|when|where|list|show|average|share|wie|welche\w*|was|wer|zeige)\b", re.I
)
_WHOLE: Final = 5
"""Words from which on a question that asks is a whole one."""
_GERMAN_MONTHS: Final = "januar februar märz april mai juni juli august september oktober november dezember".split()
_MONTH: Final = "|".join(dict.fromkeys([*MONTHS, *_GERMAN_MONTHS]))
_PERIOD: Final = re.compile(
    rf"(?:\b(?:in|since|before|after|during|on|im|seit|vor)\s+)?(?:\bthe\s+)?"
    rf"\b(?:(?:first|second|third|fourth) quarter(?: of)?(?: \d{{4}})?|(?:{_MONTH})(?: \d{{4}})?"
    rf"|(?:this|last|dieses|letztes|letzten|diesen) (?:week|month|quarter|year|woche|monat|quartal|jahr)"
    r"|20\d\d|today|yesterday|heute|gestern)\b",
    re.IGNORECASE,
)
_PLACE: Final = re.compile(r"(?:in|since|before|after|during|on|im|seit|vor)\s+", re.IGNORECASE)
_LAST_YEAR: Final = re.compile(r"\b(?:last year|letztes jahr|(?:the|a) year (?:before|earlier))\b", re.IGNORECASE)
_IN_A_MONTH: Final = re.compile(rf"\b(?:(?:{_MONTH})|quarter(?: of)?) (\d{{4}})\b", re.IGNORECASE)
_AGAINST: Final = re.compile(r"^(?:against|compared (?:to|with)|versus|vs\.?)\s+", re.IGNORECASE)
_PER: Final = re.compile(r"\b(?:per|by|each|je|pro) \w+", re.IGNORECASE)
_PLACED: Final = re.compile(r"\b(from|to|at|in|on|for|of|von|nach|für|ab) ([A-ZÄÖÜ][\w'’]*(?: [A-ZÄÖÜ][\w'’]*)*)")
_COUNTED: Final = re.compile(r"^(how many|wie viele) (\w+)", re.IGNORECASE)
_THINGS: Final = re.compile(r"^(?:for |für )?(?:the |die |den )?([a-zäöü]+s|[A-ZÄÖÜ]\w+en?)$")


def follow(asked: str) -> dict[str, Any]:
    """The reply."""
    pieces = _PARTS.split(asked)
    parts = dict(zip(pieces[1::2], (text.strip() for text in pieces[2::2]), strict=False))
    earlier, said = parts.get("Earlier question", "").rstrip(" ?.!"), parts.get("Said now", "")
    if _THANKS.match(said):
        return {"nothing": True}
    if _ASKS.match(said) and not _LEADS.match(said) and len(tokens(said)) >= _WHOLE:
        return {"alone": True}
    left = said
    while (bare := _LEADS.sub("", left, count=1)) != left:
        left = bare
    return {"question": f"{_changed(earlier, _TRAILS.sub('', left), said)}?"}


def _changed(earlier: str, left: str, said: str) -> str:
    if set_beside := _AGAINST.match(left):
        return f"{earlier} against {left[set_beside.end() :]}"
    period = _PERIOD.search(left) or _LAST_YEAR.search(left)
    if period is not None:
        earlier = _dated(earlier, period[0])
        left = f"{left[: period.start()]} {left[period.end() :]}".strip(" ,?")
    if all(number(token) is not None for token in tokens(left)):
        return earlier
    if grouped := _PER.match(left):
        return _PER.sub(grouped[0], earlier, count=1) if _PER.search(earlier) else f"{earlier} {left}"
    counted, things = _COUNTED.match(earlier), _THINGS.match(left)
    if counted is not None and things is not None and re.search(r"\b(?:same|dasselbe|about)\b", said, re.IGNORECASE):
        return f"{counted[1]} {things[1]}{earlier[counted.end() :]}"
    placed = _PLACED.match(left)
    for there in _PLACED.finditer(earlier) if placed is not None else ():
        if placed is not None and placed[1] in (there[1], "for", "für") and not _PERIOD.match(there[0]):
            return f"{earlier[: there.start(2)]}{placed[2]}{earlier[there.end(2) :]}{left[placed.end() :]}"
    return f"{earlier}, {left}"


def _dated(earlier: str, period: str) -> str:
    """The question about another time; last year's month where a month was asked about."""
    month = _IN_A_MONTH.search(earlier)
    if _LAST_YEAR.search(period) and month is not None:
        return f"{earlier[: month.start(1)]}{int(month[1]) - 1}{earlier[month.end(1) :]}"
    there = _PERIOD.search(earlier)
    if there is None:
        return f"{earlier} {period}"
    if not _PLACE.match(period):
        opened = _PLACE.match(there[0])
        period = f"{opened[0] if opened else ''}{period}"
    return f"{earlier[: there.start()]}{period}{earlier[there.end() :]}"
