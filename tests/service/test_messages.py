"""What goes over the pipe of a conductor: each kind comes out as it went in, and what is no message is none."""

from __future__ import annotations

import json
from collections.abc import Iterator
from multiprocessing import Pipe
from multiprocessing.connection import Connection
from typing import Any, get_args

import pytest
from pydantic import BaseModel, ValidationError

from harquel.contract import events
from harquel.core.domain.person import Person
from harquel.core.domain.statements import RuledStatement, SeenThrough
from harquel.service.conductors import messages as say

SEEN = SeenThrough("SELECT 2", "a1b2", (("main", "customer"),), {"customer_0_a1b2": "SELECT 1"})
STATEMENT = RuledStatement("SELECT '“ü” \u0000'", {"customer": frozenset({"id", "name"})}, 100, SEEN)
MODEL = say.Model(name="careful", prompt_price=0.5, completion_price=0.0)
COMPLETION = say.WantCompletion(duty="read", messages=[{"role": "user", "content": "x" * 9}], aloud=False, within_s=2.5)
RUN = say.WantStatement(op="run", statement=STATEMENT, within_s=1.0)
UP = (
    say.Steps(told=(
        say.Told(what=events.Prompted(number=1, model="careful"), texts={"prompt": "\ud800 half"}, so_far={"a": 1}),
        say.Told(what=events.Ran(number=1, row_count=3), texts={}),
    )),
    say.WantCatalog(refreshed=True), say.WantExamples(), say.WantGrant(table="a.b"), say.WantAccount(), COMPLETION,
    say.WantCompletions(calls=[COMPLETION, COMPLETION]), RUN, say.WantStatements(wanted=[RUN]), say.Done(),
    say.WantDelivery(statement=RUN.statement, within_s=9),
    say.Failed(error="SandboxError", message="no", fault="time", where="there"),
)  # fmt: skip
DOWN = (
    say.Job(kind="conduct", source="ferries", lives=3, engine="sqlite", described=say.Kept(token=7, sent=True),
            model=MODEL, second=None, reader=MODEL, chars_per_token=3.9,
            person=Person("Ada", frozenset({"clerk"}), {"level": 3})),
    say.Reply(value={"rows": [[1, None, "x"]]}, took_ms=2.5), say.Reply(error="SourceError", message="gone"),
    say.Stop(), say.Unwritten(message="full", hint="Make room."),
)  # fmt: skip


@pytest.fixture
def ends() -> Iterator[tuple[Connection, Connection]]:
    """Both ends of a pipe."""
    one, other = Pipe()
    yield one, other
    one.close()
    other.close()


@pytest.mark.parametrize("message", [*UP, *DOWN], ids=lambda m: type(m).__name__)
def test_each_kind_comes_out_as_it_went_in(message: BaseModel, ends: tuple[Connection, Connection]) -> None:
    say.send(ends[0], message, b"a body" if message is UP[-2] else None)
    received = say.receive_up(ends[1]) if message in UP else say.receive_down(ends[1])
    assert received == message
    if message is UP[-2]:
        assert say.receive_body(ends[1]) == b"a body"
    assert not ends[1].poll()


def test_there_is_one_of_each_kind_above() -> None:
    assert {type(m) for m in UP} == {say.Steps, say.Done, say.Failed, *get_args(say.Want)}
    assert {type(m) for m in DOWN} == set(get_args(get_args(say.Down)[0]))


@pytest.mark.parametrize("said", [
    {}, {"say": "reply", "value": 1}, {"say": "statement", "op": "write", "statement": {}, "within_s": 1},
    {"say": "done", "more": 1}, {"say": "completions", "calls": []}, {"say": "statements", "wanted": [1] * 9}, [], None,
    {"say": "told", "what": {"happened": "nonsense"}, "texts": {}}, {"say": "catalog", "refreshed": {"a": 1}},
    {"say": "completion", "duty": "rule", "messages": [], "aloud": True, "within_s": 1},
])  # fmt: skip
def test_what_is_no_message_of_a_conductor_is_taken_from_none(said: Any, ends: tuple[Connection, Connection]) -> None:
    ends[0].send_bytes(json.dumps(said).encode())
    with pytest.raises(ValidationError):
        say.receive_up(ends[1])


@pytest.mark.parametrize("frame", [b"", b"\x80\x04N.", b"{", b'{"say": "done"', b"\xff"])
def test_what_is_no_json_is_no_frame_and_never_becomes_code(frame: bytes, ends: tuple[Connection, Connection]) -> None:
    ends[0].send_bytes(frame)
    with pytest.raises(ValueError):
        say.receive_up(ends[1])


def test_the_end_of_the_pipe_is_an_end(ends: tuple[Connection, Connection]) -> None:
    ends[0].close()
    with pytest.raises(EOFError):
        say.receive_down(ends[1])
    with pytest.raises(OSError):
        say.send(ends[1], say.Stop())
