"""Casebooks: figures that are those of answers, for whom they are, what moves, and what goes out."""

from __future__ import annotations

import json
import re
import sqlite3
import time
from collections.abc import Callable, Iterator
from contextlib import closing
from html.parser import HTMLParser
from pathlib import Path
from typing import Any

import httpx
import pytest
from playwright.sync_api import sync_playwright

from harquel.client import Forbidden, Harquel, HarquelError, Invalid, NotFound
from harquel.client.calls import Call
from harquel.client.casebooks import (
    casebook_file,
    casebook_history,
    casebooks,
    keep_in_casebook,
    make_casebook,
    read_casebook,
    remove_casebook,
    restore_casebook,
    run_casebook,
    send_casebook,
    shown_answer,
    write_casebook,
)
from harquel.contract import Casebook, CasebookRequest
from harquel.demo.stage import Stage
from harquel.testing.browser import OPTIONS, path_of_browser
from tests.outside import by_mail, let, letters
from tests.service.test_outbox import ended

AUGUST = "How many sailings were cancelled in August 2026?"
MONTHS = "How many sailings were cancelled per month in 2026?"
QUESTIONS = (
    AUGUST, MONTHS, "Which five routes earned most this year?", "How many vessels are there?", "Show all bookings",
)  # fmt: skip


@pytest.fixture(scope="module")
def own(
    new_stage: Callable[..., Stage], tmp_path_factory: pytest.TempPathFactory, office: tuple[str, str]
) -> Iterator[Stage]:
    with new_stage(tmp_path_factory.mktemp("casebooks"), environment=by_mail(office[0])) as running:
        let(running, mail=["@marrowick.example"])
        yield running


def settled(client: Harquel, key: str, within_s: float = 40) -> Casebook:
    """Once nothing of it is under way."""
    until = time.monotonic() + within_s
    while True:
        found = client.send(read_casebook(key))
        if not any(one.under_way for one in found.kept):
            return found
        assert time.monotonic() < until, found
        time.sleep(0.1)


def text_of(found: Casebook) -> str:
    return " ".join(block.html for block in found.blocks)


def token_of(own: Stage, name: str, *roles: str, sources: tuple[str, ...] = ("*",), **values: Any) -> str:
    with Harquel(own.url, own.token) as admin:
        return admin.create_token(f"of {name}", name, list(sources), ["ask"], list(roles), values).secret


class Tags(HTMLParser):
    """What tags and attributes a page has, by a reader that shares nothing with what makes it."""

    def __init__(self, page: str) -> None:
        super().__init__()
        self.tags: set[str] = set()
        self.attributes: set[tuple[str, str]] = set()
        self.feed(page)

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        self.tags.add(tag)
        self.attributes |= {(name, value or "") for name, value in attrs}


def test_five_answers_are_asked_again_after_the_data_changed_and_text_and_figures_stay_together(
    new_stage: Callable[..., Stage], tmp_path: Path
) -> None:
    text = (
        "# Winter timetable\n\nIn August [=august] sailings were cancelled, in July "
        "[=months: sailing count | 2026-07]; we saw 12 and 51 in all [=months: #] months.\n\n[=months: chart]\n"
    )
    with new_stage(tmp_path) as running, Harquel(running.url, running.token) as client:
        made = client.send(make_casebook(CasebookRequest(title="Winter timetable", text=text)))
        for question, name in zip(QUESTIONS, ("august", "months", None, None, None), strict=True):
            made = client.send(keep_in_casebook(made.id, client.ask(question, "ferries").id, name, "Then:"))
        assert [one.name for one in made.kept] == ["august", "months", "five-routes-earned", "vessels", "all-bookings"]
        shown = re.sub("<[^>]+>", "", text_of(made))
        assert "In August 12 sailings were cancelled, in July 8; we saw 12 and 51 in all 9 months." in shown
        assert made.typed == {"august": ["12"]}
        with closing(sqlite3.connect(tmp_path / "ferries.db")) as ferries, ferries:
            ferries.execute(
                "UPDATE sailing SET status = 'X' WHERE id IN (SELECT id FROM sailing WHERE status <> 'X' AND "
                "scheduled_departure >= '2026-08-03' AND scheduled_departure < '2026-08-04' LIMIT 3)"
            )
        asked = client.send(run_casebook(made.id))
        # What was there stays until there is something new, and says so.
        assert all("answer before" in one.answer.said for one in asked.kept if one.under_way)
        found = settled(client, made.id)
        moved = {one.name: one.answer.moved for one in found.kept}
        assert moved == {
            "august": True,
            "months": True,
            "five-routes-earned": False,
            "vessels": False,
            "all-bookings": False,
        }
        assert "3" in found.kept[0].answer.since
        assert "In August 15 sailings were cancelled" in re.sub("<[^>]+>", "", text_of(found))
        first = client.send(read_casebook(made.id, version=6))
        assert "In August 12 sailings" in re.sub("<[^>]+>", "", text_of(first))
        history = client.send(casebook_history(made.id))
        assert [one.what for one in history] == ["asked-again", *["kept"] * 5, "made"]
        # Its own question, whose times move along, instead of the same statement.
        client.send(run_casebook(made.id, ["august"], "anew"))
        assert settled(client, made.id).kept[0].answer.since.startswith("The same as on")
        page = client.send(casebook_file(made.id)).decode()
        words = client.send(casebook_file(made.id, "md")).decode()
        assert "## Winter timetable" in words
        assert "In August 15 sailings were cancelled" in words
        assert client.verify_ledger().intact
        written = [e.facts for e in client.ledger(limit=200).items if e.kind == "casebook-written"]
        assert [f["version"] for f in written] == [8, 7, 6, 5, 4, 3, 2, 1]
    read = read_without_scripts(page, tmp_path)
    assert "In August 15 sailings were cancelled, in July 8" in read
    assert read.count("Grounds") == 1


