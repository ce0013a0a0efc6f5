"""How the dialects that a prompt can name write what differs: quoting, parts of dates, weekdays."""

from __future__ import annotations

from dataclasses import dataclass

RESERVED = frozenset("order group select from where table index key values by to in is as on".split())


@dataclass(frozen=True)
class Dialect:
    """`units` turn an instant into a calendar unit, `within_year` the same without the year.

    `weekday` compares an instant ({0}) with a day of the week ({1}, from 0 for Sunday).
    """

    mark: str
    units: dict[str, str]
    within_year: dict[str, str]
    weekday: str
    minutes: str
    """From {1} to {0}, in minutes and their parts."""
    days: str
    first_day: int = 0

    def quote(self, name: str) -> str:
        """A name as SQL, quoted where it must be."""
        if name.isidentifier() and name.lower() not in RESERVED and (self.mark == "`" or name == name.lower()):
            return name
        return self.mark + name.replace(self.mark, self.mark * 2) + self.mark

    def is_weekday(self, at: str, day: int) -> str:
        """The condition that an instant falls on a day of the week."""
        return self.weekday.format(at, day + self.first_day)


DIALECTS = {
    "sqlite": Dialect(
        '"',
        {
            "hour": "STRFTIME('%H', {0})",
            "day": "DATE({0})",
            "weekday": "STRFTIME('%w', {0})",
            "week": "STRFTIME('%Y-%W', {0})",
            "month": "STRFTIME('%Y-%m', {0})",
            "quarter": "STRFTIME('%Y', {0}) || '-Q' || ((CAST(STRFTIME('%m', {0}) AS INTEGER) + 2) / 3)",
            "year": "STRFTIME('%Y', {0})",
        },
        {"month": "STRFTIME('%m', {0})", "week": "STRFTIME('%W', {0})"},
        "STRFTIME('%w', {0}) = '{1}'",
        "(JULIANDAY({0}) - JULIANDAY({1})) * 1440",
        "JULIANDAY({0}) - JULIANDAY({1})",
    ),
    "postgresql": Dialect(
        '"',
        {
            "hour": "TO_CHAR({0}, 'HH24')",
            "day": "CAST({0} AS DATE)",
            "weekday": "EXTRACT(DOW FROM {0})",
            "week": "TO_CHAR({0}, 'IYYY-IW')",
            "month": "TO_CHAR({0}, 'YYYY-MM')",
            "quarter": "EXTRACT(YEAR FROM {0}) || '-Q' || EXTRACT(QUARTER FROM {0})",
            "year": "TO_CHAR({0}, 'YYYY')",
        },
        {"month": "TO_CHAR({0}, 'MM')", "week": "TO_CHAR({0}, 'IW')"},
        "EXTRACT(DOW FROM {0}) = {1}",
        "EXTRACT(EPOCH FROM ({0} - {1})) / 60.0",
        "({0} - {1})",
    ),
    "mariadb": Dialect(
        "`",
        {
            "hour": "DATE_FORMAT({0}, '%H')",
            "day": "DATE({0})",
            "weekday": "DAYOFWEEK({0})",
            "week": "DATE_FORMAT({0}, '%x-%v')",
            "month": "DATE_FORMAT({0}, '%Y-%m')",
            "quarter": "CONCAT(YEAR({0}), '-Q', QUARTER({0}))",
            "year": "DATE_FORMAT({0}, '%Y')",
        },
        {"month": "DATE_FORMAT({0}, '%m')", "week": "DATE_FORMAT({0}, '%v')"},
        "DAYOFWEEK({0}) = {1}",
        "TIMESTAMPDIFF(SECOND, {1}, {0}) / 60.0",
        "DATEDIFF({0}, {1})",
        first_day=1,
    ),
}


def dialect_of(text: str) -> Dialect:
    """By the first word that a prompt says of its dialect; SQLite where it says nothing known."""
    word = text.strip().split(" ")[0].strip().casefold()
    return DIALECTS.get({"mysql": "mariadb", "postgres": "postgresql"}.get(word, word), DIALECTS["sqlite"])
