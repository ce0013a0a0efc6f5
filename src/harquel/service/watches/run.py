"""One run of a watched question: asked with the rights of whoever watches, at this moment; judged; told.

What must hold: it is asked by a token that counts now, with the scope ask alone; a doubtful figure is told to nobody,
nor are words of a caveat or a problem, which may hold one; what is told goes where the policy of now lets it; run,
state and what is sent are written in one transaction.
"""

from __future__ import annotations

import hashlib
import secrets
import threading
import time
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Final

import structlog

from harquel.contract import events
from harquel.core.clock import utc_now
from harquel.core.language.say import say
from harquel.core.watching import Judged, Seen, State, judge, rule_of
from harquel.service.access.caller import Caller
from harquel.service.access.models import Token
from harquel.service.errors import ProblemError
from harquel.service.idempotency import Once
from harquel.service.inquiries.following import ANEW
from harquel.service.inquiries.for_others import for_others
from harquel.service.inquiries.models import StoredInquiry
from harquel.service.inquiries.operations.ask import ask
from harquel.service.inquiries.recovery import was_interrupted
from harquel.service.inquiries.shapes import inquiry_of
from harquel.service.ledger.append import append
from harquel.service.operations import perform
from harquel.service.outbox.making import Told, made_for
from harquel.service.outbox.models import StoredSending
from harquel.service.problems import as_problem
from harquel.service.runtime import runtime
from harquel.service.sources.live import LiveSource

from .models import StoredRun, StoredWatch
from .shapes import quiet_of

log = structlog.get_logger("harquel")
TELL_AFTER: Final = 3
"""Failures in a row, after which it is told."""
_WAIT_S: Final = 300.0
_LOOK_S: Final = 0.1


@dataclass(frozen=True)
class _Came:
    """What came of a run: its outcome, why, the text to tell, and whether the answer goes along."""

    outcome: str
    why: str = ""
    text: str = ""
    answer: bool = False
    judged: Judged | None = None
    figure: Decimal | None = None


def carry_out(run: StoredRun, ended: threading.Event) -> None:
    """Does it, and settles it; broken off once `ended`."""
    # As it is now: between its time and its turn something may have changed.
    run.watch = watch = StoredWatch.objects.select_related("person").get(pk=run.watch_id)
    token = Token.living().select_related("person").filter(pk=watch.token_id).first()
    if watch.state == "ended":
        _settle(run, _Came("failed", "it is watched no more"), None, None)
        return
    if token is None:
        _end(run, "the token of whoever had it watched counts no more")
        return
    caller = replace(Caller.of(token), scopes=Caller.of(token).scopes & {"ask"})
    source = runtime().sources.get(watch.source)
    if source is None or not caller.sees(watch.source):
        _end(run, "its source is not there any more")
        return
    try:
        stored = _asked(run, caller, ended)
    except Exception as error:
        problem = as_problem(error)
        if problem is None:
            log.exception("a watched question broke", watch=watch.key)
        said = problem.told(_language(watch)).title if problem is not None else "something broke; the log has why"
        _settle(run, _failed(watch, said), caller, None)
        return
    if stored is None:
        return  # it goes on after a restart
    _settle(run, _judged(watch, stored, source), caller, stored)


def _language(watch: StoredWatch) -> str:
    found = StoredInquiry.objects.filter(key=watch.inquiry).first()
    return inquiry_of(found).language if found is not None else "en"


def _asked(run: StoredRun, caller: Caller, ended: threading.Event) -> StoredInquiry | None:
    """The inquiry, once it has come to rest; None where it was broken off. Raises ProblemError."""
    watch, live = run.watch, runtime()
    wanted = {"follows": watch.inquiry, "choice": ANEW, "source": watch.source}
    # One that a stop of the service has ended is asked once more; any other is the same at each try.
    for once in range(1, run.tries + 1):
        key = hashlib.sha256(f"{watch.key} {run.due_at.isoformat()} {once}".encode()).hexdigest()
        _, found = perform(ask, caller, lambda: wanted, {}, Once(caller.token, key, key))
        until = time.monotonic() + _WAIT_S
        while live.inquiries.is_open(found.id) and time.monotonic() < until:
            if ended.wait(_LOOK_S):
                return None
        stored = StoredInquiry.objects.select_related("person", "result").get(key=found.id)
        if not was_interrupted(stored):
            break
    return stored


def _failed(watch: StoredWatch, why: str) -> _Came:
    n, language = watch.failures + 1, _language(watch)
    text = say(language, "watch-failed", n=n) if n == TELL_AFTER else ""
    return _Came("failed", why, text)


