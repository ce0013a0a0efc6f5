"""The sixty attacks once more, over HTTP: the review turns them down, and nothing about the data changes."""

from __future__ import annotations

import hashlib
import time

from harquel.client import Harquel
from harquel.core.curation.yaml_text import read_yaml
from harquel.demo.stage import Stage
from tests.conftest import DATA

ATTACKS = [s.replace("{n}", str(i)) for i, s in enumerate(read_yaml((DATA / "attacks.yaml").read_text()))]
# What only takes too long may be planned; it is the run that is bounded.
RUNAWAYS = ("WITH RECURSIVE", "weather_reading AS a", "booking AS a", "incident AS a")


def test_reviews_refuse_them_and_the_file_stays_as_it_is(stage: Stage) -> None:
    path = stage.folder / "ferries.db"
    before = hashlib.sha256(path.read_bytes()).hexdigest(), sorted(p.name for p in stage.folder.iterdir())
    with Harquel(stage.url, stage.token) as client:
        newest = client.ledger(limit=1).items[0].seq
        for attack in ATTACKS:
            started = time.monotonic()
            found = client.review("ferries", attack)
            assert time.monotonic() - started < 20, attack
            if any(part in attack for part in RUNAWAYS):
                continue
            assert found.verdict == "refuse", attack
            assert found.rewritten_sql is None
            assert found.rulings[0].policy_line, attack
        # Starters are tried meanwhile, on their own.
        kinds, cursor = [], None
        while True:
            page = client.ledger(limit=100, cursor=cursor)
            kinds += [e.kind for e in page.items if e.seq > newest]
            cursor = page.next
            if cursor is None or page.items[-1].seq <= newest:
                break
        assert kinds.count("reviewed") == len(ATTACKS)
        assert client.verify_ledger().intact
    assert (hashlib.sha256(path.read_bytes()).hexdigest(), sorted(p.name for p in stage.folder.iterdir())) == before


def test_a_runaway_over_http_ends_and_the_next_question_is_answered_at_once(stage: Stage) -> None:
    """The statement is planned under the same clock; asking goes on beside it."""
    with Harquel(stage.url, stage.token) as client:
        client.review("ferries", next(a for a in ATTACKS if a.startswith("WITH RECURSIVE")))
        started = time.monotonic()
        assert client.ask("How many harbours are there?", "ferries").outcome == "answered"
        assert time.monotonic() - started < 15
