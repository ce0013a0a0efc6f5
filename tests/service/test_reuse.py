"""Drafts and readings that are taken again: for whom, for when, and what ends it; everything else happens anew."""

from __future__ import annotations

import datetime as dt
import sqlite3
from collections.abc import Callable, Iterator
from contextlib import closing
from typing import Any

import httpx
import pytest

from harquel.client import Harquel, calls
from harquel.client.describing import document, replace_document
from harquel.contract import Inquiry
from harquel.core.domain.inquiry import Attempt
from harquel.core.domain.inquiry import Inquiry as Asked
from harquel.core.domain.redraft import Redraft
from harquel.core.llm.model import Completion, Message
from harquel.demo.stage import Stage
from harquel.service.reuse import MOST, Recall, Reuse

QUESTION = "How many sailings were cancelled in August 2026?"
NOW = dt.datetime(2026, 9, 14, 10, tzinfo=dt.UTC)


class _Source:
    class notes:
        class calendar:
            here = staticmethod(lambda at: at.replace(tzinfo=None))


def inquiry(key: str, by: str = "Ada Brinewell", at: dt.datetime = NOW, **more: Any) -> Asked:
    return Asked(id=key, state="ended", source="f", question="Q", asked_by=by, asked_at=NOW, as_of=at, **more)


def prompt(by: str, at: dt.datetime, question: str = "How many?", schema: str = "CREATE TABLE a ()") -> list[Message]:
    head = f"## Now\n{at:%Y-%m-%d %H:%M:%S} ({at:%A})\n\n## Asked by\n{by}\n\n## Schema\n{schema}"
    return [{"role": "system", "content": "s"}, {"role": "user", "content": f"{head}\n\n## Question\n{question}"}]


def kept(reuse: Reuse, reply: str, **ended: Any) -> None:
    """A reply to Ada's question at ten, of an inquiry that ended so."""
    one = inquiry("first", attempts=[Attempt(number=1)], **({"outcome": "answered", "trust": "clear"} | ended))
    recall = recalled(reuse, one)
    recall.heard("draft", "m", prompt("Ada Brinewell", NOW), Completion(reply, 10, 5))
    reuse.settle(one)


def recalled(reuse: Reuse, one: Asked) -> Recall:
    found = reuse.of(one, _Source)  # type: ignore[arg-type]
    assert found is not None
    return found


def again(reuse: Reuse, by: str = "Ada Brinewell", at: dt.datetime = NOW, **more: str) -> Completion | None:
    return recalled(reuse, inquiry("next", by, at)).known("draft", "m", prompt(by, at, **more))


LATER = NOW.replace(hour=15)
TOMORROW = NOW + dt.timedelta(days=1)


def test_a_reply_is_taken_for_anybody_at_any_time_of_the_day_where_neither_stands_in_it() -> None:
    reuse = Reuse(lambda: 60)
    kept(reuse, "SELECT COUNT(*) FROM a WHERE t >= '2026-08-01 00:00:00'")
    for by, at in (("Ada Brinewell", NOW), ("Odo Finch", LATER)):
        found = again(reuse, by, at)
        assert found is not None
        assert (found.reused, found.prompt_tokens, found.completion_tokens) == ("first", 0, 0)
    assert again(reuse, at=TOMORROW) is None
    assert again(reuse, question="How many now?") is None
    assert again(reuse, schema="CREATE TABLE b ()") is None
    assert recalled(reuse, inquiry("n")).known("draft", "another", prompt("Ada Brinewell", NOW)) is None
    assert recalled(reuse, inquiry("n")).known("read", "m", prompt("Ada Brinewell", NOW)) is None


@pytest.mark.parametrize(
    "reply", ["t <= '2026-09-14 10:00:00'", "t > '2026-09-14T09:00'", "t > 1789380000", "t < '9:30'"]
)
def test_a_reply_with_a_time_of_day_is_for_its_instant_alone(reply: str) -> None:
    reuse = Reuse(lambda: 60)
    kept(reuse, reply)
    assert again(reuse) is not None
    assert again(reuse, at=LATER) is None


def test_a_reply_that_names_who_asks_is_for_nobody_else() -> None:
    reuse = Reuse(lambda: 60)
    kept(reuse, "SELECT 1 FROM customer WHERE name = 'BRINEWELL'")
    assert again(reuse) is not None
    assert again(reuse, by="Odo Finch") is None