def _judged(watch: StoredWatch, stored: StoredInquiry, source: LiveSource) -> _Came:
    inquiry = inquiry_of(stored)
    language, answer = inquiry.language, inquiry.answer
    if answer is None:
        why = inquiry.problem.title if inquiry.problem is not None else (
            inquiry.clarify.question if inquiry.clarify is not None else say(language, "chat-no-answer")
        )  # fmt: skip
        return _failed(watch, why)
    table = answer.table
    seen = Seen.of(table.rows, [c.type for c in table.columns], table.row_count)
    if inquiry.trust != "clear":
        why = answer.caveats[0].message if answer.caveats else ""
        # Told once, and again only after it was well in between; where all is told each time, each time.
        tell = watch.happens == "always" or not watch.doubted
        return _Came("doubt", why, say(language, "watch-doubt") if tell else "", figure=seen.figure)
    if watch.fingerprint and fingerprint(source) != watch.fingerprint:
        return _Came("doubt", "the tables are built otherwise", say(language, "watch-moved"), figure=seen.figure)
    before = State(Decimal(watch.figure) if watch.figure is not None else None, watch.digest, watch.holds)
    found = judge(rule_of(watch.happens, watch.line, watch.back), before, seen)
    if not found.tell:
        return _Came("quiet", judged=found, figure=seen.figure)
    text = say(
        language, found.why, when=watch.said, line=watch.line or "", figure=_plain(seen.figure),
        before=_plain(before.figure), rows=seen.rows,
    )  # fmt: skip
    return _Came("told", "", text, True, found, seen.figure)


def _plain(figure: Decimal | None) -> str:
    return "–" if figure is None else f"{figure:,f}"


def fingerprint(source: LiveSource) -> str:
    """Of how the tables of a source are built now; empty where nobody knows."""
    catalog = source.keeper.known()
    return catalog.fingerprint if catalog is not None else ""


def _end(run: StoredRun, why: str) -> None:
    def end() -> None:
        StoredWatch.objects.filter(pk=run.watch_id).update(state="ended", why_ended=why)
        StoredRun.objects.filter(pk=run.pk).update(state="done", outcome="failed", why=why, ended_at=utc_now())
        append(who="service", what=events.WatchEnded(watch=run.watch.key, why=why))

    runtime().writer.do(end)


def _settle(run: StoredRun, came: _Came, caller: Caller | None, stored: StoredInquiry | None) -> None:
    """Run, state of the watch, ledger entry and what is sent, in one transaction."""
    live, watch = runtime(), run.watch
    made, refused = _sendings(run, came, caller, stored) if came.text and caller is not None else ([], "")
    outcome, why = ("not-sent", refused) if refused and not made else (came.outcome, came.why)

    def settle() -> None:
        if StoredRun.objects.filter(pk=run.pk, state="done").exists():
            return
        now, key = utc_now(), stored.key if stored is not None else ""
        StoredRun.objects.filter(pk=run.pk).update(
            state="done", outcome=outcome, why=why[:300], inquiry=key, ended_at=now,
            figure=str(came.figure) if came.figure is not None and came.outcome != "doubt" else None,
        )  # fmt: skip
        fresh = StoredWatch.objects.get(pk=watch.pk)
        fresh.failures = fresh.failures + 1 if came.outcome == "failed" else 0
        fresh.doubted = came.outcome == "doubt"
        if came.judged is not None and outcome != "not-sent":
            state = came.judged.state
            fresh.figure = str(state.figure) if state.figure is not None else None
            fresh.digest, fresh.holds = state.digest, state.holds
        source = live.sources.get(watch.source)
        if source is not None and stored is not None:
            fresh.fingerprint = fingerprint(source)
        fresh.save(update_fields=["failures", "doubted", "figure", "digest", "holds", "fingerprint"])
        ran = events.WatchRan(watch=watch.key, due=run.due_at.isoformat(), outcome=outcome, late=run.late)
        append(who="service", what=ran, inquiry=key or None)
        for one in made:
            one.save()
            append(who="service", what=events.SentOn(sending=one.key, destination=one.destination), inquiry=one.inquiry)

    live.writer.do(settle)
    if made:
        live.outbox.wake()


def _sendings(
    run: StoredRun, came: _Came, caller: Caller, stored: StoredInquiry | None
) -> tuple[list[StoredSending], str]:
    """What goes out of it, not yet stored; and why something does not."""
    watch, live, now = run.watch, runtime(), utc_now()
    source = live.sources.get(watch.source)
    allowed = source.core.policy.sending if source is not None else None
    quiet = quiet_of(watch.quiet, watch.zone)
    found, refused = [], ""
    for to in watch.to:
        if allowed is None or not allowed.lets_by(to, caller.roles):
            refused = f"the policy of its source does not let it go to {to}"
            continue
        if live.carriers.to(to) is None:
            refused = f"there is no way to {to}"
            continue
        answer = stored if came.answer else None
        if answer is not None and source is not None and not (allowed.personal or for_others(answer, caller, source)):
            refused = "there is something personal in it"
            continue
        about = stored if stored is not None else StoredInquiry.objects.get(key=watch.inquiry)
        # The same for each try of the run, so that a run that is begun again sends nothing twice.
        key = f"msg_{hashlib.sha256(f'{watch.key} {run.due_at.isoformat()} {to}'.encode()).hexdigest()[:24]}"
        told = Told(key, to, now, caller.name, watch.title, came.text, watch.said, watch.key)
        try:
            body = made_for(told, about, answer is not None, watch.attach)
        except ProblemError as error:
            refused = str(error)
            continue
        found.append(StoredSending(
            key=key, at=now, next_at=quiet.over(now) if quiet is not None else now, person_id=watch.person_id,
            inquiry=about.key, destination=to, body=body,
        ))  # fmt: skip
    return found, refused


def new_key() -> str:
    """Of a watch."""
    return f"w_{secrets.token_hex(8)}"
