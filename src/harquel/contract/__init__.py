"""The shapes of the HTTP contract (design §6), as pydantic models that every part may import.

They stand at the very bottom: core fills them, the service sends them, the client reads them.
"""

from .access import Me, SessionRequest, Token, TokenCreated, TokenRequest, Tokens
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
    InquiryPage,
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
from .ledger import EntryPage, EntryShape, LedgerHead, Verification
from .problem import Problem
from .sources import (
    CatalogColumn,
    CatalogShape,
    CatalogTable,
    ForeignKeyShape,
    ReviewRequest,
    ReviewShape,
    SourceLine,
    SourceLines,
)

__all__ = [
    "Answer", "Attempt", "BriefedTable", "BriefingSummary", "CatalogColumn", "CatalogShape",
    "CatalogTable", "Caveat", "Choice", "Clarify", "DraftShape", "DryRun", "EntryPage", "EntryShape", "Finding",
    "ForeignKeyShape", "Inquiry", "InquiryLine", "InquiryPage", "InquiryRequest", "LedgerHead", "Me", "Outcome",
    "Problem", "ProblemNote", "ResultColumn", "ResultTable", "ReviewRequest", "ReviewShape", "Ruling",
    "RunFigures", "SessionRequest", "Severity", "SourceLine", "SourceLines", "State", "Timings", "Token",
    "TokenCreated", "TokenRequest", "Tokens", "Trust", "Usage", "Verdict", "Verification",
]  # fmt: skip
