"""Thirty-two askers at once: every answer right, nothing lost, the chain whole."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor

from harquel.client import Busy, Harquel
from harquel.contract import Inquiry
from harquel.demo.stage import Stage

EXPECTED = {
    "How many sailings were cancelled in August 2026?": [[12]],
    "How many vessels are there?": [[6]],
    "How many harbours are there?": [[8]],
    "How many routes are there?": [[11]],
}


def test_thirty_two_at_once(stage: Stage) -> None:
    questions = list(EXPECTED) * 16

    def one(question: str) -> Inquiry:
        with Harquel(stage.url, stage.token, timeout_s=60) as client:
            while True:
                try:
                    return client.ask(question, "ferries")
                except Busy:
                    continue

    with ThreadPoolExecutor(32) as pool:
        found = list(pool.map(one, questions))
    for question, inquiry in zip(questions, found, strict=True):
        assert inquiry.answer is not None, inquiry.problem
        assert inquiry.answer.table.rows == EXPECTED[question]
    assert len({i.id for i in found}) == len(questions)
    with Harquel(stage.url, stage.token) as client:
        assert client.verify_ledger().intact
