"""Reads a question in English against what words mean in a source, without a model."""

from __future__ import annotations

import datetime as dt
import re
from dataclasses import replace
from typing import Final

from harquel.core.briefing.meanings import LONGEST, Meaning, Meanings
from harquel.core.briefing.words import fold, stem
from harquel.core.review.periods import WEEKDAYS, periods_in
from harquel.core.review.question import Mention, Number, Per, Question, Word
from harquel.core.review.vocabulary import (
    ADJECTIVES,
    AVERAGE,
    CALENDAR,
    FILLERS,
    GOOD_OR_BAD,
    HAPPENED,
    HIGH,
    LESSER,
    LIGHT,
    LOW,
    NO_NAMES,
    NOT,
    NUMBERS,
    PREFIXES,
    RUNNING,
    SAYS_HOW,
    SHARE,
    TOTAL,
    UNIT_WORDS,
    UNITS,
    is_superlative,
)  # fmt: skip

_WORD: Final = re.compile(r"[^\W_]+(?:[.,]\d+)?")
_TOOK: Final = r"\b(?:took|takes?|lasted|lasts?|needed) (?:the )?(?:longest|most time|shortest|least time)\b"


def read_question(text: str, now: dt.datetime, meanings: Meanings) -> Question:
    """Reads a question in English against what words mean in the source."""
    plain = fold(text)
    words = [Word(m.group(), stem(m.group()), m.start(), m.end()) for m in _WORD.finditer(plain)]
    found = Question(text, now, words, periods_in(plain, now))
    for number, period in enumerate(found.periods):
        # As the asker wrote it: May 2026, not may 2026.
        said = period.label.replace(plain[period.first : period.last], text[period.first : period.last])
        found.periods[number] = replace(period, label=said)
    used = [any(p.first <= w.start < p.last for p in found.periods) for w in words]
    for match in RUNNING.finditer(plain):
        used = [u or w.start == match.start() for u, w in zip(used, words, strict=True)]
    for match in _LASTS.finditer(plain):
        used = [u or match.start() <= w.start < match.end() for u, w in zip(used, words, strict=True)]
    _mentions(found, used, meanings)
    for match in _CLOCK.finditer(plain):
        found.clock_times.append(f"{int(match.group(1)):02}:{match.group(2)}")
        used[:] = [u or match.start() <= w.start < match.end() for u, w in zip(used, words, strict=True)]
    _numbers(found, used)
    _weekdays(found, used)
    _shape(found, plain)
    _per(found, used)
    for position, word in enumerate(words):
        if (
            used[position]
            or word.text in NO_NAMES
            or word.text in SAYS_HOW
            or word.stem in FILLERS
            or word.stem in HAPPENED
            or word.text in ("money", "cash")
        ):
            continue
        weak = meanings.parts.get(word.stem) or meanings.near(word.stem) or _without_prefix(word.text, meanings)
        if weak:
            found.mentions.append(Mention(position, position, word.text, tuple(weak), firm=False))
            if word.text.startswith(("un", "non")) and not meanings.parts.get(word.stem):
                found.has |= {"not"}
        elif not _says_nothing(words, position):
            found.unknown.append(word)
    found.mentions.sort(key=lambda m: m.first)
    return found


def _without_prefix(word: str, meanings: Meanings) -> list[Meaning]:
    """What a word means that is one of the source's with something put before it: overdue, unpaid."""
    for prefix in PREFIXES:
        rest = stem(word.removeprefix(prefix))
        if word.startswith(prefix) and len(rest) > 2 and rest not in NO_NAMES:
            known = [*meanings.parts.get(rest, ()), *meanings.phrases.get((rest,), ())]
            if known:
                return known
    return []


def _says_nothing(words: list[Word], position: int) -> bool:
    """Whether a word that nothing is called by takes nothing away: a number, a unit, a light verb, how ADJECTIVE."""
    text = words[position].text
    if len(text) < 3 or text.isdigit() or text in UNIT_WORDS or text in LIGHT:
        return True
    before = words[position - 1].text if position else ""
    after = words[position + 1].text if position + 1 < len(words) else ""
    if (text.endswith("er") and after == "than") or is_superlative(text):
        return True
    # "most expensive", "how full": an adjective says how to rank or what to reckon; it chooses no rows.
    return before in ("most", "least") and text in ADJECTIVES


