"""What a source is made of: what is missing is named, secrets are masked, and our own records are none."""

from __future__ import annotations

import datetime as dt
from pathlib import Path
from typing import Any

import pytest

from harquel.core.errors import ConfigurationError
from harquel.service import masking
from harquel.service.config import SourceSection
from harquel.service.sources.specs import SourceSpec, engine_of, must_not_be_ours

SERVER = {"engine": "postgresql", "host": "db.example", "database": "ferries", "user": "reader"}


def spec(password: str | None = None, **fields: Any) -> SourceSpec:
    return SourceSpec("ferries", SourceSection.model_validate(fields), "file", password)


@pytest.mark.parametrize(("fields", "said"), [
    ({}, "says neither url nor engine"),
    ({"engine": "sqlite"}, "has no path"),
    ({"engine": "mariadb"}, "lacks host, database, user"),
    ({**SERVER, "user": ""}, "lacks user"),
])  # fmt: skip
def test_what_is_missing_is_named(tmp_path: Path, fields: dict[str, Any], said: str) -> None:
    with pytest.raises(ConfigurationError, match=said) as caught:
        engine_of(spec(**fields), tmp_path)
    assert caught.value.hint


def test_a_file_is_looked_for_beside_the_configuration(tmp_path: Path) -> None:
    (tmp_path / "deep").mkdir()
    (tmp_path / "deep" / "ferries ü.db").touch()
    for path in ("deep/ferries ü.db", str(tmp_path / "deep" / "ferries ü.db"), "deep/../deep/ferries ü.db"):
        engine = engine_of(spec(engine="sqlite", path=path), tmp_path)
        assert engine.address()["path"] == str(tmp_path / "deep" / "ferries ü.db")
        engine.close()


def test_fields_and_a_url_come_to_the_same_and_the_password_is_masked_from_then_on(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("FERRIES_PASSWORD", "p@ss:w/rd-of-ferries")
    section = SourceSection.model_validate({**SERVER, "password": "env:FERRIES_PASSWORD"})
    by_field = engine_of(SourceSpec("ferries", section, "file"), tmp_path)
    address = by_field.address()["server"]
    assert (address["host"], address["password"]) == ("db.example", "p@ss:w/rd-of-ferries")
    assert "p@ss:w/rd-of-ferries" not in masking.masked("tried with p@ss:w/rd-of-ferries")
    # One that was kept in the records comes before that of the section.
    kept = engine_of(
        SourceSpec("ferries", SourceSection.model_validate(SERVER), "records", "kept-in-records"), tmp_path
    )
    assert kept.address()["server"]["password"] == "kept-in-records"
    assert "kept-in-records" not in repr(spec("kept-in-records", **SERVER))
    assert "kept-in-records" not in masking.masked("and with kept-in-records")


def test_the_records_are_no_source_whatever_leads_there(tmp_path: Path) -> None:
    data = tmp_path / "var"
    data.mkdir()
    (data / "records.sqlite3").touch()
    (tmp_path / "other.db").symlink_to(data / "records.sqlite3")
    (tmp_path / "ferries.db").touch()
    for path in ("var/records.sqlite3", "other.db", "var/../var/records.sqlite3"):
        engine = engine_of(spec(engine="sqlite", path=path), tmp_path)
        with pytest.raises(ConfigurationError, match="own data directory cannot be a source"):
            must_not_be_ours(engine, data)
    must_not_be_ours(engine_of(spec(engine="sqlite", path="ferries.db"), tmp_path), data)
    must_not_be_ours(engine_of(SourceSpec("a", SourceSection.model_validate(SERVER), "file"), tmp_path), data)


def test_a_fixed_instant_without_a_zone_is_one_in_utc() -> None:
    at = dt.datetime(2026, 9, 14, 10)
    assert spec(as_of=at.isoformat()).as_of == at.replace(tzinfo=dt.UTC)
    assert spec(as_of="2026-09-14T12:00:00+02:00").as_of == at.replace(tzinfo=dt.UTC)
    assert spec().as_of is None
