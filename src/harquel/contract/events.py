"""Everything that can happen to an inquiry, a source, a person or the service, a shape each.

The ledger keeps them as entries, the stream sends these, and terminal, console, trail and metrics are made from them.
A kind that is not here cannot be told, and one that somebody forgets to show fails a type check: what reads them takes
the unions at the end apart with `match` and `assert_never`, or `switch` and `never`.

Fields of earlier versions that are missing in an old entry have a default; nothing is ever taken out of one.
"""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Final, Literal, get_args

from pydantic import Field, TypeAdapter

from .base import Shape
from .inquiry import Outcome, Severity, Timings, Trust, Usage, Verdict


class Happening(Shape):
    """What all of them share. `happened` is the kind of the ledger's entry, the other fields are its facts."""

    texts: ClassVar[tuple[str, ...]] = ()
    """Names of the texts that may belong to it; they are kept apart from the facts and can be blanked."""

    @property
    def entry_kind(self) -> str:
        """The kind of its entry, a stable word."""
        kind: str = self.happened  # type: ignore[attr-defined]
        return kind

    def facts(self) -> dict[str, Any]:
        """As the ledger keeps them."""
        return self.model_dump(mode="json", exclude={"happened"})


class Step(Happening):
    """A step on the way of a question."""

    number: int = 0
    """The attempt that it belongs to, counted from one; 0: none."""
    duty: str = ""
    """What it was done for, when not for the answer itself."""

    def facts(self) -> dict[str, Any]:
        """As the ledger keeps them: what it is for stands there only where it is for something else."""
        without = {"happened"} | set(() if self.duty else ("duty",)) | set(() if self.number else ("number",))
        return self.model_dump(mode="json", exclude=without)


# -- an inquiry ---------------------------------------------------------------------------------------


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


class Prompted(Step):
    """A model is asked."""

    texts = ("prompt",)
    happened: Literal["prompted"] = "prompted"
    model: str = ""
    """The model's name."""


class Replied(Step):
    """A model has answered."""

    texts = ("reply",)
    happened: Literal["replied"] = "replied"
    prompt_tokens: int = 0
    """Tokens of the prompt, as the model counts them."""
    completion_tokens: int = 0
    """Tokens of the reply."""


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


# -- a source -----------------------------------------------------------------------------------------


class _OfSource(Happening):
    source: str = ""
    """The source's name."""


class SourceConnected(_OfSource):
    """A source was made."""

    happened: Literal["source-connected"] = "source-connected"
    engine: str = ""
    """The database's kind."""
    where: str = ""
    """Where it is, without a secret."""


class SourceChanged(_OfSource):
    """A source was renamed, or has another title or password."""

    happened: Literal["source-changed"] = "source-changed"
    name: str = ""
    """Its name from now on."""
    title: str | None = None
    """Its title from now on."""
    password: bool = False
    """Whether it has another password."""


class SourceSwitched(_OfSource):
    """A source was switched on or off."""

    happened: Literal["source-switched"] = "source-switched"
    enabled: bool = True
    """Whether it can be asked."""


class SourceRemoved(_OfSource):
    """A source was taken away; what was asked of it stays."""

    happened: Literal["source-removed"] = "source-removed"
    inquiries_kept: int = 0
    """Inquiries that stay."""


class SourceChecked(_OfSource):
    """Reach and rights of a source's account were looked at."""

    happened: Literal["source-checked"] = "source-checked"
    verdict: str = ""
    """What came of it."""
    faults: list[str] = []
    """What is wrong, by stable words."""


class CatalogChange(Shape):
    """One difference between two versions of a catalog."""

    kind: str
    """What kind of difference."""
    table: str
    """The table."""
    column: str | None = None
    """The column; null: the table itself."""


class CatalogChanged(_OfSource):
    """A scan has found another structure."""

    happened: Literal["catalog-changed"] = "catalog-changed"
    version: int = 0
    """The number of the new version."""
    fingerprint: str = ""
    """Its fingerprint."""
    tables: int = 0
    """How many tables it has."""
    changes: list[CatalogChange] = []
    """The first differences."""


class ScanStarted(_OfSource):
    """Somebody had a source scanned."""

    happened: Literal["scan-started"] = "scan-started"
    scan: int | None = None
    """The number of the scan."""
    kind: str = ""
    """How far it goes."""


class ScanStopped(_OfSource):
    """Somebody has stopped a scan."""

    happened: Literal["scan-stopped"] = "scan-stopped"
    scan: int | None = None
    """The number of the scan."""


class DocumentChanged(_OfSource):
    """Notes or policy have a new version."""

    texts = ("text",)
    happened: Literal["document-changed"] = "document-changed"
    kind: str = ""
    """Which: notes or policy."""
    number: int = 0
    """The number of the version."""
    origin: str = ""
    """Where it came from."""
    digest: str = ""
    """The digest of its text."""