def read_without_scripts(page: str, folder: Path) -> str:
    """What a browser shows of it with scripts off, in which nothing is fetched."""
    (folder / "casebook.html").write_text(page)
    asked: list[str] = []
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=path_of_browser(), args=OPTIONS)
        with closing(browser.new_context(java_script_enabled=False)) as context:
            tab = context.new_page()
            tab.on("request", lambda request: asked.append(request.url))
            tab.goto((folder / "casebook.html").as_uri())
            found = tab.inner_text("main")
            assert tab.locator("svg").count() >= 2
        browser.close()
    assert len(asked) == 1
    return found


def test_nobody_reads_what_they_would_not_be_answered(own: Stage) -> None:
    """Held against what each of them is answered when they ask themselves: another way than what decides it."""
    people = {
        "Odo Finch": token_of(own, "Odo Finch"),
        "Clerk North": token_of(own, "Clerk North", "harbour-clerk", islands=["North Holm"]),
        "Clerk Quay": token_of(own, "Clerk Quay", "harbour-clerk", islands=["Quayhame"]),
        "Mara Holt": token_of(own, "Mara Holt", "crewing"),
        "Tam Oake": token_of(own, "Tam Oake", "trainee"),
        "Nan Oldway": token_of(own, "Nan Oldway", sources=("pair",)),
    }
    questions = (
        AUGUST, "How many bookings are there?", "How many customers are there?", "How many crew members are there?",
        "List the names of all crew members", "Revenue per month in 2026",
    )  # fmt: skip
    rows: dict[tuple[str, str], object] = {}
    made: dict[str, Casebook] = {}
    for name, secret in people.items():
        if name == "Nan Oldway":
            continue
        with Harquel(own.url, secret) as client:
            book = client.send(make_casebook(CasebookRequest(title=f"Of {name}", readers=["*"])))
            for number, question in enumerate(questions):
                asked = client.ask(question, "ferries")
                rows[name, question] = asked.answer.table.rows if asked.answer is not None else None
                if asked.answer is not None:
                    text = f"Figure {number}: [=q{number}: #] [=q{number}]"
                    book = client.send(keep_in_casebook(book.id, asked.id, f"q{number}", text))
            if book.kept:
                client.send(run_casebook(book.id))
            made[name] = settled(client, book.id)
    assert len({json.dumps(rows[name, questions[1]]) for name in people if (name, questions[1]) in rows}) >= 3
    shown = hidden = 0
    for reader, secret in people.items():
        with Harquel(own.url, secret) as client:
            for owner, book in made.items():
                if owner == reader:
                    continue
                found = client.send(read_casebook(book.id))
                page = client.send(casebook_file(book.id)).decode() + client.send(casebook_file(book.id, "md")).decode()
                for one in found.kept:
                    question = questions[int(one.name[1:])]
                    if one.answer.state == "shown":
                        shown += 1
                        assert one.answer.table is not None
                        assert one.answer.table.rows == rows[reader, question], (reader, owner, question)
                        given = client.send(shown_answer(one.answer.inquiry))
                        assert given.table == one.answer.table
                        continue
                    hidden += 1
                    assert one.answer.state == "not-for-you"
                    assert (one.answer.text, one.answer.table, one.answer.sql, one.answer.caveats) == ("", None, "", [])
                    assert f'<span class="cited missing" title="{one.answer.said}">[{one.name}: ?]' in text_of(found)
                    assert question in one.answer.question if reader != "Nan Oldway" else one.answer.question == ""
                    link = client.send(shown_answer(one.answer.inquiry)) if reader != "Nan Oldway" else None
                    assert link is None or (link.state, link.table) == ("not-for-you", None)
                    with pytest.raises(NotFound):
                        client.inquiry(one.answer.inquiry)
                    for path in (f"casebooks/{book.id}/answers/{one.name}", f"inquiries/{one.answer.inquiry}/shown"):
                        url = f"{own.url}/api/v1/{path}/picture"
                        assert httpx.get(url, headers={"authorization": f"Bearer {secret}"}).status_code == 404
                    other = rows[owner, question]
                    if other != rows.get((reader, question)) and isinstance(other, list) and len(other) == 1:
                        assert not re.search(rf">{other[0][0]:,}<", page), (reader, owner, question)
    assert shown >= 20
    assert hidden >= 20


