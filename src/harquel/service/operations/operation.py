"""What a person or a program can do: one value for each thing, in one registry that every way in goes through.

An operation says what it takes, who may, what it is about, what it leaves in the ledger and what comes of doing it
twice. `perform` sees to all of that in one order: scope, subject, shape, deed. So whoever may not is told nothing, and
no way in can leave a step out.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, Final, Generic, Literal, TypeVar

from pydantic import BaseModel, ConfigDict

from harquel.contract.events import EVENTS
from harquel.service.access.caller import Caller
from harquel.service.errors import ProblemError
from harquel.service.idempotency import Once

Asked = TypeVar("Asked", bound=BaseModel)
About = TypeVar("About")
Given = TypeVar("Given")
Scope = Literal["ask", "release", "steward", "audit", "admin"]
Repeat = Literal["reads", "same", "once", "anew"]
"""What comes of doing it again: it only reads; the state is the same as after the first; under a key it happens once
only; something happens anew.
"""
REPEATED: Final[Mapping[Repeat, str]] = {
    "reads": "changes nothing", "same": "changes nothing more", "once": "happens once under a key",
    "anew": "happens again",
}  # fmt: skip


class Nothing(BaseModel):
    """What an operation takes that takes nothing beside its subject."""

    model_config = ConfigDict(extra="ignore")


@dataclass(frozen=True)
class Subject(Generic[About]):
    """What an operation is about, found by what an address says of it under `key`.

    `find` raises ProblemError for what is not there or not for this caller, which sound the same. `whose` says in
    words for whom it is there.
    """

    name: str
    key: str
    find: Callable[[str, Caller], About]
    whose: str


NO_SUBJECT: Final[Subject[None]] = Subject("", "", lambda _, __: None, "")


@dataclass(frozen=True)
class Call(Generic[Asked, About]):
    """One wish to do something: by whom, with what, about what; `at` are further parts of an address."""

    caller: Caller
    asked: Asked
    about: About
    at: Mapping[str, Any]
    once: Once


@dataclass(frozen=True)
class Operation(Generic[Asked, About, Given]):
    """One thing that can be done. `entries` are the kinds of ledger entries that it may leave."""

    name: str
    does: Callable[[Call[Asked, About]], Given]
    takes: type[Asked]
    gives: type[BaseModel] | None
    scope: Scope | None
    about: Subject[About]
    entries: tuple[str, ...]
    repeat: Repeat
    rule: str
    """What decides beyond scope and subject, in words."""

    @property
    def says(self) -> str:
        """What it does, in a sentence or two."""
        return " ".join((self.does.__doc__ or "").split())


registry: dict[str, Operation[Any, Any, Any]] = {}
"""Every operation by its name, once the areas are loaded."""


@dataclass(frozen=True)
class operation(Generic[Asked, About]):
    """Declares the function under it an operation, and enters it in the registry."""

    name: str
    takes: type[Asked]
    about: Subject[About]
    repeat: Repeat = "reads"
    gives: type[BaseModel] | None = None
    scope: Scope | None = None
    entries: tuple[str, ...] = field(default=())
    rule: str = ""

    def __post_init__(self) -> None:
        unknown = set(self.entries) - EVENTS.keys()
        if unknown:
            raise ValueError(f"{self.name} would leave entries that contract/events.py does not have: {unknown}")

    def __call__(self, does: Callable[[Call[Asked, About]], Given]) -> Operation[Asked, About, Given]:
        """Raises ValueError for a name that is taken."""
        if self.name in registry:
            raise ValueError(f"there are two operations {self.name}")
        made = Operation(
            self.name, does, self.takes, self.gives, self.scope, self.about, self.entries, self.repeat, self.rule
        )
        registry[self.name] = made
        return made


VISITED: Final = frozenset(("inquiry.ask", "inquiry.cancel"))
"""What a visit may do beside reading: nothing that lasts, or goes out of the service."""


def admit(wanted: Operation[Any, Any, Any], caller: Caller) -> None:
    """Raises ProblemError where the token lacks the scope, or is one for a visit and this is no part of one."""
    if caller.visiting and wanted.repeat != "reads" and wanted.name not in VISITED:
        raise ProblemError(403, "not-allowed", "problem-visit-only-asks")
    if wanted.scope is not None and not caller.may(wanted.scope):
        raise ProblemError(403, "not-allowed", "problem-scope-needed", scope=wanted.scope)


def perform(
    wanted: Operation[Asked, About, Given], caller: Caller, asked: Callable[[], Mapping[str, Any]],
    at: Mapping[str, Any], once: Once | None = None,
) -> tuple[Call[Asked, About], Given]:  # fmt: skip
    """Does it, and returns the call as it was understood along with what came of it.

    `asked` gives the fields of the operation's shape as they were sent; they are read only once the caller may. Raises
    ProblemError, pydantic's ValidationError for fields that do not fit, and what the core raises.
    """
    admit(wanted, caller)
    about = wanted.about.find(str(at.get(wanted.about.key, "")), caller)
    call = Call(caller, wanted.takes.model_validate(asked()), about, at, once or Once(caller.token, None, ""))
    return call, wanted.does(call)
