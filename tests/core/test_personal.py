"""What looks personal: told by names, comments, notes and the form of values, not by the name alone."""

from __future__ import annotations

import random
import sqlite3
from dataclasses import replace
from pathlib import Path

import pytest

from harquel.core.briefing import Describer
from harquel.core.domain.catalog import Catalog, Column, Table
from harquel.core.domain.notes import ColumnNotes, Notes, TableNotes
from harquel.core.domain.personal import marked_by_notes, propose, says_personal, values_tell
from harquel.core.domain.policy import Personal, Policy
from harquel.core.engines.sqlite import SqliteEngine
from harquel.core.scanning import CatalogKeeper
from harquel.testing.scripted import Scripted
from harquel.testing.sources import ask
from tests.core.conftest import Make

RANDOM = random.Random(14)


def with_check_digit(length: int, fits: str) -> str:
    """Digits of which the last checks the others, by doubling every second one or by weights from two on."""
    body = "".join(RANDOM.choice("123456789") for _ in range(length - 1))
    for last in "0123456789":
        digits = body + last
        if fits == "doubled":
            total = sum(sum(divmod(int(d) * (1 + i % 2), 10)) for i, d in enumerate(reversed(digits)))
            if total % 10 == 0:
                return digits
        elif sum(int(d) * i for i, d in enumerate(reversed(digits), 1)) % 11 == 0:
            return digits
    return with_check_digit(length, fits)


TELLING = {
    "mail": ["ada@quay.example", "b.reed@isle.example", "c_d@x.example", "quill@harbour.example"],
    "phone": ["+44 20 7946 0000", "+1 555 0100", "0049 30 123456", "+47 22 33 44 55"],
    "cards": [with_check_digit(16, "doubled") for _ in range(6)],
    "accounts": ["GB82 WEST 1234 5698 7654 32", "DE89370400440532013000", "FR1420041010050500013M02606",
                 "NL91ABNA0417164300"],
}  # fmt: skip
OF_THINGS = {
    "names": ["Marrow", "Quillhaven", "Brightwater", "Saltmere"],
    "numbers": ["1001", "1002", "1003", "1004"],
    "dates": ["2026-01-01", "2026-02-03", "2026-04-05", "2026-05-06"],
    "references": ["BK-2026-0001", "BK-2026-0002", "BK-2026-0003", "BK-2026-0004"],
    "long numbers": [str(10**15 + 7 * n) for n in range(12)],
    "few": ["+44 20 7946 0000"],
    "mixed": ["ada@quay.example", "none", "b@isle.example", "c@x.example"],
}


@pytest.mark.parametrize("name", TELLING)
def test_values_of_telling_form_are_personal(name: str) -> None:
    assert values_tell(TELLING[name], False)


@pytest.mark.parametrize("name", OF_THINGS)
def test_values_of_things_are_not(name: str) -> None:
    assert not values_tell(OF_THINGS[name], False)


@pytest.mark.parametrize("fits", ["doubled", "weighted"])
def test_numbers_with_a_check_digit_are_personal_where_rows_are_people(fits: str) -> None:
    numbers = [with_check_digit(11, fits) for _ in range(8)]
    assert values_tell(numbers, True)
    assert not values_tell(numbers, False)
    assert not values_tell(["1234567.50", "2345678.90", "7654321.05", "9876543.20"], True), "amounts"
    assert values_tell(["123.456.789-09", "987.654.321-00", "111.444.777-35", "222.333.444-05"], True)


def table(name: str, *columns: tuple[str, str, str]) -> Table:
    return Table(name, "table", tuple(Column(n, t, True, comment=c) for n, t, c in columns))


def marked(of: Table) -> set[str]:
    return {c.name for c in propose(of).columns if c.looks_personal}


def test_names_and_pay_of_people_are_theirs_whatever_they_are_called() -> None:
    told = [(name, "TEXT", "") for name in ("given_name", "familyName", "forename", "monthly_salary", "grade", "wages")]
    assert marked(table("technician", ("id", "INT", ""), *told)) == {"given_name", "familyName", "forename",
                                                                    "monthly_salary", "wages"}  # fmt: skip


