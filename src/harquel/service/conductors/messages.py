"""What goes over the pipe between a conductor and the service: JSON (RFC 8259) in frames, never objects.

Upwards comes what the work asks for and tells; downwards the job, the replies, and that it is to stop. A frame may be
followed by a body: a catalog, a result, an inquiry. Nothing that a conductor sends can become code.
"""

from __future__ import annotations

import json
from collections.abc import Mapping
from decimal import Decimal
from multiprocessing.connection import Connection
from typing import Annotated, Any, Final, Literal

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter

from harquel.contract.events import InquiryEvent
from harquel.core.domain.delivery import Delivered
from harquel.core.domain.fresh import Written
from harquel.core.domain.person import Person
from harquel.core.domain.reviewed import Reviewed
from harquel.core.domain.statements import RuledStatement
from harquel.core.prompts.templates import Name

MOST_BYTES: Final = 256 * 1024 * 1024
"""Longest frame or body that is taken."""


class _Message(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class Kept(_Message):
    """Something that has versions. The body comes along only to a conductor that does not hold it yet."""

    token: int
    sent: bool = False
    """Whether the body follows."""


class Model(_Message):
    """What the work may know of a language model."""

    name: str
    prompt_price: Decimal
    completion_price: Decimal


# -- downwards --------------------------------------------------------------------------------------


Duty = Literal["draft", "second opinion", "read", "word", "follow"]
"""What a model is asked for."""


class Job(_Message):
    """One piece of work. The bodies are policy and notes, and what is in the replies ahead, as far as they are sent."""

    say: Literal["job"] = "job"
    kind: Literal["conduct", "go_on", "review", "check"]
    source: str
    lives: int
    """Told apart from another source that had the same name."""
    engine: str
    described: Kept
    model: Model
    second: Model | None
    reader: Model | None
    worder: Model | None = None
    follower: Model | None = None
    chars_per_token: float
    prompts: dict[Name, str] = {}
    """Templates that are not those that ship."""
    now: str = ""
    written: Written | None = None
    """Up to when the data were written, as it was when the job was made."""
    person: Person = Person()
    inquiry: dict[str, Any] | None = None
    released_by: str = ""
    sql: str = ""
    ahead: tuple[Ahead, ...] = ()


class Reply(_Message):
    """To the one thing that was asked for. `took_ms` is what it took beside the pipe."""

    say: Literal["reply"] = "reply"
    value: Any = None
    kept: Kept | None = None
    took_ms: float = 0.0
    error: str = ""
    """Its name in the family of core errors."""
    message: Any = ""
    hint: Any = ""
    """Words, or the message of the catalogue that they are (language.say.packed)."""
    fault: str = ""


class Stop(_Message):
    """Nobody wants the result any more."""

    say: Literal["stop"] = "stop"


class Unwritten(_Message):
    """What was told cannot be put on record; nothing is answered without."""

    say: Literal["unwritten"] = "unwritten"
    message: str
    hint: str


# -- upwards ----------------------------------------------------------------------------------------


class Told(_Message):
    """A durable step; see core.domain.events. `so_far` is the inquiry, after what it may yet be lost by."""

    say: Literal["told"] = "told"
    what: InquiryEvent = Field(discriminator="happened")
    texts: dict[str, str]
    so_far: dict[str, Any] | None = None


class Steps(_Message):
    """Several of them, in their order."""

    say: Literal["steps"] = "steps"
    told: tuple[Told, ...]


class WantCatalog(_Message):
    """The newest scan; `refreshed`: after a look at the database."""

    say: Literal["catalog"] = "catalog"
    refreshed: bool


class WantExamples(_Message):
    """Those that may be used."""

    say: Literal["examples"] = "examples"


class WantGrant(_Message):
    """The statement that would open a table to our account."""

    say: Literal["grant"] = "grant"
    table: str


class WantAccount(_Message):
    """What our account could do beyond reading."""

    say: Literal["account"] = "account"


Asked = WantCatalog | WantExamples | WantGrant | WantAccount


class Completed(_Message):
    """A reply of a language model; see Completion."""

    text: str
    prompt_tokens: int
    completion_tokens: int
    reasoning_tokens: int
    cached_tokens: int
    estimated: bool
    cut: bool
    first_ms: float
    reused: str = ""
    by: Model


class WantCompletion(_Message):
    """A call of a language model. `aloud`: its pieces may be watched."""

    say: Literal["completion"] = "completion"
    duty: Duty
    messages: list[dict[str, str]]
    aloud: bool
    within_s: float


class WantCompletions(_Message):
    """Several calls at the same time. The reply holds for each what it came to: `done`, or its `error`."""

    say: Literal["completions"] = "completions"
    calls: list[WantCompletion] = Field(min_length=1, max_length=4)


class WantStatement(_Message):
    """A dry run or a run."""

    say: Literal["statement"] = "statement"
    op: Literal["run", "plan"]
    statement: RuledStatement
    within_s: float


class WantStatements(_Message):
    """Several at the same time. The reply holds for each what it came to: `done`, or its `error`."""

    say: Literal["statements"] = "statements"
    wanted: list[WantStatement] = Field(min_length=1, max_length=4)


class WantDelivery(_Message):
    """A run whose rows are all written to the file of the inquiry that is worked on."""

    say: Literal["delivery"] = "delivery"
    statement: RuledStatement
    within_s: float


class Done(_Message):
    """The work came to its end; what came of it is the body."""

    say: Literal["done"] = "done"


class Failed(_Message):
    """The work ended with an error of the family, or with one that is a mistake of ours (`error` is empty)."""

    say: Literal["failed"] = "failed"
    error: str
    message: str
    hint: str = ""
    fault: str = ""
    where: str = ""


class Ahead(_Message):
    """What will be asked for first, and the reply to it: nobody has to ask and to wait."""

    wanted: Annotated[Asked, Field(discriminator="say")]
    reply: Reply


Job.model_rebuild()
Down = Annotated[Job | Reply | Stop | Unwritten, Field(discriminator="say")]
Run = WantCompletion | WantCompletions | WantStatement | WantStatements | WantDelivery
Want = Asked | Run
Up = Annotated[Steps | Want | Done | Failed, Field(discriminator="say")]
REVIEWED: Final = TypeAdapter(Reviewed)
DELIVERED: Final = TypeAdapter(Delivered)
_DOWN: TypeAdapter[Job | Reply | Stop | Unwritten] = TypeAdapter(Down)
_UP: TypeAdapter[Steps | Want | Done | Failed] = TypeAdapter(Up)


def to_bytes(value: Any) -> bytes:
    """JSON in ASCII: halves of surrogate pairs pass through as they are."""
    return json.dumps(value, separators=(",", ":")).encode()


def send(line: Connection, message: BaseModel, *bodies: bytes | None) -> None:
    """A frame and its bodies. Raises OSError when the other side is gone."""
    line.send_bytes(to_bytes(message.model_dump(mode="json")))
    for body in bodies:
        if body is not None:
            line.send_bytes(body)


def receive_up(line: Connection) -> Steps | Want | Done | Failed:
    """What a conductor says. Raises EOFError or OSError when it is gone, ValidationError for what is no message."""
    return _UP.validate_python(_frame(line))


def receive_down(line: Connection) -> Job | Reply | Stop | Unwritten:
    """What the service says. Raises EOFError or OSError when it is gone."""
    return _DOWN.validate_python(_frame(line))


def receive_body(line: Connection) -> bytes:
    """The body that a frame announced."""
    return line.recv_bytes(MOST_BYTES)


def _frame(line: Connection) -> Mapping[str, Any]:
    found: Mapping[str, Any] = json.loads(line.recv_bytes(MOST_BYTES))
    return found
