"""Keeps an answer in a casebook, and asks those that are kept again."""

from __future__ import annotations

import hashlib

from harquel.contract import Casebook, CasebookRun, KeepInCasebook, KeepTitled
from harquel.contract.figures import in_a_line
from harquel.core.casebooks import name_for
from harquel.core.clock import utc_now
from harquel.core.language.say import say
from harquel.service.access.caller import Caller
from harquel.service.errors import ProblemError
from harquel.service.idempotency import Once
from harquel.service.inquiries.finding import INQUIRY, find_inquiry
from harquel.service.inquiries.models import StoredInquiry
from harquel.service.inquiries.operations.ask import ask
from harquel.service.inquiries.operations.draw import answer_of
from harquel.service.inquiries.shapes import inquiry_of
from harquel.service.operations import Call, operation, perform
from harquel.service.problems import as_problem
from harquel.service.runtime import runtime

from ..finding import OWN, find_own, newest
from ..models import StoredCasebook
from ..writing import Draft, begin, new_key, write
from .making import shape_of_casebook


@operation(
    "casebook.keep", takes=KeepInCasebook, about=OWN, scope="ask", gives=Casebook, repeat="once",
    entries=("casebook-written",), rule="an answer of one's own",
)  # fmt: skip
def keep_in_casebook(call: Call[KeepInCasebook, StoredCasebook]) -> Casebook:
    """Keeps an answer of one's own at the end of a casebook, to be asked again whenever that is wished."""
    wish, caller, casebook = call.asked, call.caller, call.about
    stored = find_inquiry(wish.inquiry, caller)
    _must_be_kept(stored, caller)

    def keep() -> None:
        if call.once.earlier() is None:
            _keep(casebook, stored, caller.name, wish.name, wish.text)
            call.once.settle(casebook.key)

    runtime().writer.do(keep)
    casebook.refresh_from_db()
    return shape_of_casebook(casebook, caller)


@operation(
    "inquiry.keep-in", takes=KeepTitled, about=INQUIRY, scope="ask", gives=Casebook, repeat="once",
    entries=("casebook-written",), rule="one's own",
)  # fmt: skip
def keep_titled(call: Call[KeepTitled, StoredInquiry]) -> Casebook:
    """Keeps an answer of one's own in the casebook of one's own that has this title; in a new one where none has."""
    wish, caller, stored = call.asked, call.caller, call.about
    _must_be_kept(stored, caller)
    title = in_a_line(wish.title, 120)

    def keep() -> StoredCasebook:
        if (before := call.once.earlier()) is not None:
            return find_own(before, caller)
        mine = StoredCasebook.objects.select_related("person").filter(person_id=caller.person, removed_at=None)
        found = next((o for o in mine.order_by("-pk") if newest(o).title.casefold() == title.casefold()), None)
        if found is None:
            found = StoredCasebook(
                key=new_key(), person_id=caller.person, language=wish.language, changed_at=utc_now()
            )  # fmt: skip
            begin(found, caller.name, Draft(title, ""))
        _keep(found, stored, caller.name, None, wish.text)
        call.once.settle(found.key)
        return found

    return shape_of_casebook(runtime().writer.do(keep), caller)


def _must_be_kept(stored: StoredInquiry, caller: Caller) -> None:
    """Raises ProblemError: not one's own, no answer."""
    if stored.person_id != caller.person:
        raise ProblemError(403, "not-own-inquiry", "problem-not-own-kept")
    answer_of(inquiry_of(stored))


def _keep(casebook: StoredCasebook, stored: StoredInquiry, by: str, wished: str | None, text: str) -> None:
    """Runs inside the writer. Raises ProblemError."""
    inquiry = inquiry_of(stored)
    taken = {one["name"] for one in newest(StoredCasebook.objects.get(pk=casebook.pk)).kept}
    if wished in taken:
        raise ProblemError(409, "name-taken", "problem-casebook-name-taken", name=str(wished))
    name = wished or name_for(inquiry.standalone_question or inquiry.question, taken)

    def edit(draft: Draft) -> None:
        draft.kept.append({"name": name, "inquiry": stored.key})
        parts = [draft.text.rstrip(), text.strip(), f"[={name}]"]
        draft.text = "\n\n".join(part for part in parts if part) + "\n"

    write(casebook, by, "kept", [name], edit)


@operation(
    "casebook.run", takes=CasebookRun, about=OWN, scope="ask", gives=Casebook, repeat="anew",
    entries=("accepted", "casebook-written"), rule="answers of one's own, by what inquiry.ask allows",
)  # fmt: skip
def run_casebook(call: Call[CasebookRun, StoredCasebook]) -> Casebook:
    """Asks its answers again, all or some: each by the same statement, or anew with its times moved along. They come in
    as they come; what was there stays until then, and stays where nothing comes.
    """
    wish, caller, casebook = call.asked, call.caller, call.about
    kept = newest(casebook).kept
    if not kept:
        raise ProblemError(409, "casebook-empty", "problem-casebook-empty")
    unknown = [name for name in wish.names if name not in {one["name"] for one in kept}]
    if unknown:
        raise ProblemError(404, "no-such-answer", "problem-casebook-no-answer", name=unknown[0])
    wanted = set(wish.names) or {one["name"] for one in kept}
    came = {one["name"]: _asked(one, casebook, wish.way, caller) for one in kept if one["name"] in wanted}
    asked = [name for name, found in came.items() if "inquiry" in found]

    def edit(draft: Draft) -> None:
        for one in draft.kept:
            if one["name"] in came:
                one.pop("why", None)
                one.update(came[one["name"]])

    def run() -> None:
        write(casebook, caller.name, "asked-again", asked, edit)
        StoredCasebook.objects.filter(pk=casebook.pk).update(run_at=utc_now())

    runtime().writer.do(run)
    casebook.refresh_from_db()
    return shape_of_casebook(casebook, caller)


def _asked(one: dict[str, str], casebook: StoredCasebook, way: str, caller: Caller) -> dict[str, str]:
    """What is new of one that is kept: the inquiry that asks it again, or why there is none."""
    found = {s.key: s for s in StoredInquiry.objects.filter(key__in=[one["inquiry"], one.get("before") or ""])}
    now = found.get(one["inquiry"])
    if now is not None and now.state != "ended":
        return {"why": say(casebook.language, "casebook-again-under-way")}
    last = now if now is not None and now.outcome == "answered" else found.get(one.get("before") or "")
    if last is None:
        return {"why": say(casebook.language, "casebook-gone")}
    wanted = {"follows": last.key, "choice": way, "source": last.source}
    # The same of the same version is asked once, however often it is sent.
    key = hashlib.sha256(f"{casebook.key} {casebook.version} {one['name']} {way}".encode()).hexdigest()
    try:
        _, asked = perform(ask, caller, lambda: wanted, {}, Once(caller.token, key, key))
    except Exception as error:
        problem = as_problem(error)
        if problem is None:
            raise
        told = problem.told(casebook.language)
        return {"why": f"{told.title} {told.hint}".strip()[:300]}
    return {"inquiry": asked.id, "before": last.key}
