"""What people say a source means: descriptions, units, codes, measures. One YAML form."""

from __future__ import annotations

from functools import cached_property

from pydantic import BaseModel, ConfigDict, Field, field_validator

from harquel.core.calendar import USUAL, Calendar
from harquel.core.domain.units import UnitNotes, Units, faults_of


class _Part(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class ColumnNotes(_Part):
    """On one column. `codes` maps a stored value to its meaning, `also` to other words that people have for it;
    `null_means` says what none means; `adds_up` is false for figures of which a sum says nothing: a price, a level, a
    counter that goes on.
    """

    text: str = ""
    synonyms: tuple[str, ...] = ()
    unit: str | None = None
    codes: dict[str, str] = {}
    also: dict[str, tuple[str, ...]] = {}
    null_means: str | None = None
    adds_up: bool = True

    @field_validator("codes", mode="before")
    @classmethod
    def _as_texts(cls, codes: object) -> object:
        """YAML reads 0 and true as what they are; a code is what is written."""
        if not isinstance(codes, dict):
            return codes
        return {_written(key): value if isinstance(value, str) else _written(value) for key, value in codes.items()}

    @field_validator("also", mode="before")
    @classmethod
    def _by_texts(cls, also: object) -> object:
        return {_written(key): words for key, words in also.items()} if isinstance(also, dict) else also

    def code_of(self, word: str) -> str | None:
        """The stored value that people call so."""
        folded = word.casefold()
        told = [*((code, meaning) for code, meaning in self.codes.items()),
                *((code, other) for code, others in self.also.items() for other in others)]  # fmt: skip
        return next((code for code, said in told if said.casefold() == folded), None)


def _written(value: object) -> str:
    return str(value).lower() if isinstance(value, bool) else str(value)


class TableNotes(_Part):
    """On one table.

    `when` is the column that dates a row, `fresh_by` the one whose newest value says up to when rows have come, `label`
    the one that names a row for people, and
    `default_filter` a condition that rows must meet unless the question says otherwise: rows that are counted, summed
    or listed, and with `default_filter_when_joined` those, too, by whose properties others are told apart.
    """

    text: str = ""
    synonyms: tuple[str, ...] = ()
    when: str | None = None
    fresh_by: str | None = None
    label: str | None = None
    default_filter: str | None = None
    default_filter_when_joined: bool = False
    columns: dict[str, ColumnNotes] = {}


class Measure(_Part):
    """A figure with an agreed definition: an aggregate in SQL, over which rows, dated by what.

    `better` says which end is good ("high" or "low"), so that "worst first" has a meaning.
    """

    text: str = ""
    synonyms: tuple[str, ...] = ()
    sql: str
    of: str
    where: str | None = None
    when: str | None = None
    unit: str | None = None
    better: str | None = Field(default=None, pattern="^(high|low)$")
    owner: str = ""
    version: int = 1


class DeclaredJoin(_Part):
    """A way two tables join that no key of the database says: table.column, several with commas between."""

    model_config = ConfigDict(extra="forbid", frozen=True, populate_by_name=True)

    from_: str = Field(alias="from", pattern=r"^.+\..+$")
    to: str = Field(pattern=r"^.+\..+$")
    text: str = ""

    def ends(self) -> tuple[str, tuple[str, ...], str, tuple[str, ...]]:
        """Table and columns, other table and its columns."""
        here, there = _split(self.from_), _split(self.to)
        return *here, *there


def _split(side: str) -> tuple[str, tuple[str, ...]]:
    parts = [part.strip().rpartition(".") for part in side.split(",")]
    return parts[0][0], tuple(column for _, _, column in parts)


class Notes(_Part):
    """All notes of a source; empty when nobody wrote any."""

    text: str = ""
    tables: dict[str, TableNotes] = {}
    joins: tuple[DeclaredJoin, ...] = ()
    measures: dict[str, Measure] = {}
    units: dict[str, UnitNotes] = Field(default={}, max_length=200)
    calendar: Calendar = USUAL

    @field_validator("units")
    @classmethod
    def _together(cls, units: dict[str, UnitNotes]) -> dict[str, UnitNotes]:
        faults = faults_of(units)
        if faults:
            raise ValueError(" ".join(faults))
        return units

    @cached_property
    def known_units(self) -> Units:
        """Those of everybody and those that are said here."""
        return Units(self.units)

    def said(self) -> str:
        """What holds for all of the source, with what its own units are worth."""
        worth = [self.known_units.said(name) for name, about in self.units.items() if about.of is not None]
        return " ".join([self.text.strip(), *worth]).strip()

    def of(self, table: str) -> TableNotes:
        """The notes on a table, empty ones where there are none."""
        return self.tables.get(table) or TableNotes()
