"""What can happen to an inquiry."""

from __future__ import annotations

from typing import Any, Literal

from ..attempts import Severity, Verdict
from ..base import Shape
from ..inquiry import Outcome, Timings, Trust, Usage
from .happening import Happening, Step


class Accepted(Happening):
    """A question was taken in."""

    texts = ("question",)
    happened: Literal["accepted"] = "accepted"
    source: str = ""
    """The source that is asked."""
    token: int | None = None
    """The token that it was asked with."""
    as_of: str = ""
    """The instant that it is about."""
    follows: str | None = None
    """The inquiry before it."""
    choice: str | None = None
    """The reading that was chosen."""
    silenced: list[str] = []
    """Rules that were silenced for it."""
    model: str | None = None
    """The model that drafts it again, where another was wanted."""


class Briefed(Step):
    """What the model is told was picked."""

    happened: Literal["briefed"] = "briefed"
    tables: list[str] = []
    """The tables in it."""
    examples: int = 0
    """How many examples are in it."""
    tokens: int = 0
    """About how many tokens it takes."""
    catalog: str = ""
    """The fingerprint of the catalog."""


class AskedBack(Step):
    """The question can be read in several ways, and whoever asked decides."""

    happened: Literal["asked-back"] = "asked-back"
    readings: list[str] = []
    """What it can mean."""


class Restated(Step):
    """What follows an answer was said as a question that stands by itself."""

    texts = ("question",)
    happened: Literal["restated"] = "restated"
    by: Literal["reading", "model", "alone"] = "model"
    """How: by changing the reading of the one before, by a model, or it stood alone as it was."""


class Prompted(Step):
    """A model is asked."""

    texts = ("prompt",)
    happened: Literal["prompted"] = "prompted"
    model: str = ""
    """The model's name."""
    template: str = ""
    """By which template: its name, whose it is, and a digest of its text."""


class Replied(Step):
    """A model has answered."""

    texts = ("reply",)
    happened: Literal["replied"] = "replied"
    prompt_tokens: int = 0
    """Tokens of the prompt, as the model counts them."""
    completion_tokens: int = 0
    """Tokens of the reply."""
    model: str = ""
    """Who has; another than was asked first where that one gave nothing."""
    reused: str = ""
    """The inquiry for which it had; then nobody was asked."""


class Ruled(Step):
    """The guard has ruled on a text or on a plan."""

    texts = ("draft",)
    happened: Literal["ruled"] = "ruled"
    on: Literal["text", "plan"] = "text"
    """What it was about."""
    verdict: Verdict = "refuse"
    """Whether it may run."""
    reason: str = ""
    """Why."""
    policy_line: str = ""
    """The line of the policy that decided."""


class Noted(Shape):
    """A finding, as it is told on the way."""

    rule: str = ""
    """The rule that found it."""
    severity: Severity = "warning"
    """How grave it is."""
    message: str = ""
    """What was found."""


class Found(Step):
    """Something was found about a draft, or, on a draft that was reviewed, nothing."""

    happened: Literal["found"] = "found"
    on: str = ""
    """`draft` where a draft was reviewed."""
    findings: list[Noted] = []
    """What was found."""


class Planned(Step):
    """The database has said how it would carry the statement out."""

    happened: Literal["planned"] = "planned"
    steps: list[str] = []
    """The steps, in the engine's words."""
    rows: int | None = None
    """Rows that it expects to touch; null where it does not say, or where that is not for whoever asked."""


class Ran(Step):
    """The statement has run."""

    texts = ("sql", "rows")
    happened: Literal["ran"] = "ran"
    row_count: int = 0
    """Rows that came back."""
    bytes: int = 0
    """The size of the values as text."""
    cut_by: Literal["rows", "bytes"] | None = None
    """The limit that cut the result; null: it is whole."""
    elapsed_ms: float = 0.0
    """Milliseconds that it took in the database."""


class Delivered(Step):
    """The statement has run, and all that it gave was written to a file."""

    texts = ("sql",)
    happened: Literal["delivered"] = "delivered"
    row_count: int = 0
    """Rows that were written."""
    bytes: int = 0
    """The size of the values as text."""
    cut_by: Literal["rows", "bytes"] | None = None
    """The limit that cut the result; null: it is whole."""
    elapsed_ms: float = 0.0
    """Milliseconds that it took in the database."""
    digest: str = ""
    """SHA-256 of the file, in hexadecimal."""


