"""Which source is asked where none is named: the one that knows the words, or whoever asks is asked."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from trust import academy, stores

from harquel.client import Harquel, calls
from harquel.client.errors import Invalid
from harquel.demo.stage import Stage


@pytest.fixture(scope="module")
def several(new_stage: Callable[..., Stage], tmp_path_factory: pytest.TempPathFactory) -> Iterator[Stage]:
    """The demo, whose three sources are one database, beside two others."""
    folder: Path = tmp_path_factory.mktemp("several")
    made = {"HARQUEL__SERVICE__TRY_STARTERS": "false"}
    for name, other in (("stores", stores), ("academy", academy)):
        other.load(folder / f"{name}.db")
        made[f"HARQUEL__SOURCES__{name.upper()}__URL"] = f"sqlite:///{folder / name}.db"
        made[f"HARQUEL__SOURCES__{name.upper()}__NOTES"] = str(other.FOLDER / "notes.yaml")
        made[f"HARQUEL__SOURCES__{name.upper()}__TITLE"] = f"The {name}"
    with new_stage(folder, environment=made) as running:
        with Harquel(running.url, running.token) as client:
            for name in ("stores", "academy"):
                client.ask("How many rows?", name)
        yield running


def test_the_one_that_knows_the_words_is_asked_and_says_why(several: Stage) -> None:
    with Harquel(several.url, several.token) as client:
        inquiry = client.ask("How many courses are there?")
        assert (inquiry.outcome, inquiry.source) == ("answered", "academy")
        assert inquiry.source_why == "Asked of academy: it knows “courses”."
        assert client.inquiry(inquiry.id).source_why == inquiry.source_why
        german = client.ask("Wie viele courses je building?")
        assert german.source_why.startswith("academy gefragt:")
        named = client.ask("How many courses are there?", "academy")
        assert named.source_why == ""


def test_where_nobody_can_tell_the_sources_are_the_choices(several: Stage) -> None:
    with Harquel(several.url, several.token) as client:
        asked = client.ask("How many sailings were cancelled in August 2026?")
        assert asked.outcome == "clarify"
        assert asked.clarify is not None
        assert {c.id for c in asked.clarify.choices} == {"source:ferries", "source:pair", "source:rough"}
        assert asked.usage.calls == 0
        assert asked.attempts == []
        chosen = client.send(calls.choose(asked.id, "source:ferries", 20.0))
        assert (chosen.outcome, chosen.source, chosen.question) == ("answered", "ferries", asked.question)
        assert chosen.answer is not None
        assert chosen.answer.table.rows == [[12]]
        with pytest.raises(Invalid, match="was not offered"):
            client.send(calls.choose(asked.id, "source:stores", 20.0))


def test_a_source_that_somebody_may_not_see_is_never_named(several: Stage) -> None:
    with Harquel(several.url, several.token) as admin:
        few = admin.create_token("few", "Bo Ashgrove", ["stores", "ferries"], ["ask"], []).secret
        one = admin.create_token("one", "Cass Wren", ["ferries"], ["ask"], []).secret
    with Harquel(several.url, few) as bo:
        asked = bo.ask("How many courses are there?")
        assert "academy" not in asked.model_dump_json()
        back = bo.ask("blue elephants")
        assert back.clarify is not None
        assert {c.id for c in back.clarify.choices} == {"source:stores", "source:ferries"}
    with Harquel(several.url, one) as cass:
        assert cass.ask("How many courses are there?").source == "ferries"
