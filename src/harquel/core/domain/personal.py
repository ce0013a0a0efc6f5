"""Which columns look as if they held something about a person: a proposal, and a policy has the last word.

It is made from what can be known without asking anybody: names and types, comments of the database, notes of the
steward, and the form of values. What is said of something that is no person (when a vessel was born) is no matter of
protection; whether a table is about people is told by what else stands in it.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import replace
from typing import Final

from harquel.core.domain.catalog import Catalog, Column, Table, Value
from harquel.core.domain.notes import Notes

_DELICATE = re.compile(
    r"(^|_)(e?mail|phone|mobile|fax|address|street|iban|bic|ssn|passport|(first|given|fore)_?name|"
    r"(last|family|sur|full)_?name|salary|wages?|password|passwd|secret|token|api_?key|salt|hash)(_|$)",
    re.IGNORECASE,
)
_PEOPLE = re.compile(
    r"(^|_)(e?mail|phone|mobile|passport|ssn|(first|given|fore|last|family|sur|full)_?name|gender)(_|$)", re.IGNORECASE
)
_BORN = re.compile(r"(^|_)(birth|birthday|born|dob)(_|$)|birth_?date", re.IGNORECASE)
_SOMEBODY = re.compile(
    r"(^|_)(person|people|customer|client|member|employee|staff|crew|passenger|guest|patient|student|pupil|child|"
    r"teacher|driver|user|contact|visitor|resident|citizen|applicant|relative|parent)s?(ren)?(_|$)",
    re.IGNORECASE,
)
_HUMP = re.compile(r"(?<=[a-z0-9])(?=[A-Z])")
_SAID = re.compile(
    r"(?<!\bnot )(?<!\bno )(?<!\bnon-)(?<!\bim)\b(personal(ly identif\w+)?|pii|confidential|sensitive|secret|"
    r"identity (number|card)|social security|passport|date of birth|(home|postal|e-?mail) address|phone number)\b",
    re.IGNORECASE,
)
FEWEST: Final = 4
"""Values of telling form below which it may be chance."""


def looks_personal(column: str) -> bool:
    """Whether a column's name alone says that it is personal or secret."""
    return _DELICATE.search(_parted(column)) is not None


def says_personal(text: str) -> bool:
    """Whether words about a column say so."""
    return _SAID.search(text) is not None


def propose(table: Table) -> Table:
    """The table with its columns marked by name, type and comment."""
    of_people = is_of_people(table)

    def mark(column: Column) -> bool:
        name = _parted(column.name)
        if says_personal(column.comment):
            return True
        if _BORN.search(name):
            return of_people
        if column.kind in ("boolean", "temporal"):
            return False
        alike = of_people and name.casefold() in ("name", "display_name", "nickname") and _told_apart(table)
        return looks_personal(column.name) or alike

    return replace(table, columns=tuple(replace(c, looks_personal=mark(c)) for c in table.columns))


def marked_by_notes(catalog: Catalog, notes: Notes) -> Catalog:
    """The catalog with those columns marked of which the notes say so; whoever shows values asks the policy of each."""
    said = {
        (name, column)
        for name, about in notes.tables.items()
        for column, words in about.columns.items()
        if says_personal(" ".join((words.text, *words.synonyms)))
    }
    if not said:
        return catalog
    tables = tuple(
        replace(t, columns=tuple(
            replace(c, looks_personal=True) if (t.name, c.name) in said else c for c in t.columns
        )) for t in catalog.tables
    )  # fmt: skip
    return replace(catalog, tables=tables)


def _parted(name: str) -> str:
    return _HUMP.sub("_", name)


def is_of_people(table: Table) -> bool:
    """Whether its rows are people, as far as its names say."""
    return _SOMEBODY.search(_parted(table.plain)) is not None or _told_apart(table)


def _told_apart(table: Table) -> bool:
    """Whether it has columns that only people have; a plain "name" beside a phone number is a person's."""
    return any(_PEOPLE.search(_parted(c.name)) for c in table.columns)


def values_tell(values: Iterable[Value], of_people: bool) -> bool:
    """Whether all of some values have one form that only something personal has."""
    texts = [str(v).strip() for v in values if v is not None and not isinstance(v, bool | float)]
    forms = _FORMS_OF_ANYBODY + (_FORMS_OF_PEOPLE if of_people else ())
    return len(texts) >= FEWEST and any(all(form(t) for t in texts) for form in forms)


def _mail(text: str) -> bool:
    return re.fullmatch(r"[^@\s]{1,64}@[^@\s]{1,200}\.[A-Za-z]{2,}", text) is not None


def _phone(text: str) -> bool:
    digits = sum(c.isdigit() for c in text)
    return 7 <= digits <= 15 and re.fullmatch(r"(\+|00)[0-9][0-9 ()/.-]{5,24}", text) is not None


def _account(text: str) -> bool:
    """IBAN (ISO 13616): letters count from 10, the first four signs go to the end, the rest by 97 is 1."""
    bare = text.replace(" ", "")
    if re.fullmatch(r"[A-Z]{2}[0-9]{2}[A-Z0-9]{11,30}", bare) is None:
        return False
    return int("".join(str(int(c, 36)) for c in bare[4:] + bare[:4])) % 97 == 1


def _card(text: str) -> bool:
    """Numbers of cards (ISO/IEC 7812): 15, 16 or 19 digits, the last of which checks the others."""
    bare = re.sub(r"[ -]", "", text)
    return len(bare) in (15, 16, 19) and bare.isascii() and bare.isdigit() and _mod_10(bare)


def _mod_10(digits: str) -> bool:
    doubled = (int(d) * 2 if place % 2 else int(d) for place, d in enumerate(reversed(digits)))
    return sum(n - 9 if n > 9 else n for n in doubled) % 10 == 0


def _identity(text: str) -> bool:
    """Nine digits and more, or grouped ones, as numbers of people have them; numbers of things have no groups."""
    bare = re.sub(r"[ .-]", "", text)
    if not (9 <= len(bare) <= 13 and bare.isascii() and bare.isdigit()):
        return False
    # An amount of money has a point in it as well, but one alone.
    grouped = bare != text and re.fullmatch(r"\d+\.\d+", text) is None
    return grouped or _mod_10(bare) or int(bare) % 97 in (0, 1) or _mod_11(bare)


def _mod_11(digits: str) -> bool:
    """The sum of digits by their place, from the right and from two on, is divided by 11 without remainder."""
    return sum(int(d) * place for place, d in enumerate(reversed(digits), 1)) % 11 == 0


_FORMS_OF_ANYBODY: Final = (_mail, _phone, _account, _card)
_FORMS_OF_PEOPLE: Final = (_identity,)
