"""Whole results as files: nobody gets in one what a question would not show; what is stopped or breaks is no file."""

from __future__ import annotations

import datetime as dt
import functools
import json
import os
import stat
import time
from collections.abc import Callable
from contextlib import suppress
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest
from breach.restricted import CLERK, LIMITS, Side, plain
from hypothesis import HealthCheck, given, settings

from harquel.core.briefing import Describer, TokenGauge
from harquel.core.domain.again import Before
from harquel.core.domain.events import Unwatched
from harquel.core.domain.inquiry import Inquiry
from harquel.core.domain.notes import Notes
from harquel.core.domain.person import Person
from harquel.core.domain.policy import Approval, ColumnTreatment, Delivery, Policy
from harquel.core.domain.statements import RuledStatement
from harquel.core.domain.terms import Terms
from harquel.core.errors import Cancelled, SandboxError
from harquel.core.guard.explain import explain_policy
from harquel.core.inquiry.conduct import conduct, go_on
from harquel.core.inquiry.source import Source
from harquel.core.sandbox import Sandbox, SandboxLimits
from harquel.service.deliveries import MOST_OPEN, Deliveries, TooManyOpen
from harquel.testing.scripted import Scripted
from harquel.testing.sources import NOW
from tests.conftest import servers
from tests.core.test_row_rules import queries

pytestmark = servers
BOUNDS = SandboxLimits(20, 1_000_000, 100_000_000, 256 * 2**20)
PEOPLE = Policy(withhold_delicate=False, delivery=Delivery())
"""Shows personal columns to whoever asks, and in no delivery."""


@pytest.fixture
def room(tmp_path: Path) -> Deliveries:
    made = Deliveries(tmp_path, 10**9)
    made.begin()
    return made


def source_of(side: Side, policy: Policy, room: Deliveries, key: str = "one") -> Source:
    made = Source(
        "ferries", side.whole.engine, lambda _: side.whole, lambda _: side.whole, Describer(policy, Notes()),
        lambda: (), lambda _: "", side.sandbox, Scripted([]), TokenGauge(),
    )  # fmt: skip
    return replace(made, deliver=lambda *given: room.write(key, made, *given))


def wanted(sql: str, key: str = "one") -> Inquiry:
    columns = ["name"] if "*" in sql and "COUNT" not in sql else []
    before = Before(inquiry="before", asked_at=NOW, sql=sql, trust="clear", columns=columns, whole=True)
    return Inquiry(
        id=key, state="working", source="ferries", question="all of them", asked_by="Ada Brinewell", asked_at=NOW,
        again=before,
    )  # fmt: skip


def delivered(
    side: Side, policy: Policy, person: Person, sql: str, room: Deliveries
) -> tuple[Inquiry, list[tuple[str, ...]]]:
    """The inquiry, and what stands in its file."""
    ended = conduct(wanted(sql), source_of(side, policy, room), Unwatched(), NOW, person)
    lines = room.lines("one")
    rows = [tuple(map(plain, json.loads(line))) for line in lines] if lines is not None else []
    for path in room._folder.iterdir():
        path.unlink()
    return ended, rows


@settings(max_examples=10, deadline=None, suppress_health_check=list(HealthCheck))
@given(sql=queries())
def test_a_delivery_holds_what_a_question_shows_where_the_rest_is_not_there(
    sql: str, sides: tuple[Side, Side], room: Deliveries
) -> None:
    restricted, cut = sides
    policy = restricted.policy.model_copy(update={"delivery": Delivery(personal=True)})
    ended, rows = delivered(restricted, policy, CLERK, sql, room)
    verdict, there = cut.answer(sql)
    if verdict == "rows":
        # A question shows so many and no more.
        assert (ended.outcome, rows[: LIMITS.rows]) == ("answered", there), restricted.ruled(sql)
        assert len(rows) == len(there) or len(there) == LIMITS.rows
        assert ended.answer is not None
        assert ended.answer.delivery is not None
        assert ended.answer.delivery.rows == len(rows)
    else:
        assert (ended.outcome, rows) != ("answered", []), ended.problem