def test_what_stands_in_text_and_data_does_nothing(new_stage: Callable[..., Stage], tmp_path: Path) -> None:
    evil = "<script>alert(1)</script> [x](https://other.example) | `[=august]` <img src=x onerror=alert(1)>"
    text = """# <script>alert(1)</script>

<img src=x onerror=alert(1)> ![p](https://other.example/p.png) [a](javascript:alert(1)) [b](data:text/html,x)
[c](https://other.example/?a=1"onclick="x) <https://other.example> <style>*{}</style> [d](//other.example/x)

[=vessels: name | 1]

First: [=vessels: name | 1 ] and [=vessels: name | <script>] [=../../etc] [=vessels: name | 1 | 2 | 3 | 4].

| a | b |
|---|---|
| [=vessels: name \\| 1] | <svg onload=alert(1)> |

<iframe src="https://other.example"></iframe>

```
[=vessels] </code><script>
```
"""
    with new_stage(tmp_path) as running, Harquel(running.url, running.token) as client:
        with closing(sqlite3.connect(tmp_path / "ferries.db")) as ferries, ferries:
            ferries.execute("UPDATE vessel SET name = ? WHERE id = 1", (evil,))
        made = client.send(make_casebook(CasebookRequest(title=evil[:110], text=text)))
        asked = client.ask("Show all vessels", "ferries")
        assert asked.answer is not None
        assert evil in json.dumps(asked.answer.table.rows, ensure_ascii=False)
        made = client.send(keep_in_casebook(made.id, asked.id, "vessels"))
        page = client.send(casebook_file(made.id)).decode()
        words = client.send(casebook_file(made.id, "md")).decode()
    inside, whole = Tags(text_of(made)), Tags(page)
    assert inside.tags <= {
        "h2", "h3", "p", "a", "em", "strong", "code", "pre", "table", "thead", "tbody", "tr", "td", "th", "span", "br"
    }  # fmt: skip
    assert {name for name, _ in inside.attributes} <= {"href", "rel", "class", "title"}
    hrefs = {value for name, value in inside.attributes if name == "href"}
    assert all(href.startswith("https://other.example") for href in hrefs)
    assert not whole.tags & {"script", "img", "iframe", "object", "embed", "form", "link", "base"}
    assert not {name for name, _ in whole.attributes if name.startswith("on")}
    assert "default-src 'none'" in page
    assert "alert(1)" in re.sub("<[^>]+>", "", text_of(made))
    # In Markdown, too, data are text.
    assert "\\<script\\>" in words.split("First:")[1].split("\n")[0]