def _mentions(found: Question, used: list[bool], meanings: Meanings) -> None:
    words = found.words
    # From here on it is what somebody chose when they were asked which of several things they mean.
    chosen = next((i for i, w in enumerate(words) if w.text == "meaning"), len(words))
    for length in range(min(LONGEST, len(words)), 0, -1):
        for first in range(len(words) - length + 1):
            if any(used[first : first + length]):
                continue
            if length == 1 and (words[first].text in NO_NAMES or words[first].text.isdigit()):
                continue
            phrase = tuple(w.stem for w in words[first : first + length])
            known = _exact(meanings.phrases.get(phrase, []), [w.text for w in words[first : first + length]])
            if length == 1 and phrase[0] in HAPPENED:
                known = [m for m in known if m.kind != "measure"]
            if known:
                used[first : first + length] = [True] * length
                text = found.text[words[first].start : words[first + length - 1].end]
                idle = length == 1 and (words[first].stem in FILLERS or words[first].text in CALENDAR)
                idle = (
                    idle and first < chosen and not any(m.kind in ("code", "value", "null", "measure") for m in known)
                )
                found.mentions.append(Mention(first, first + length - 1, text, tuple(known), True, idle))
    found.mentions.sort(key=lambda m: m.first)


def _exact(known: list[Meaning], words: list[str]) -> list[Meaning]:
    """Where a state is meant by just this word, names that only share its stem are not: open, opened on."""
    texts = {" ".join(words), " ".join(words).removesuffix("s")}
    same = [m for m in known if m.words in texts]
    return (
        same
        if any(m.kind in ("code", "null", "value") for m in same) or any(m.kind == "column" for m in same)
        else known
    )


_CLOCK: Final = re.compile(r"(?<![\d:-])([01]?\d|2[0-3]):([0-5]\d)(?![\d:])")
_LASTS: Final = re.compile(r"\b(?:length|duration) of (?:the |their |a )?(?:stay|time|service|employment|visit|trip)\b")
"""Nouns for how long something took."""
_MORE: Final = (
    r"(?:more|longer|older|greater|higher|larger|later|bigger|further) than|over|above|exceed(?:s|ed|ing)?|beyond"
)
_LESS: Final = rf"(?:{LESSER.replace(' ', '|')}) than|under|below"
_SENSES: Final = (
    ("at least",
     re.compile(r"(?:at least|no (?:less|fewer) than|minimum of|from|\bfits?(?: \w+){0,4}) \Z"),
     re.compile(r" ?(?:or|and) (?:more|above|over|longer|higher|greater)\b|\+")),
    ("at most",
     re.compile(r"(?:at most|no more than|up to|maximum of|within) \Z"),
     re.compile(r" ?(?:or|and) (?:less|fewer|below|under)\b")),
    ("less", re.compile(rf"(?:{_LESS}) (?:the )?\Z"), None),
    ("more", re.compile(rf"(?:{_MORE}|[a-z]{{3,}}er than) (?:the )?\Z"), None),
)  # fmt: skip


def _numbers(found: Question, used: list[bool]) -> None:
    plain = fold(found.text)
    for position, word in enumerate(found.words):
        if used[position]:
            continue
        text = word.text.replace(",", "")
        if word.text in ("a", "an", "one") and _next(found.words, position) in {*CALENDAR, *UNITS}:
            # Less than a day: one day.
            compared = any(s in ("less", "more") and p.search(plain[: word.start]) for s, p, _ in _SENSES)
            text = "1" if compared else ""
        value = float(text) if re.fullmatch(r"\d+(\.\d+)?", text) else NUMBERS.get(word.text)
        if value is None:
            continue
        before, after = plain[: word.start], plain[word.end :]
        sense = next(
            (s for s, pre, post in _SENSES if pre.search(before) or (post is not None and post.match(after))), ""
        )
        found.numbers.append(Number(float(value), position, sense))  # type: ignore[arg-type]
        used[position] = True


def _next(words: list[Word], position: int) -> str:
    return words[position + 1].text if position + 1 < len(words) else ""


def _weekdays(found: Question, used: list[bool]) -> None:
    for position, word in enumerate(found.words):
        day = word.text.removesuffix("s")
        if day == "weekend" and not used[position]:
            found.weekdays += [5, 6]
            used[position] = True
        if day in WEEKDAYS and not used[position]:
            found.weekdays.append(WEEKDAYS.index(day))
            used[position] = True