SHOWN = ColumnTreatment(column="customer.name", treatment="show")
MASKED = ColumnTreatment(column="customer.name", treatment="mask")
STARS = ["SELECT * FROM customer", "SELECT c.* FROM booking b JOIN customer c ON c.id = b.customer_id"]
PERSONAL = [
    "SELECT name FROM customer",
    "SELECT id, UPPER(name) AS n FROM customer",
    "SELECT MIN(name) AS n FROM customer",
    "SELECT n FROM (SELECT name AS n FROM customer) AS q",
    "WITH c AS (SELECT name AS n FROM customer) SELECT n FROM c",
    "SELECT code AS n FROM harbour UNION ALL SELECT name FROM customer",
    "SELECT home_harbour, MAX(name) AS n FROM customer GROUP BY home_harbour",
    "SELECT name, COUNT(*) AS n FROM customer GROUP BY name",
    "SELECT b.id, (SELECT c.name FROM customer c WHERE c.id = b.customer_id) AS n FROM booking b",
    "SELECT CASE WHEN id > 0 THEN name ELSE '' END AS n FROM customer",
    "SELECT COALESCE(NULL, name) AS n FROM customer",
    "SELECT id, LAG(name) OVER (ORDER BY id) AS n FROM customer",
    "SELECT DISTINCT 'x' || name AS n FROM customer",
    "WITH RECURSIVE r AS (SELECT id, name FROM customer WHERE id = 1 UNION ALL SELECT id + 1, name FROM r WHERE id < 3)"
    " SELECT name FROM r",
    "SELECT id FROM customer WHERE name LIKE 'A%'",
    "SELECT id FROM customer ORDER BY name",
]


@pytest.mark.parametrize("sql", [*STARS, *PERSONAL])
def test_no_value_of_a_personal_column_is_in_a_delivery_whoever_sees_it_otherwise(
    sql: str, sides: tuple[Side, Side], room: Deliveries
) -> None:
    """Held by the values themselves, too: no cell of a file has one in it."""
    side, _ = sides
    for treated in ({}, {"treatments": (SHOWN,)}, {"treatments": (MASKED,), "seen_by": ("clerk",)}):
        policy = PEOPLE.model_copy(update={"personal": PEOPLE.personal.model_copy(update=treated)})
        shown = policy.model_copy(update={"delivery": Delivery(personal=True)})
        ended, rows = delivered(side, policy, CLERK, sql, room)
        held = " ".join(cell for row in rows for cell in row).casefold()
        assert not [name for name in personal(side) if name.casefold() in held], ended.attempts
        if sql in STARS:
            assert ended.answer is not None
            # A masked one stands there, and reads so.
            told = "delivery-without" in [c.rule for c in ended.answer.caveats]
            assert told is ("seen_by" not in treated)
        else:
            assert ended.outcome == "refused" or "seen_by" in treated
        # The policy itself shows them: it is the delivery that keeps them back.
        assert delivered(side, shown, CLERK, sql, room)[0].outcome == "answered"


def freely(side: Side) -> Side:
    """The same database, asked by somebody for whom nothing is restricted."""
    return Side(Policy(withhold_delicate=False, limits=LIMITS), Person(), side.whole, side.sandbox)


@functools.cache
def personal(side: Side) -> set[str]:
    """Every name and address of a customer."""
    sql = "SELECT name AS v FROM customer UNION SELECT email FROM customer UNION SELECT UPPER(name) FROM customer"
    return {cell for (cell,) in freely(side).answer(sql)[1]} - {"None"}