def test_a_comment_says_what_a_name_does_not() -> None:
    said = table("roster", ("ref", "TEXT", "Personal identification number"), ("code", "TEXT", "not personal"))
    assert marked(said) == {"ref"}
    assert says_personal("PII, handle with care")
    assert not says_personal("an impersonal number")


def test_a_birth_date_is_personal_of_people_only() -> None:
    assert marked(table("pupil", ("id", "INT", ""), ("birth_date", "DATE", ""))) == {"birth_date"}
    assert marked(table("roster", ("born", "DATE", ""), ("email", "TEXT", ""))) == {"born", "email"}
    assert marked(table("seal", ("id", "INT", ""), ("name", "TEXT", ""), ("birth_date", "DATE", ""))) == set()


def test_notes_say_it_as_well(tmp_path: Path) -> None:
    bare = table("roster", ("ref", "TEXT", ""), ("shift", "TEXT", ""))
    notes = Notes(tables={"roster": TableNotes(columns={"ref": ColumnNotes(text="the personal number of the clerk")})})
    whole = marked_by_notes(Catalog("sqlite", (bare,), "", None), notes)  # type: ignore[arg-type]
    seen = Policy().visible(whole).table("roster")
    assert seen is not None
    assert [c.name for c in seen.columns] == ["shift"]


@pytest.fixture
def clinic(tmp_path: Path) -> Path:
    path = tmp_path / "clinic.db"
    with sqlite3.connect(path) as connection:
        connection.execute("CREATE TABLE patient (id INTEGER PRIMARY KEY, ward TEXT, ref TEXT, code INTEGER)")
        for n in range(30):
            row = (n, "ABC"[n % 3], with_check_digit(11, "doubled"), int(with_check_digit(11, "weighted")))
            connection.execute("INSERT INTO patient VALUES (?, ?, ?, ?)", row)
    connection.close()
    return path


def test_a_scan_reads_the_form_keeps_no_value_and_remembers(clinic: Path) -> None:
    keeper = CatalogKeeper(SqliteEngine(clinic), Policy)
    found = keeper.current().table("patient")
    assert found is not None
    by_name = {c.name: c for c in found.columns}
    assert {n for n, c in by_name.items() if c.looks_personal} == {"ref", "code"}
    assert (by_name["ref"].samples, by_name["ref"].distinct, by_name["code"].low) == ((), None, None)
    assert by_name["ward"].samples
    with sqlite3.connect(clinic) as connection:
        connection.execute("CREATE TABLE other (id INTEGER)")
    connection.close()
    keeper.scan("changes")
    keeper.wait(20)
    again = keeper.current().table("patient")
    assert again is not None
    assert {c.name for c in again.columns if c.looks_personal} == {"ref", "code"}
    # A line of the policy clears one: its values may be read then, and stay.
    policy = Policy(personal=Personal(cleared=("patient.ref",)))
    cleared = CatalogKeeper(SqliteEngine(clinic), lambda: policy).current().table("patient")
    assert cleared is not None
    assert cleared.column("ref").samples  # type: ignore[union-attr]


ASKED = [
    ("List the customers with name and phone", "SELECT * FROM customer WHERE id < 20", "caution", "“phone”"),
    ("Which customers have which e-mail?", "SELECT id FROM customer WHERE id < 20", "caution", "“e-mail”"),
]


@pytest.mark.parametrize(("question", "draft", "trust", "word"), ASKED)
def test_what_is_asked_for_and_withheld_is_said(make: Make, question: str, draft: str, trust: str, word: str) -> None:
    source = make(Scripted(draft))
    found = ask(replace(source, describer=Describer(Policy(), Notes())), question)
    assert found.answer is not None, found.problem
    assert found.trust == trust
    assert word in {c.rule: c.message for c in found.answer.caveats}["withheld"]


def test_all_columns_are_not_all_where_some_are_withheld(make: Make) -> None:
    source = make(Scripted("SELECT * FROM customer WHERE id < 20"))
    bare = replace(source, describer=Describer(Policy(), Notes()))
    found = ask(bare, "Everything about the customers")
    counted = ask(bare, "How many customers are there?")
    assert found.answer is not None
    assert "Withheld and left out: 3 columns of customer." in found.answer.text
    assert counted.answer is not None
    assert "withheld" not in {c.rule for c in counted.answer.caveats}
