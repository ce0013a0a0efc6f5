"""What every inquiry wants first comes with its job: nobody asks for it, and it fails where it is needed."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest

from harquel.core.domain.catalog import Catalog
from harquel.core.domain.inquiry import Inquiry
from harquel.core.errors import SourceError
from harquel.core.sandbox import Sandbox
from harquel.service.conductors import messages as say
from harquel.service.conductors.desk import Desk
from harquel.service.conductors.pool import Conductors
from harquel.testing.sources import NOW, Recorder, demo_policy, demo_sandbox, demo_source


def asking(number: int = 0) -> Inquiry:
    return Inquiry(
        id=f"i{number}", state="working", source="ferries", asked_by="Ada Brinewell", asked_at=NOW,
        question="How many sailings were cancelled in August 2026?",
    )  # fmt: skip


def test_it_is_not_asked_for_and_its_faults_are_those_of_the_inquiry(
    ferries: Path, model_url: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    asked, answer = list[str](), Desk.answer

    def heard(desk: Desk, wanted: say.Want) -> Any:
        asked.append(wanted.say)
        return answer(desk, wanted)

    def gone(_: object) -> Catalog:
        raise SourceError("the database is gone", "Look for it.")

    monkeypatch.setattr(Desk, "answer", heard)
    source, conductors = demo_source(ferries, model_url, demo_sandbox(ferries)), Conductors(1)
    assert isinstance(source.sandbox, Sandbox)
    refused = replace(source, account_fault=lambda: "it may write")
    found = []
    try:
        # The same process each time: what it holds and what we think that it holds must stay the same.
        for number, one in enumerate((source, replace(source, catalog=gone), refused, source)):
            ended = conductors.conduct(asking(number), one, Recorder(), NOW)
            found.append((ended.outcome, ended.problem.type if ended.problem else "", len(asked)))
            asked.clear()
        assert len(conductors.pids()) == 1
    finally:
        conductors.close()
        source.sandbox.close()
    # How fresh the data are is asked for once a minute.
    assert (found[0], found[3]) == (("answered", "", 4), ("answered", "", 3))
    assert [f[0] for f in found[1:3]] == ["failed", "refused"]
    assert [f[2] for f in found[1:3]] == [0, 0]


def test_a_slow_first_look_is_on_the_clock_of_the_inquiry(ferries: Path, model_url: str) -> None:
    source = demo_source(ferries, model_url, demo_sandbox(ferries), policy=demo_policy(inquiry_s=0.5))
    conductors, watcher, looked = Conductors(1), Recorder(), source.catalog
    assert isinstance(source.sandbox, Sandbox)

    def slowly(stopped: Callable[[], bool]) -> Catalog:
        time.sleep(0.6)
        return looked(stopped)

    try:
        ended = conductors.conduct(asking(), replace(source, catalog=slowly), watcher, NOW)
    finally:
        conductors.close()
        source.sandbox.close()
    assert ended.problem is not None
    assert (ended.outcome, ended.problem.type) == ("failed", "out-of-time")
    assert not [e for e in watcher.events if e.kind == "prompted"]
    assert ended.timings.total_ms >= ended.timings.database_ms >= 600
