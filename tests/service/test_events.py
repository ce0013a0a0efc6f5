"""Events: one list of all that can happen, which ledger, stream, terminal, console and document are made from."""

from __future__ import annotations

import json
import re
from typing import get_args

import httpx
import pytest

from harquel.cli.leaf import stop
from harquel.client import Harquel, StreamEvent
from harquel.contract import events
from harquel.core.domain.events import Event
from harquel.demo.stage import Stage
from harquel.service.conductors import messages
from tests.conftest import DATA
from tests.forked import run_harquel

TOLD = get_args(events.InquiryEvent)


def test_kinds_are_told_apart_and_facts_come_back_as_they_were() -> None:
    assert len(events.EVENTS) == len(get_args(events.Event))
    for kind, shape in events.EVENTS.items():
        made = shape()
        assert made.entry_kind == kind
        again = events.event_of(kind, json.loads(json.dumps(made.facts())))
        assert again == made, kind
        assert "happened" not in made.facts()
    assert events.event_of("from-the-future", {"x": 1}) is None


def test_what_a_step_is_for_stands_in_its_facts_only_where_it_is_for_something_else() -> None:
    nothing = {"prompt_tokens": 0, "completion_tokens": 0, "model": "", "reused": ""}
    assert events.Replied(number=2).facts() == {"number": 2, **nothing}
    assert events.Replied(number=2, duty="second opinion").facts()["duty"] == "second opinion"
    assert "number" not in events.Briefed().facts()
    ended = events.Ended(outcome="answered", rows_digest="a").facts()
    assert ("second_digest" in ended, ended["rows_digest"]) == (False, "a")


@pytest.mark.parametrize("shape", TOLD, ids=lambda s: s.__name__)
def test_the_terminal_shows_each_of_an_inquiry(shape: type[events.Happening]) -> None:
    """mypy sees to it that none is left out; here that each can be shown with nothing in it."""
    made = shape()
    sign, name, _ = stop(StreamEvent(made.entry_kind, 1, made.facts(), {}))
    assert (len(sign), bool(name)) == (1, True)
    assert stop(StreamEvent("from-the-future", 1, {"x": 1}, {}))[1] == "from-the-future"


def test_the_console_listens_for_each_of_an_inquiry_by_name() -> None:
    listened = (DATA.parents[1] / "console" / "src" / "shared" / "events.ts").read_text()
    heard = re.search(r"STATION_OF[^{]*\{(.*?)\n\}", listened, re.DOTALL)
    assert heard is not None
    names = {n.strip().strip("'") for n in re.findall(r"['\w-]+(?=: (?:null|'))", heard[1])}
    assert names == {shape().entry_kind for shape in TOLD}


def test_the_document_has_a_shape_for_each(client: Harquel, stage: Stage) -> None:
    found = httpx.get(f"{stage.url}/api/v1/openapi.json", headers={"authorization": f"Bearer {stage.token}"}).json()
    schemas = found["components"]["schemas"]
    for kind, shape in events.EVENTS.items():
        entry = schemas[f"{shape.__name__}Entry"]
        assert entry["properties"]["kind"]["const"] == kind
        facts = schemas[f"{shape.__name__}Facts"]
        assert set(facts["required"]) == set(shape().facts()), kind
        assert all(p.get("description") or "$ref" in p for p in facts["properties"].values()), kind
    assert len(schemas["InquiryEntry"]["oneOf"]) == len(TOLD)


def test_what_the_service_writes_are_events_of_the_list(client: Harquel) -> None:
    client.ask("How many sailings were cancelled in August 2026?", "ferries")
    seen = set()
    for entry in client.each_entry():
        what = events.event_of(entry.kind, entry.facts)
        assert what is not None, entry.kind
        # What stands there is what the shape says, neither more nor less.
        assert what.facts() == entry.facts, entry.kind
        assert set(entry.texts) <= set(what.texts), entry.kind
        seen.add(entry.kind)
    assert {"accepted", "briefed", "prompted", "replied", "ruled", "planned", "ran", "ended", "service-started"} <= seen


def test_a_conductor_can_tell_only_what_is_on_the_list() -> None:
    step = messages.Told(what=events.Ran(number=1, row_count=3), texts={"sql": "SELECT 1"})
    told = messages.Steps(told=(step,))
    again = messages._UP.validate_python(json.loads(messages.to_bytes(told.model_dump(mode="json"))))
    assert again == told
    other = {"say": "told", "what": {"happened": "token-created"}, "texts": {}}
    with pytest.raises(ValueError, match="happened"):
        messages._UP.validate_python({"say": "steps", "told": [other]})
    assert Event(events.Ran(row_count=3)).kind == "ran"


def test_operations_leave_entries_of_the_list_only() -> None:
    """One that would leave another cannot even be declared, so that this would not print."""
    done = run_harquel("operations", "--json")
    written = {kind for o in json.loads(done.stdout)["operations"] for kind in o["entries"]}
    assert len(written) > 15
    assert written <= set(events.EVENTS)
