"""Whether a reading is of this question: its words stand in it, all that carry meaning are accounted for, and its times
are those that the words say.
"""

from __future__ import annotations

import datetime as dt
import re
from typing import Final

from harquel.core.calendar import USUAL, Calendar
from harquel.core.language import language_of, pack
from harquel.core.language.pack import Pack
from harquel.core.language.periods import Period, periods_in
from harquel.core.reading.literals import moment
from harquel.core.reading.paths import NoControl
from harquel.core.reading.value import Reading, Time

LONGEST_QUOTE: Final = 10
"""Words that one part may stand for: a part that quotes the whole question accounts for nothing."""
_WORDS: Final = re.compile(r"\w+")
_APART: Final = re.compile(r"…|\.\.\.")
"""Between words of a part that stand apart in the question."""
_OPENS: Final = frozenset({"since", "until", "before", "after"})
"""Before a period that begins or ends there; it is known together with the period."""
_MOST: Final = 8
"""Words named in a fault."""


def grounded(reading: Reading, question: str, now: dt.datetime, calendar: Calendar = USUAL) -> list[str]:
    """What speaks against it, in sentences for a model; none where nothing does. `now` is the question's instant, as
    clocks show it where people are.
    """
    found, spoken = _words(reading, question), pack(language_of(question))
    for time in reading.times():
        found += _of_time(time, now, calendar, spoken)
    return found


def pieces(quote: str) -> list[str]:
    """What a part quotes, apart where it stands apart in the question."""
    return [piece.strip() for piece in _APART.split(quote) if _plain(piece)]


def _words(reading: Reading, question: str) -> list[str]:
    words = _plain(question)
    text, starts = f" {' '.join(words)} ", _starts(words)
    quoted: set[int] = set()
    idle: set[int] = set()
    faults: list[str] = []
    for quotes, into in ((reading.quoted(), quoted), (reading.idle, idle)):
        for quote in quotes:
            apart = [_plain(piece) for piece in pieces(quote)]
            if sum(map(len, apart)) > LONGEST_QUOTE:
                faults.append(f'"{quote}" is more than {LONGEST_QUOTE} words: a part stands for few of them.')
            elif not all(_cover(piece, text, starts, into) for piece in apart):
                faults.append(f'"{quote}" does not stand in the question.')
    turned: set[int] = set()
    for quote in reading.narrowing():
        for piece in pieces(quote):
            _cover(_plain(piece), text, starts, turned)
    # What does not stand in the question is told first: what is left over may follow from it.
    return faults or _left_over(words, quoted, idle, question) or _denied(words, turned, question)


def _denied(words: list[str], turned: set[int], question: str) -> list[str]:
    """A "not" that no condition stands for is overlooked, whatever else quotes it."""
    denials = pack(language_of(question)).denials
    lost = dict.fromkeys(w for n, w in enumerate(words) if w in denials and n not in turned)
    if not lost:
        return []
    return [f"These words deny something: {_named(lost)}. They stand in the words of the condition that they turn."]


def _left_over(words: list[str], quoted: set[int], idle: set[int], question: str) -> list[str]:
    known = pack(language_of(question))
    faults = []
    # Once, and not for each word.
    unquoted, covered = idle - quoted, quoted | idle
    asking = dict.fromkeys(w for n, w in enumerate(words) if n in unquoted and (w in known.denials or w.isdigit()))
    if asking:
        faults.append(f"These words ask for something and cannot be idle: {_named(asking)}.")
    missing = dict.fromkeys(w for n, w in enumerate(words) if n not in covered and w not in known.light)
    if missing:
        faults.append(
            f"No part quotes these words of the question: {_named(missing)}. Each is quoted by the part that it asks "
            'for, in its "words", or stands in "idle" if it asks for nothing.'
        )
    return faults


def _named(words: dict[str, None]) -> str:
    return ", ".join(list(words)[:_MOST]) + (" and more" if len(words) > _MOST else "")


def _plain(text: str) -> list[str]:
    return _WORDS.findall(text.casefold())


def _starts(words: list[str]) -> dict[int, int]:
    """Which word begins at a place of the text in which they follow each other."""
    starts, at = {}, 0
    for number, word in enumerate(words):
        starts[at] = number
        at += len(word) + 1
    return starts


def _cover(piece: list[str], text: str, starts: dict[int, int], into: set[int]) -> bool:
    """Marks each place where these words follow each other; whether there is one."""
    sought, at, found = f" {' '.join(piece)} ", -1, False
    while (at := text.find(sought, at + 1)) >= 0:
        into.update(range(starts[at], starts[at] + len(piece)))
        found = True
    return found


def in_known_words(quote: str, spoken: Pack) -> str:
    """A quote with the words of the calendar in the language in which periods are known."""
    return _WORDS.sub(lambda found: spoken.times.get(found[0].casefold(), found[0]), quote)


def _all_of_it(said: str, period: Period, spoken: Pack) -> bool:
    """Whether nothing else stands beside a period that could narrow it: of another language we do not know it all."""
    beside = _plain(f"{said[: period.first]} {said[period.last :]}")
    return all(word in spoken.light | spoken.asking | _OPENS for word in beside)


def _of_time(time: Time, now: dt.datetime, calendar: Calendar, spoken: Pack) -> list[str]:
    """Computed again by us where the words name one period: both must say the same."""
    said = in_known_words(time.words, spoken)
    named = periods_in(said, now, calendar) if said else []
    if len(named) != 1 or time.since is None or time.until is None:
        return []
    if spoken.times and not _all_of_it(said, named[0], spoken):
        return []
    try:
        since, until = (dt.datetime.fromisoformat(moment(end)) for end in (time.since, time.until))
    except NoControl as fault:
        return [str(fault)]
    if since == named[0].start and named[0].at_least <= until <= max(named[0].end, named[0].at_least):
        return []
    meant = f"from {named[0].start:%Y-%m-%d} until {named[0].end:%Y-%m-%d}"
    return [f'"{time.words}" is {meant}, not from {time.since} until {time.until}.']