def test_who_may_have_one_and_what_waits_for_somebody(sides: tuple[Side, Side], room: Deliveries) -> None:
    side, _ = sides
    people = "SELECT name FROM customer ORDER BY id"
    counted = "SELECT home_harbour, COUNT(DISTINCT name) AS n FROM customer GROUP BY home_harbour ORDER BY 1"

    def policy(**given: Any) -> Policy:
        return PEOPLE.model_copy(update={"delivery": Delivery(**given)})

    def how(policy: Policy, sql: str) -> tuple[str, str, int]:
        ended, rows = delivered(side, policy, CLERK, sql, room)
        line = ended.problem.policy_line if ended.problem is not None else ended.hold and ended.hold.policy_line
        return str(ended.outcome or ended.state), line or "", len(rows)

    whole = len(freely(side).answer("SELECT id FROM customer")[1])
    groups = how(policy(), counted)[2]
    assert groups > 1
    assert how(PEOPLE.model_copy(update={"delivery": None}), counted) == ("refused", "delivery", 0)
    assert how(policy(roles=("manager",)), counted) == ("refused", "delivery.roles", 0)
    assert how(policy(roles=("clerk",)), counted) == ("answered", "", groups)
    assert how(policy(), people) == ("refused", "delivery.personal", 0)
    assert how(policy(personal=True), people) == ("answered", "", whole)
    assert how(policy(personal=True, approval=True), people) == ("held", "delivery.approval", 0)
    plan = policy().model_copy(update={"approval": Approval(rows=1)})
    assert how(plan, counted) == ("held", "approval.rows", 0)
    assert how(policy(), "DELETE FROM customer")[0] == "refused"
    said = {
        s.line: s.text
        for given_ in (None, Delivery(roles=("manager",)), Delivery(approval=True))
        for s in explain_policy(Terms(PEOPLE.model_copy(update={"delivery": given_}), CLERK), side.whole)
        if s.line.startswith("delivery")
    }
    assert said["delivery.roles"] == "Whole results are handed over to others: manager."
    assert said["delivery"].endswith(
        "500 MB, kept for 24 h. Personal columns are only counted in it. Somebody releases it first."
    )
    # Released, it is ruled on anew, and once it has been nothing else is waited for.
    held_by = policy(approval=True).model_copy(update={"approval": Approval(always=True, rows=1)})
    source = source_of(side, held_by, room)
    held = conduct(wanted(counted), source, Unwatched(), NOW, CLERK)
    assert (held.state, held.again is None) == ("held", False)
    ended = go_on(held, source, Unwatched(), NOW, CLERK, "Cass Wren")
    assert (ended.outcome, ended.again) == ("answered", None)
    assert ended.answer is not None
    assert ended.answer.delivery is not None
    assert ended.answer.delivery.rows == groups


def test_limits_of_a_delivery_cut_it_and_say_so(sides: tuple[Side, Side], room: Deliveries) -> None:
    side, _ = sides
    for bound, by in (({"rows": 3}, "rows"), ({"bytes": 1000}, "bytes")):
        policy = PEOPLE.model_copy(update={"delivery": Delivery(**bound)})
        ended, rows = delivered(side, policy, CLERK, "SELECT id, joined_on FROM customer ORDER BY id", room)
        assert ended.answer is not None
        assert ended.answer.delivery is not None
        assert (ended.answer.delivery.cut_by, ended.answer.delivery.rows) == (by, len(rows))
        assert [c.rule for c in ended.answer.caveats] == ["delivery-cut"]
        assert ended.trust == "caution"
        assert rows[:3] == freely(side).answer("SELECT id, joined_on FROM customer ORDER BY id")[1][:3]


COUNTED = (
    "WITH RECURSIVE n (i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < {most}) SELECT i, '{pad}' AS t FROM n"
)
SERIES = "SELECT i, '{pad}' AS t FROM generate_series(1, {most}) AS n (i)"


def many(side: Side, most: int = 20_000) -> RuledStatement:
    """More than many frames; MariaDB lets a recursion have a thousand rows, each of which is longer for that."""
    few = side.whole.engine == "mariadb"
    text = SERIES if side.whole.engine == "postgresql" else COUNTED
    return RuledStatement(text.format(most=min(most, 900) if few else most, pad=PAD * (20 if few else 1)), {}, 10**6)


PAD = "ß" * 120


def test_rows_come_as_they_would_with_the_reply_and_others_are_served_meanwhile(sides: tuple[Side, Side]) -> None:
    side, _ = sides
    statement, frames = many(side), []
    sandbox: Sandbox = side.sandbox
    one = RuledStatement("SELECT 1", {}, 10)

    def take(lines: bytes) -> None:
        # There is one worker for those who ask: it is not this one.
        frames.append(lines)
        if len(frames) == 1:
            assert sandbox.run(one).rows == [[1]]

    reply = sandbox.deliver(statement, BOUNDS, take, lambda: False, 30)
    rows = [json.loads(line) for line in b"".join(frames).splitlines()]
    assert (reply["count"], reply["cut_by"]) == (len(rows), None)
    assert len(rows) >= 900
    assert all(row == [n, rows[0][1]] for n, row in enumerate(rows, 1))
    assert rows[0][1].strip("ß") == ""
    assert max(map(len, frames)) < 400_000
    assert (reply["columns"], reply["types"]) == (["i", "t"], ["integer", "text"])


