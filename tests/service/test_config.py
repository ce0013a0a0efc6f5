"""harquel.toml: what is read, what is overridden, what is refused and how it is said."""

from __future__ import annotations

from pathlib import Path

import pytest

from harquel.core.errors import ConfigurationError
from harquel.service.config import HarquelConfig, load_config, resolve_secret

GOOD = """
[service]
bind = "127.0.0.1:1234"
data_dir = "records"
[models.main]
base_url = "http://127.0.0.1:9/v1"
name = "careful"
temperature = 0.2
[duties]
draft = "main"
[sources.ferries]
url = "sqlite:///ferries.db"
as_of = "2026-09-14T10:00:00Z"
"""


def read(tmp_path: Path, text: str = GOOD, **environment: str) -> HarquelConfig:
    path = tmp_path / "harquel.toml"
    path.write_text(text)
    return load_config(path, environment)


def test_a_whole_file(tmp_path: Path) -> None:
    config = read(tmp_path)
    assert config.service.bind == "127.0.0.1:1234"
    assert config.data_dir == (tmp_path / "records").resolve()
    assert config.models["main"].temperature == 0.2
    assert config.sources["ferries"].as_of is not None
    assert config.service.askers == 8


def test_an_empty_file_is_a_service_without_sources(tmp_path: Path) -> None:
    assert read(tmp_path, "").sources == {}


@pytest.mark.parametrize(
    ("name", "value", "read_back"),
    [
        ("HARQUEL__SERVICE__ASKERS", "3", lambda c: c.service.askers == 3),
        ("HARQUEL__SERVICE__BIND", "0.0.0.0:80", lambda c: c.service.bind == "0.0.0.0:80"),
        ("HARQUEL__MODELS__MAIN__NAME", "other", lambda c: c.models["main"].name == "other"),
        ("HARQUEL__SOURCES__FERRIES__TITLE", "Boats", lambda c: c.sources["ferries"].title == "Boats"),
        ("HARQUEL__SOURCES__FERRIES__WORKERS", "4", lambda c: c.sources["ferries"].workers == 4),
    ],
)
def test_every_value_can_be_overridden_from_the_environment(name, value, read_back, tmp_path: Path) -> None:
    assert read_back(read(tmp_path, **{name: value}))


def test_an_override_is_checked_like_the_file(tmp_path: Path) -> None:
    with pytest.raises(ConfigurationError, match=r"Unknown key service\.aksers"):
        read(tmp_path, HARQUEL__SERVICE__AKSERS="3")
    with pytest.raises(ConfigurationError, match=r"service\.askers"):
        read(tmp_path, HARQUEL__SERVICE__ASKERS="lots")
    with pytest.raises(ConfigurationError, match="does not fit"):
        read(tmp_path, HARQUEL__SERVICE__BIND__PORT="1")


@pytest.mark.parametrize(
    ("key", "hint"),
    [("servce", "service"), ("modles", "models"), ("service.data_dri", "data_dir"), ("models.main.nmae", "name"),
     ("sources.ferries.polcy", "policy"), ("duties.darft", "draft"), ("service.zzz", "Known here: address")],
)  # fmt: skip
def test_an_unknown_key_names_the_nearest_known_one(key: str, hint: str, tmp_path: Path) -> None:
    *section, last = key.split(".")
    text = (
        GOOD.replace(f"[{'.'.join(section)}]", f"[{'.'.join(section)}]\n{last} = 'x'")
        if section
        else f"{last} = 'x'\n{GOOD}"
    )
    with pytest.raises(ConfigurationError) as caught:
        read(tmp_path, text)
    assert key in str(caught.value)
    assert hint in caught.value.hint


def test_secrets_come_by_reference(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("SOME_KEY", "from the environment")
    (tmp_path / "key").write_text("from a file\n")
    assert resolve_secret("env:SOME_KEY", tmp_path, "x") == "from the environment"
    assert resolve_secret("file:key", tmp_path, "x") == "from a file"
    assert resolve_secret("sqlite:///plain", tmp_path, "x") == "sqlite:///plain"
    for reference in ("env:NOT_SET_ANYWHERE", "file:none"):
        with pytest.raises(ConfigurationError, match=r"models\.main\.key"):
            resolve_secret(reference, tmp_path, "models.main.key")


def test_a_password_in_a_url_is_refused_without_being_repeated(tmp_path: Path) -> None:
    with pytest.raises(ConfigurationError) as caught:
        read(tmp_path, GOOD.replace("sqlite:///ferries.db", "postgresql://ada:hunter2@db/ferries"))
    assert "env:FERRIES_URL" in caught.value.hint
    assert "hunter2" not in str(caught.value) + caught.value.hint