def test_whoever_writes_has_seen_what_is_there(own: Stage) -> None:
    with Harquel(own.url, own.token) as client, Harquel(own.url, token_of(own, "Rhea Quist")) as rhea:
        made = client.send(make_casebook(CasebookRequest(title="Of mine", text="one", language="de")))
        asked, others = client.ask(AUGUST, "ferries"), rhea.ask(AUGUST, "ferries")
        assert "Von Ada Brinewell · Fassung 1" in client.send(casebook_file(made.id)).decode()
        own_alone: list[Call[Any]] = [
            read_casebook(made.id), keep_in_casebook(made.id, others.id), remove_casebook(made.id),
            write_casebook(made.id, 1, text="x"), run_casebook(made.id), casebook_file(made.id),
        ]  # fmt: skip
        for call in own_alone:
            with pytest.raises(NotFound):
                rhea.send(call)
        made = client.send(write_casebook(made.id, 1, readers=["rhea  quist"]))
        assert (made.readers, made.version) == (["Rhea Quist"], 1)
        assert rhea.send(casebooks())[0].id == made.id
        assert not rhea.send(read_casebook(made.id)).mine
        # Why something was not asked again may name what its owner has.
        with closing(sqlite3.connect(own.folder / "records" / "records.db", timeout=20)) as records, records:
            kept = json.dumps([{"name": "mine", "inquiry": asked.id, "why": "Known here: ferries, pair."}])
            records.execute(
                "UPDATE casebooks_storedversion SET kept = ? WHERE casebook_id = (SELECT id FROM "
                "casebooks_storedcasebook WHERE key = ?)", (kept, made.id),
            )  # fmt: skip
        assert "Known here" in client.send(read_casebook(made.id)).kept[0].answer.said
        assert rhea.send(read_casebook(made.id)).kept[0].answer.state == "shown"
        assert "Known here" not in rhea.send(casebook_file(made.id)).decode()
        with closing(sqlite3.connect(own.folder / "records" / "records.db", timeout=20)) as records, records:
            records.execute(
                "UPDATE casebooks_storedversion SET kept = '[]' WHERE casebook_id = (SELECT id FROM "
                "casebooks_storedcasebook WHERE key = ?)", (made.id,),
            )  # fmt: skip
        # What was taken out of it is its owner's to look at.
        for before in (casebook_history(made.id), read_casebook(made.id, version=1)):
            with pytest.raises(NotFound):
                rhea.send(before)
        with pytest.raises(NotFound):
            rhea.send(write_casebook(made.id, 1, text="x"))
        with pytest.raises(Invalid, match="Nobody here"):
            client.send(write_casebook(made.id, 1, readers=["Nobody Atall"]))
        with pytest.raises(Forbidden, match="one's own"):
            client.send(keep_in_casebook(made.id, others.id))
        made = client.send(keep_in_casebook(made.id, asked.id, "august"))
        for wrong, said in (
            (keep_in_casebook(made.id, asked.id, "august"), "another answer"),
            (write_casebook(made.id, 1, text="over it"), "version 2"),
            (run_casebook(made.id, ["none"]), "no answer called"),
            (write_casebook(made.id, 2, text="[=a]" * 301), "300 times"),
        ):  # fmt: skip
            with pytest.raises(HarquelError, match=said):
                client.send(wrong)
        with pytest.raises(Invalid):
            client.send(write_casebook(made.id, 2, text="x" * 40_001))
        with pytest.raises(Invalid):
            client.send(keep_in_casebook(made.id, asked.id, "A/../b"))
        made = client.send(write_casebook(made.id, 2, text="two [=august]", drop=["august"]))
        assert (made.kept, made.blocks[0].missing) == ([], ["august: keine Antwort ist hier als august festgehalten"])
        back = client.send(restore_casebook(made.id, 2))
        assert (back.version, back.text, [k.name for k in back.kept]) == (4, "one\n\n[=august]\n", ["august"])
        # Asked again and come to nothing: what was there stays, and it is said.
        client.send(run_casebook(made.id))
        going = client.send(read_casebook(made.id)).kept[0].under_way
        if going is not None:
            client.cancel(going)
        found = settled(client, made.id).kept[0].answer
        assert (found.state, found.text) == ("shown", "12 sailings were cancelled in August 2026.")
        client.send(remove_casebook(made.id))
        with pytest.raises(NotFound):
            rhea.send(read_casebook(made.id))
        assert client.inquiry(asked.id).answer is not None
        assert client.verify_ledger().intact


def test_it_is_mailed_where_each_of_its_sources_lets_it(own: Stage, office: tuple[str, str]) -> None:
    with Harquel(own.url, own.token) as client:
        made = client.send(make_casebook(CasebookRequest(title="Board\r\nBcc: x@other.example", text="Now: [=august]")))
        with pytest.raises(HarquelError, match="no answer in this"):
            client.send(send_casebook(made.id, "odo.finch@marrowick.example"))
        made = client.send(keep_in_casebook(made.id, client.ask(AUGUST, "ferries").id, "august"))
        for to in ("odo.finch@other.example", "x@marrowick.example\r\nBcc: y@other.example", "board"):
            with pytest.raises((Forbidden, Invalid)):
                client.send(send_casebook(made.id, to))
        sent = client.send(send_casebook(made.id, "odo.finch@marrowick.example"))
        assert ended(client, sent).state == "arrived"
        letter = letters(office)[0]
        assert letter["to"] == ["odo.finch@marrowick.example"]
        assert letter["subject"] == "Board Bcc: x@other.example"
        assert "Now: 12" in letter["text"]
        assert "https://harquel.example/casebooks/" in letter["text"]
        assert [part["name"] for part in letter["parts"]] == ["Board-Bcc-x-other-example.html"]
        # Something personal goes nowhere, and neither does what a policy of later takes back.
        with Harquel(own.url, token_of(own, "Mara Holt", "crewing")) as mara:
            names = mara.ask("List the names of all crew members", "ferries")
            book = mara.send(make_casebook(CasebookRequest(title="Crew")))
            mara.send(keep_in_casebook(book.id, names.id))
            with pytest.raises(Forbidden, match="personal"):
                mara.send(send_casebook(book.id, "odo.finch@marrowick.example"))
        slow = client.send(send_casebook(made.id, "full@marrowick.example"))
        let(own, mail=["@elsewhere.example"])
        try:
            assert "no more" in ended(client, slow).said
        finally:
            let(own, mail=["@marrowick.example"])
