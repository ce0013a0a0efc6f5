"""Makes a casebook, lists those there are, changes and removes one."""

from __future__ import annotations

from harquel.contract import Casebook, CasebookChange, CasebookRequest, Casebooks, events
from harquel.contract.figures import in_a_line
from harquel.core.clock import utc_now
from harquel.service.access.caller import Caller
from harquel.service.ledger.append import append
from harquel.service.operations import NO_SUBJECT, Call, Nothing, operation
from harquel.service.runtime import runtime

from ..contents import Contents, line_of
from ..finding import CASEBOOK, OWN, RULE, find_own, newest, visible
from ..models import StoredCasebook
from ..writing import Draft, begin, new_key, readers_of, write


@operation("casebook.list", takes=Nothing, about=NO_SUBJECT, gives=Casebooks, rule=RULE)
def list_casebooks(call: Call[Nothing, None]) -> Casebooks:
    """One's own casebooks and those that one may read."""
    return Casebooks([line_of(one, newest(one), call.caller) for one in visible(call.caller)])


@operation(
    "casebook.make", takes=CasebookRequest, about=NO_SUBJECT, scope="ask", gives=Casebook, repeat="once",
    entries=("casebook-written", "casebook-readers"),
)  # fmt: skip
def make_casebook(call: Call[CasebookRequest, None]) -> Casebook:
    """Makes a casebook: a text between answers that are kept."""
    wish, caller = call.asked, call.caller
    readers, everybody = readers_of(wish.readers)

    def make() -> StoredCasebook:
        if (before := call.once.earlier()) is not None:
            return find_own(before, caller)
        made = StoredCasebook(
            key=new_key(), person_id=caller.person, language=wish.language, readers=readers,
            open=everybody, changed_at=utc_now(),
        )  # fmt: skip
        begin(made, caller.name, Draft(in_a_line(wish.title, 120), wish.text))
        if readers or everybody:
            _tell_readers(made, caller)
        call.once.settle(made.key)
        return made

    return shape_of_casebook(runtime().writer.do(make), caller)


@operation("casebook.read", takes=Nothing, about=CASEBOOK, gives=Casebook)
def read_casebook(call: Call[Nothing, StoredCasebook]) -> Casebook:
    """A casebook as far as it is for whoever reads: an answer that would not be shown to them is not, nor its figures
    in the text.
    """
    return shape_of_casebook(call.about, call.caller)


@operation(
    "casebook.change", takes=CasebookChange, about=OWN, scope="ask", gives=Casebook, repeat="same",
    entries=("casebook-written", "casebook-readers"),
    rule="the version that is changed has to be the newest",
)  # fmt: skip
def change_casebook(call: Call[CasebookChange, StoredCasebook]) -> Casebook:
    """Writes its title or text anew, lets go of answers, says who may read it."""
    wish, caller, casebook = call.asked, call.caller, call.about
    readers = readers_of(wish.readers) if wish.readers is not None else None

    def edit(draft: Draft) -> None:
        draft.title = in_a_line(wish.title, 120) if wish.title is not None else draft.title
        draft.text = wish.text if wish.text is not None else draft.text
        draft.kept = [one for one in draft.kept if one["name"] not in wish.drop]

    def change() -> None:
        if wish.title is not None or wish.text is not None or wish.drop:
            what = "dropped" if wish.drop and wish.text is None else "written"
            write(casebook, caller.name, what, wish.drop, edit, wish.version)
        if readers is not None:
            casebook.readers, casebook.open = readers
            StoredCasebook.objects.filter(pk=casebook.pk).update(readers=readers[0], open=readers[1])
            _tell_readers(casebook, caller)

    runtime().writer.do(change)
    return shape_of_casebook(casebook, caller)


@operation(
    "casebook.remove", takes=Nothing, about=OWN, scope="ask", repeat="same", entries=("casebook-removed",)
)  # fmt: skip
def remove_casebook(call: Call[Nothing, StoredCasebook]) -> None:
    """Takes it away; its answers stay what they are."""

    def remove() -> None:
        if StoredCasebook.objects.filter(pk=call.about.pk, removed_at=None).update(removed_at=utc_now()):
            append(who=call.caller.name, what=events.CasebookRemoved(casebook=call.about.key))

    runtime().writer.do(remove)


def shape_of_casebook(casebook: StoredCasebook, caller: Caller) -> Casebook:
    """As it is now."""
    return Contents(casebook, newest(casebook), caller).shape()


def _tell_readers(casebook: StoredCasebook, caller: Caller) -> None:
    what = events.CasebookReaders(casebook=casebook.key, readers=casebook.readers, everybody=casebook.open)
    append(who=caller.name, what=what)
