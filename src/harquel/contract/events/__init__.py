"""Everything that can happen to an inquiry, a source, a person or the service, a shape each.

The ledger keeps them as entries, the stream sends these, and terminal, console, trail and metrics are made from them.
A kind that is not here cannot be told, and one that somebody forgets to show fails a type check: what reads them takes
the unions at the end apart with `match` and `assert_never`, or `switch` and `never`.

Fields of earlier versions that are missing in an old entry have a default; nothing is ever taken out of one.
"""

from __future__ import annotations

from typing import Annotated, Any, Final, get_args

from pydantic import Field, TypeAdapter

from .happening import Happening, Step
from .of_inquiry import (
    Accepted,
    Arrived,
    AskedBack,
    Briefed,
    CancelAsked,
    Compared,
    Delivered,
    Ended,
    FileDeleted,
    Found,
    NotArrived,
    Noted,
    Planned,
    Prompted,
    Ran,
    Released,
    Replied,
    Restated,
    Ruled,
    SentOn,
    StarterTried,
    Stumbled,
    TakenAway,
    ToldInChat,
    TurnedDown,
    WasHeld,
)
from .of_service import (
    CasebookReaders,
    CasebookRemoved,
    CasebookWritten,
    ChatLinked,
    ChatUnlinked,
    ConfigurationReloaded,
    KeysRotated,
    LedgerKeyChanged,
    LedgerSealed,
    ModelChecked,
    OpenLinkEnded,
    OpenLinkMade,
    OpenLinkOpened,
    RowsBlanked,
    ServiceStarted,
    ServiceStopped,
    StandstillOff,
    StandstillOn,
    TokenMade,
    TokenRevoked,
    WatchAdded,
    WatchChanged,
    WatchEnded,
    WatchRan,
)
from .of_source import (
    CatalogChange,
    CatalogChanged,
    DocumentChanged,
    ExampleAdded,
    ExampleChanged,
    ExampleRemoved,
    ExamplesImported,
    Reviewed,
    ScanStarted,
    ScanStopped,
    SourceChanged,
    SourceChecked,
    SourceConnected,
    SourceRemoved,
    SourceSwitched,
)

Tellable = (
    Restated
    | Briefed
    | AskedBack
    | Prompted
    | Replied
    | Ruled
    | Found
    | Planned
    | Ran
    | Stumbled
    | Compared
    | Delivered
)
"""What the way of a question tells by itself."""
InquiryEvent = (
    Tellable | Accepted | WasHeld | Released | TurnedDown | CancelAsked | Ended | StarterTried | TakenAway | FileDeleted
    | SentOn | Arrived | NotArrived | ToldInChat
)  # fmt: skip
"""What the stream of an inquiry tells."""
SourceEvent = (
    SourceConnected | SourceChanged | SourceSwitched | SourceRemoved | SourceChecked | CatalogChanged | ScanStarted
    | ScanStopped | DocumentChanged | ExampleAdded | ExampleChanged | ExampleRemoved | ExamplesImported | Reviewed
)  # fmt: skip
ServiceEvent = (
    TokenMade | TokenRevoked | ChatLinked | ChatUnlinked | KeysRotated | ConfigurationReloaded | ModelChecked
    | StandstillOn | StandstillOff | WatchAdded | WatchChanged | WatchRan | WatchEnded
    | OpenLinkMade | OpenLinkOpened | OpenLinkEnded | CasebookWritten | CasebookReaders | CasebookRemoved
    | ServiceStarted | ServiceStopped | LedgerSealed | LedgerKeyChanged | RowsBlanked
)  # fmt: skip
Event = InquiryEvent | SourceEvent | ServiceEvent
EVENTS: Final[dict[str, type[Happening]]] = {e.model_fields["happened"].default: e for e in get_args(Event)}
"""All of them, by kind."""
_READ: TypeAdapter[Event] = TypeAdapter(Annotated[Event, Field(discriminator="happened")])


def event_of(kind: str, facts: dict[str, Any]) -> Event | None:
    """What an entry tells; None for a kind of another version. Raises ValidationError for facts that are none."""
    return _READ.validate_python({**facts, "happened": kind}) if kind in EVENTS else None


__all__ = [
    "EVENTS",
    "Accepted",
    "Arrived",
    "AskedBack",
    "Briefed",
    "CancelAsked",
    "CasebookReaders",
    "CasebookRemoved",
    "CasebookWritten",
    "CatalogChange",
    "CatalogChanged",
    "ChatLinked",
    "ChatUnlinked",
    "Compared",
    "ConfigurationReloaded",
    "Delivered",
    "DocumentChanged",
    "Ended",
    "Event",
    "ExampleAdded",
    "ExampleChanged",
    "ExampleRemoved",
    "ExamplesImported",
    "FileDeleted",
    "Found",
    "Happening",
    "InquiryEvent",
    "KeysRotated",
    "LedgerKeyChanged",
    "LedgerSealed",
    "ModelChecked",
    "NotArrived",
    "Noted",
    "OpenLinkEnded",
    "OpenLinkMade",
    "OpenLinkOpened",
    "Planned",
    "Prompted",
    "Ran",
    "Released",
    "Replied",
    "Restated",
    "Reviewed",
    "RowsBlanked",
    "Ruled",
    "ScanStarted",
    "ScanStopped",
    "SentOn",
    "ServiceEvent",
    "ServiceStarted",
    "ServiceStopped",
    "SourceChanged",
    "SourceChecked",
    "SourceConnected",
    "SourceEvent",
    "SourceRemoved",
    "SourceSwitched",
    "StandstillOff",
    "StandstillOn",
    "StarterTried",
    "Step",
    "Stumbled",
    "TakenAway",
    "Tellable",
    "TokenMade",
    "TokenRevoked",
    "ToldInChat",
    "TurnedDown",
    "WasHeld",
    "WatchAdded",
    "WatchChanged",
    "WatchEnded",
    "WatchRan",
    "event_of",
]