def test_what_is_stopped_refused_or_breaks_leaves_no_file_and_no_place_taken(
    sides: tuple[Side, Side], room: Deliveries
) -> None:
    side, _ = sides
    sandbox, statement = side.sandbox, many(side)
    policy = Policy(delivery=Delivery())
    source = source_of(side, policy, room)
    endless = (
        freely(side).ruled("SELECT COUNT(*) AS n FROM sailing a CROSS JOIN sailing b CROSS JOIN sailing c").statement
    )
    assert endless is not None
    heard = iter([False, False])
    trouble: list[tuple[Callable[[], Any], type[Exception], str]] = [
        (lambda: room.write("one", source, statement, lambda: next(heard, True), 30), Cancelled, ""),
        (lambda: room.write("one", source, endless, lambda: False, 0.2), SandboxError, "time"),
        (lambda: room.write("one", source, RuledStatement("SELECT no FROM nowhere", {}, 9), lambda: False, 9),
         SandboxError, "statement denied"),
    ]  # fmt: skip
    for attempt, kind, faults in trouble:
        with pytest.raises(kind) as caught:
            attempt()
        assert not faults or getattr(caught.value, "fault", "") in faults.split()
        assert list(room._folder.iterdir()) == []
        assert room.so_far("one") is None
    full = Deliveries(room._folder.parent, 1000)
    with pytest.raises(SandboxError, match="whole results take") as caught:
        full.write("one", source, statement, lambda: False, 30)
    assert caught.value.fault == "store"
    sandbox.stand_still(True)
    with pytest.raises(SandboxError) as caught:
        room.write("one", source, statement, lambda: False, 30)
    assert caught.value.fault == "still"
    sandbox.stand_still(False)
    assert list(room._folder.iterdir()) == []
    done = room.write("one", source, statement, lambda: False, 30)
    assert done.rows > 100


def test_a_worker_that_is_lost_in_the_middle_hands_nothing_on_twice(sides: tuple[Side, Side]) -> None:
    side, _ = sides
    taken = 0

    def take(lines: bytes) -> None:
        nonlocal taken
        taken += 1
        if taken == 1:
            for pid in side.sandbox.pids():
                with suppress(ProcessLookupError):
                    os.kill(pid, 9)

    with pytest.raises(SandboxError) as caught:
        side.sandbox.deliver(many(side, 400_000), BOUNDS, take, lambda: False, 30)
    if side.whole.engine != "mariadb":
        assert caught.value.fault == "worker"
    assert side.sandbox.run(RuledStatement("SELECT 1", {}, 10)).rows == [[1]]


def test_a_file_is_ours_alone_and_goes_when_its_time_is_over(
    sides: tuple[Side, Side], tmp_path: Path, room: Deliveries
) -> None:
    side, _ = sides
    source = source_of(side, Policy(delivery=Delivery(kept_h=0.0005)), room)
    done = room.write("one", source, many(side, 50), lambda: False, 30)
    (path,) = room._folder.iterdir()
    assert stat.S_IMODE(path.stat().st_mode) == 0o600
    assert stat.S_IMODE(room._folder.stat().st_mode) == 0o700
    assert done.until is not None
    assert done.until.timestamp() == path.stat().st_mtime
    assert room.sweep() == []
    lines = room.lines("one")
    assert lines is not None
    assert 10 < len(done.sample) <= 20
    assert [json.loads(next(lines)) for _ in done.sample] == done.sample
    while dt.datetime.now(dt.UTC) <= done.until:
        time.sleep(0.1)
    # Not a moment longer, whether it was swept up already or not; who is at it reads on.
    assert room.lines("one") is None
    assert room.sweep() == ["one"]
    assert len(list(lines)) == 50 - len(done.sample)
    # Those that are let go in the middle, or never begun, give their place back.
    later = source_of(side, Policy(delivery=Delivery()), room, "three")
    room.write("three", later, many(side, 5), lambda: False, 30)
    open_ = [room.lines("three") for _ in range(MOST_OPEN)]
    with pytest.raises(TooManyOpen):
        room.lines("three")
    assert open_.pop() is not None
    assert len(list(room.lines("three") or ())) == 5
    (room._folder / "three.jsonl").unlink()
    (room._folder / "two.part").write_bytes(b"[1]\n")
    assert Deliveries(tmp_path, 10**9).begin() == ["two"]
    assert list(room._folder.iterdir()) == []
