"""The shapes of the HTTP contract (design §6), as pydantic models that every part may import.

They stand at the very bottom: core fills them, the service sends them, the client reads them.
"""

from .access import Me, SessionRequest, Token, TokenCreated, TokenRequest
from .inquiry import (
    Answer,
    Attempt,
    BriefedTable,
    BriefingSummary,
    Caveat,
    Choice,
    Clarify,
    DraftShape,
    DryRun,
    Finding,
    Inquiry,
    InquiryLine,
    InquiryRequest,
    Outcome,
    ProblemNote,
    ResultColumn,
    ResultTable,
    Ruling,
    RunFigures,
    Severity,
    State,
    Timings,
    Trust,
    Usage,
    Verdict,
)
from .ledger import EntryShape, LedgerHead, Verification
from .problem import Problem
from .sources import (
    CatalogColumn,
    CatalogShape,
    CatalogTable,
    ForeignKeyShape,
    ReviewRequest,
    ReviewShape,
    SourceLine,
)

__all__ = [
    "Answer", "Attempt", "BriefedTable", "BriefingSummary", "CatalogColumn", "CatalogShape",
    "CatalogTable", "Caveat", "Choice", "Clarify", "DraftShape", "DryRun", "EntryShape", "Finding",
    "ForeignKeyShape", "Inquiry", "InquiryLine", "InquiryRequest", "LedgerHead", "Me", "Outcome",
    "Problem", "ProblemNote", "ResultColumn", "ResultTable", "ReviewRequest", "ReviewShape", "Ruling",
    "RunFigures", "SessionRequest", "Severity", "SourceLine", "State", "Timings", "Token",
    "TokenCreated", "TokenRequest", "Trust", "Usage", "Verdict", "Verification",
]  # fmt: skip