def _shape(found: Question, plain: str) -> None:
    texts = [w.text for w in found.words]
    have = set()
    for name, words in (("average", AVERAGE), ("share", SHARE), ("total", TOTAL)):
        if words & set(texts):
            have.add(name)
    for name, pattern in (
        ("how many", r"\bhow many\b|\bnumber of\b|\bcount of\b|\bhow often\b"), ("how much", r"\bhow much\b"),
        ("distinct", r"\b(?:different|distinct|unique)\b"),
        ("several", r"\bseveral\b|\bmultiple\b|\bmore than one(?:ce)?\b"),
        ("median", r"\bmedian\b"), ("took longest", _TOOK),
        ("how long", rf"\bhow long\b|\bduration\b|{_LASTS.pattern}"),
        ("keeps empty", r"\bincluding\b.*\b(?:none|no|zero|without)\b|\beven (?:if|those)\b"),
        ("order", r"\bfirst$|\b(?:sorted|ordered|ranked) by\b|\b(?:de|a)scending\b"),
        ("now", r"\bdo we have\b|\bcurrent(?:ly)?\b|\bnow\b|\bstill\b|\bat present\b"),
        ("running", RUNNING.pattern),
    ):  # fmt: skip
        if re.search(pattern, plain.rstrip(" ?.!")):
            have.add(name)
    named = {i for m in found.mentions if m.firm for i in range(m.first, m.last + 1)}
    negated = (NOT & {t for i, t in enumerate(texts) if i not in named}) or re.search(
        r"\bother than\b|n't\b|\binstead of\b|\bapart from\b", plain
    )
    if negated and "keeps empty" not in have and not re.search(r"\bno (?:more|less|fewer) than\b", plain):
        have.add("not")
    match = re.search(
        r"\b(most (?:frequent|common|often)|worst|best|highest|lowest|largest|smallest|latest|newest|oldest"
        r"|most|fewest|least|[a-z]{3,}est) (?:first|on top|at the top)\b",
        plain,
    )
    found.first_is = match.group(1) if match else ""
    for position, text in enumerate(texts):
        if (
            text == "most"
            and texts[position + 1 : position + 2]
            and texts[position + 1] in ("frequent", "common", "often")
        ):
            if not found.first_is:
                found.superlatives.append(("most", "high"))
        elif (
            text in ("least", "most", "min", "max") and position and texts[position - 1] == "at"
        ) or found.first_is == text:
            continue
        elif text in HIGH:
            found.superlatives.append((text, "high"))
        elif text in LOW:
            found.superlatives.append((text, "low"))
        elif text in GOOD_OR_BAD or text in ADJECTIVES:
            found.superlatives.append((text, None))
        elif is_superlative(text) and position not in named:
            # What is windiest has most wind; of others the form does not say which end it is.
            found.superlatives.append((text, "high" if text.endswith("iest") else None))
    found.units = [UNITS[t] for t in texts if t in UNITS]
    found.has = frozenset(have)


_EACH: Final = re.compile(r"\b(?:from )?(day|week|month|quarter|year) (?:to|by|on|over|after|for) \1\b")

_OFTEN: Final = re.compile(r"\b(?:hourly|daily|weekly|monthly|yearly|annual)\b(?! (?:dashboard|report|pass|ticket))")


def _head(mention: Mention, by_first: dict[int, Mention]) -> Mention:
    """Of two nouns the second says what is meant: by course level is by level."""
    behind = by_first.get(mention.last + 1)
    tables = {m.table for m in mention.meanings if m.kind == "table"}
    if behind is not None and any(m.kind == "column" and m.table in tables for m in behind.meanings):
        return behind
    return mention


def _per(found: Question, used: list[bool]) -> None:
    words = found.words
    by_first = {m.first: m for m in found.mentions}
    superlative = bool(found.superlatives)
    for match in _OFTEN.finditer(fold(found.text)):
        often = match.group()
        found.per.append(Per(calendar="year" if often == "annual" else CALENDAR[often], text=often))
    for match in _EACH.finditer(fold(found.text)):
        found.per.append(Per(calendar=match.group(1), text=match.group(1)))
        used[:] = [u or match.start() <= w.start < match.end() for u, w in zip(used, words, strict=True)]
    position = 0
    while position < len(words):
        text = words[position].text
        here, position = position, position + 1
        if text not in ("per", "each", "every", "by") or (text == "by" and superlative and not found.first_is):
            continue
        at = here + 1
        while at < len(words):
            if words[at].text in ("each", "every", "the", "a", "an", "of", "their", "its"):
                at += 1
                continue
            mention = by_first.get(at)
            unit = CALENDAR.get(words[at].text)
            if unit is not None and (mention is None or mention.idle):
                # "hour of the day", "day of the week", "month of 2025": the unit that is repeated.
                if unit == "day" and [w.text for w in words[at + 1 : at + 4]] == ["of", "the", "week"]:
                    unit = "weekday"
                found.per.append(Per(calendar=unit, text=words[at].text))
                used[at] = True
            elif mention is not None and any(m.kind in ("table", "column", "measure") for m in mention.meanings):
                mention = _head(mention, by_first)
                if not (text == "by" and all(m.kind == "measure" for m in mention.meanings)):
                    found.per.append(Per(mention=mention, text=mention.text))
                at = mention.last
            else:
                break
            at += 1
            if at < len(words) and words[at].text == "and":
                at += 1
                continue
            break
        position = max(position, at)