@pytest.mark.parametrize(
    "ended", [{"trust": "caution"}, {"outcome": "refused", "trust": None}, {"attempts": [Attempt(number=1)] * 2}]
)
def test_what_is_doubtful_is_not_kept(ended: dict[str, Any]) -> None:
    reuse = Reuse(lambda: 60)
    one = inquiry("first", **({"outcome": "answered", "trust": "clear", "attempts": [Attempt(number=1)]} | ended))
    recalled(reuse, one).heard("draft", "m", prompt("Ada Brinewell", NOW), Completion("SELECT 1", 10, 5))
    reuse.settle(one)
    assert again(reuse) is None


def test_it_ends_is_bounded_and_is_off_where_nobody_wants_it() -> None:
    lasting = [60.0]
    reuse = Reuse(lambda: lasting[0])
    lasting[0] = 1e-9
    kept(reuse, "SELECT 1")
    lasting[0] = 60
    assert again(reuse) is None
    for n in range(MOST + 5):
        one = inquiry(f"i{n}", outcome="answered", trust="clear", attempts=[Attempt(number=1)])
        recall = recalled(reuse, one)
        recall.heard("draft", "m", prompt("Ada Brinewell", NOW, f"Q{n}"), Completion("SELECT 1", 1, 1))
        recall.heard("draft", "m", prompt("Ada Brinewell", NOW, f"long {n}"), Completion("x" * 20_001, 1, 1))
        reuse.settle(one)
    assert len(reuse._known) == MOST
    assert reuse.of(inquiry("r", redraft=Redraft(inquiry="first")), _Source) is None  # type: ignore[arg-type]
    lasting[0] = 0
    assert reuse.of(inquiry("n"), _Source) is None  # type: ignore[arg-type]


@pytest.fixture(scope="module")
def own(new_stage: Callable[..., Stage], tmp_path_factory: pytest.TempPathFactory) -> Iterator[Stage]:
    """A demo that takes replies again."""
    with new_stage(tmp_path_factory.mktemp("reuse"), environment={"HARQUEL__DUTIES__REUSE_S": "600"}) as stage:
        yield stage


def told(client: Harquel, found: Inquiry) -> list[str]:
    return [e.facts.get("reused", "") for e in client.events(found.id) if e.kind == "replied"]


def test_the_same_question_asks_no_model_and_is_answered_from_the_rows_of_now(own: Stage) -> None:
    with Harquel(own.url, own.token) as client:
        first = client.ask(QUESTION, "ferries")
        assert (first.usage.calls, told(client, first)) == (2, ["", ""])
        with closing(sqlite3.connect(own.folder / "ferries.db")) as rows, rows:
            rows.execute("UPDATE sailing SET status = 'X' WHERE id = (SELECT MIN(id) FROM sailing WHERE status <> 'X' "
                         "AND scheduled_departure BETWEEN '2026-08-01' AND '2026-08-31')")  # fmt: skip
        found = client.ask(QUESTION, "ferries")
        assert told(client, found) == [first.id, first.id]
        assert (found.usage.calls, found.usage.prompt_tokens, found.trust) == (0, 0, "clear")
        assert found.answer is not None
        assert first.answer is not None
        assert found.answer.table.rows == [[first.answer.table.rows[0][0] + 1]]
        assert (found.attempts[0].draft and found.attempts[0].draft.reused) == first.id
        # Everything else happens anew: ruled on, reviewed, controlled, run.
        kinds = [e.kind for e in client.events(found.id)]
        assert {k: kinds.count(k) for k in ("ruled", "planned", "ran", "compared")} == {
            k: [e.kind for e in client.events(first.id)].count(k) for k in ("ruled", "planned", "ran", "compared")
        }
        followed = client.ask("and in July?", follows=first.id)
        again = client.ask("and in July?", follows=found.id)
        assert told(client, again) == [followed.id]
        spent = client.send(calls.usage("inquiry", None, None)).lines
        assert found.id not in {line.name for line in spent}
        assert client.redraft(first.id, "main").usage.calls > 0, "who drafts again wants a new draft"
        metrics = httpx.get(f"{own.url}/metrics", headers={"Authorization": f"Bearer {own.token}"}).text
        assert 'harquel_replies_total{duty="draft",origin="kept"} 2.0' in metrics


def test_a_note_that_changes_or_a_reload_ends_it(own: Stage) -> None:
    with Harquel(own.url, own.token) as client:
        question = "How many harbours are there?"
        client.ask(question, "ferries")
        assert any(told(client, client.ask(question, "ferries")))
        notes = client.send(document("ferries", "notes")).text
        client.send(replace_document("ferries", "notes", notes.replace("A place", "Any place", 1), force=True))
        changed = client.ask(question, "ferries")
        assert not any(told(client, changed))
        assert all(told(client, client.ask(question, "ferries")))
        client.send(calls.reload())
        assert not any(told(client, client.ask(question, "ferries")))