class TakenAway(Happening):
    """Somebody takes the file with a whole result away."""

    happened: Literal["taken-away"] = "taken-away"
    form: str = ""
    """The form that it is taken in."""
    token: int | None = None
    """The token that it is taken with."""


class ToldInChat(Happening):
    """What became of it was told in a chat."""

    happened: Literal["told-in-chat"] = "told-in-chat"
    chat: str = ""
    """Which chat, by the configuration's name."""
    place: str = ""
    """Where there."""
    alone: bool = True
    """Whether to whoever asked alone."""


class SentOn(Happening):
    """Somebody has an answer sent on."""

    happened: Literal["sent-on"] = "sent-on"
    sending: str = ""
    """Its id."""
    destination: str = ""
    """Where to."""


class Arrived(Happening):
    """An answer that was sent on has been taken."""

    happened: Literal["arrived"] = "arrived"
    sending: str = ""
    """Its id."""
    destination: str = ""
    """Where."""
    tries: int = 0
    """How often it was tried."""


class NotArrived(Happening):
    """An answer that was sent on is tried no more."""

    happened: Literal["not-arrived"] = "not-arrived"
    sending: str = ""
    """Its id."""
    destination: str = ""
    """Where it was to go."""
    tries: int = 0
    """How often it was tried."""
    why: str = ""
    """Why it was not taken."""


class FileDeleted(Happening):
    """The file with a whole result is no more."""

    happened: Literal["file-deleted"] = "file-deleted"
    why: str = ""
    """`expired`, or that it was never finished: `unfinished`."""


class Stumbled(Step):
    """The run did not come to an end."""

    texts = ("error",)
    happened: Literal["stumbled"] = "stumbled"
    fault: str = ""
    """On whose account."""


class Compared(Step):
    """A second draft was held against the first."""

    texts = ("said",)
    happened: Literal["compared"] = "compared"
    agrees: bool | None = None
    """Whether the results are the same; null where they could not be compared."""
    model: str = ""
    """The model that drafted it."""


class WasHeld(Happening):
    """The statement waits until somebody releases it."""

    texts = ("sql",)
    happened: Literal["held"] = "held"
    policy_line: str = ""
    """The line of the policy that holds it."""
    reason: str = ""
    """Why."""
    record: str = ""
    """The digest of the inquiry as it is kept."""


class Released(Happening):
    """Somebody lets a held statement run."""

    texts = ("note",)
    happened: Literal["released"] = "released"
    policy_line: str = ""
    """The line of the policy that held it."""


class TurnedDown(Happening):
    """Somebody does not let a held statement run."""

    texts = ("note",)
    happened: Literal["turned-down"] = "turned-down"
    policy_line: str = ""
    """The line of the policy that held it."""


class CancelAsked(Happening):
    """Somebody wants an inquiry to stop."""

    happened: Literal["cancel-asked"] = "cancel-asked"


class Ended(Happening):
    """An inquiry has come to its end."""

    texts = ("answer", "asked_back", "problem")
    happened: Literal["ended"] = "ended"
    outcome: Outcome | None = None
    """How it ended."""
    trust: Trust | None = None
    """The mark of the answer."""
    problem: str | None = None
    """Why there is no answer, by a stable word."""
    policy_line: str | None = None
    """The line of the policy that decided it."""
    caveats: list[str] = []
    """Rules whose findings remain."""
    attempts: int = 0
    """How many drafts there were."""
    record: str = ""
    """The digest of the inquiry as it is kept."""
    rows_digest: str | None = None
    """The digest of the rows of the answer."""
    second_digest: str | None = None
    """The digest of the rows of the second draft."""
    silenced: list[str] = []
    """Rules that were silenced for it."""
    second_agrees: bool | None = None
    """Whether a second draft came to the same."""
    usage: Usage = Usage()
    """What the models took."""
    timings: Timings = Timings()
    """Where the time went."""

    def facts(self) -> dict[str, Any]:
        """As the ledger keeps them: digests of what there is."""
        without = {n for n in ("rows_digest", "second_digest") if getattr(self, n) is None}
        return self.model_dump(mode="json", exclude={"happened", *without})


class StarterTried(Happening):
    """A starter question is tried in the background."""

    texts = ("question",)
    happened: Literal["starter-tried"] = "starter-tried"
    source: str = ""
    """The source that is asked."""
