"""Casebooks: figures that are those of answers, for whom they are, what moves, and what goes out."""

from __future__ import annotations

import json
import sqlite3
import time
from collections.abc import Callable, Iterator
from typing import Any

import httpx
import pytest

from harquel.client import Forbidden, Harquel, HarquelError, Invalid, NotFound
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


def test_zz(own: Stage) -> None:
    with Harquel(own.url, own.token) as client:
        made = client.send(make_casebook(CasebookRequest(title="Winter timetable", text="# Why\n\nIn August [=sailings-cancelled-august] of [=none].")))
        t=time.perf_counter()
        for question in QUESTIONS:
            asked = client.ask(question, "ferries")
            made = client.send(keep_in_casebook(made.id, asked.id))
        print(time.perf_counter()-t)
        print(made.model_dump_json(indent=1)[:6000])
        found = client.send(run_casebook(made.id))
        found = settled(client, made.id)
        for one in found.kept: print(one.name, one.answer.state, one.answer.since, one.answer.said)
        open("/tmp/cb.html","wb").write(client.send(casebook_file(made.id)))
        open("/tmp/cb.md","wb").write(client.send(casebook_file(made.id,"md")))
        for v in client.send(casebook_history(made.id)): print(v)