class _OfExample(_OfSource):
    texts = ("question", "sql")
    example: int | None = None
    """The number of the example."""
    state: str = ""
    """Whether it is used."""


class ExampleAdded(_OfExample):
    """An example was added."""

    happened: Literal["example-added"] = "example-added"


class ExampleChanged(_OfExample):
    """An example was changed."""

    happened: Literal["example-changed"] = "example-changed"


class ExampleRemoved(_OfExample):
    """An example was removed."""

    happened: Literal["example-removed"] = "example-removed"


class ExamplesImported(_OfSource):
    """Examples were taken in from a file."""

    happened: Literal["examples-imported"] = "examples-imported"
    added: int = 0
    """How many are new."""
    changed: int = 0
    """How many are another."""


class Reviewed(_OfSource):
    """Somebody had a statement looked at."""

    texts = ("draft",)
    happened: Literal["reviewed"] = "reviewed"
    verdict: Verdict = "refuse"
    """Whether it may run."""
    policy_line: str | None = None
    """The line of the policy that decided."""


# -- people and the service ---------------------------------------------------------------------------


class TokenMade(Happening):
    """A token was made."""

    happened: Literal["token-created"] = "token-created"
    token: int = 0
    """Its number."""
    name: str = ""
    """Its name."""
    person: str = ""
    """Whose it is."""
    person_id: int = 0
    """The number of that person."""
    sources: list[str] = []
    """The sources that it is for."""
    scopes: list[str] = []
    """What it may do."""
    roles: list[str] = []
    """The roles of the person."""
    expires_at: str | None = None
    """When it ends; null: never."""
    rights: str = ""
    """The digest of what it may."""


class TokenRevoked(Happening):
    """A token counts no more."""

    happened: Literal["token-revoked"] = "token-revoked"
    token: int = 0
    """Its number."""
    name: str = ""
    """Its name."""


class KeysRotated(Happening):
    """Passwords of sources are kept under another key."""

    happened: Literal["keys-rotated"] = "keys-rotated"
    passwords: int = 0
    """How many there are."""


class StandstillOn(Happening):
    """Everything was stopped."""

    happened: Literal["standstill-on"] = "standstill-on"


class StandstillOff(Happening):
    """That was taken back."""

    happened: Literal["standstill-off"] = "standstill-off"


class ServiceStarted(Happening):
    """The service has started."""

    happened: Literal["service-started"] = "service-started"
    interrupted: int = 0
    """Inquiries that an earlier stop had interrupted."""
    sealed_with: str | None = None
    """The key that seals from now on."""


class ServiceStopped(Happening):
    """The service stops."""

    happened: Literal["service-stopped"] = "service-stopped"


class LedgerSealed(Happening):
    """Somebody had the ledger sealed; the first seal of a new key names it."""

    happened: Literal["ledger-sealed"] = "ledger-sealed"
    new: str | None = None
    """The new key."""


class LedgerKeyChanged(Happening):
    """The key that seals was changed; the last entry under the old one."""

    happened: Literal["ledger-key-changed"] = "ledger-key-changed"
    old: str = ""
    """The old key."""


Tellable = Briefed | AskedBack | Prompted | Replied | Ruled | Found | Planned | Ran | Stumbled | Compared
"""What the way of a question tells by itself."""
InquiryEvent = Tellable | Accepted | WasHeld | Released | TurnedDown | CancelAsked | Ended | StarterTried
"""What the stream of an inquiry tells."""
SourceEvent = (
    SourceConnected | SourceChanged | SourceSwitched | SourceRemoved | SourceChecked | CatalogChanged | ScanStarted
    | ScanStopped | DocumentChanged | ExampleAdded | ExampleChanged | ExampleRemoved | ExamplesImported | Reviewed
)  # fmt: skip
ServiceEvent = (
    TokenMade | TokenRevoked | KeysRotated | StandstillOn | StandstillOff | ServiceStarted | ServiceStopped
    | LedgerSealed | LedgerKeyChanged
)  # fmt: skip
Event = InquiryEvent | SourceEvent | ServiceEvent
EVENTS: Final[dict[str, type[Happening]]] = {e.model_fields["happened"].default: e for e in get_args(Event)}
"""All of them, by kind."""
_READ: TypeAdapter[Event] = TypeAdapter(Annotated[Event, Field(discriminator="happened")])


def event_of(kind: str, facts: dict[str, Any]) -> Event | None:
    """What an entry tells; None for a kind of another version. Raises ValidationError for facts that are none."""
    return _READ.validate_python({**facts, "happened": kind}) if kind in EVENTS else None
