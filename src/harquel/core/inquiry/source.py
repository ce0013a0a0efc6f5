"""All that the way of a question needs of a source."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import KW_ONLY, dataclass, field

from harquel.core.briefing import Describer, TokenGauge
from harquel.core.domain.catalog import Catalog
from harquel.core.domain.delivery import Delivered
from harquel.core.domain.examples import Example
from harquel.core.domain.fresh import Written
from harquel.core.domain.notes import Notes
from harquel.core.domain.policy import Policy
from harquel.core.domain.statements import RuledStatement
from harquel.core.errors import CoreError
from harquel.core.llm.at_once import Call, at_once
from harquel.core.llm.model import Completion, LanguageModel
from harquel.core.prompts import SHIPPED, Prompts
from harquel.core.sandbox import StatementRunner

Deliver = Callable[[RuledStatement, Callable[[], bool], float], Delivered]
"""Runs a statement and writes all of its rows away, within the policy's bounds for deliveries: what is given beside it
says whether it is to stop, and how many seconds are left. Raises SandboxError, Cancelled.
"""


@dataclass(frozen=True)
class Source:
    """All that the way of a question needs of a source.

    `catalog` gives the newest scan, whole, and `refreshed` the same after a look at the database; what both are
    given says whether the wait for it is to end. `examples`
    those that may be used; `grant` the statement that would open a table to our account.
    """

    name: str
    engine: str
    catalog: Callable[[Callable[[], bool]], Catalog]
    refreshed: Callable[[Callable[[], bool]], Catalog]
    describer: Describer
    examples: Callable[[], tuple[Example, ...]]
    grant: Callable[[str], str]
    sandbox: StatementRunner
    model: LanguageModel
    gauge: TokenGauge
    _: KW_ONLY
    looked_up: dict[tuple[object, ...], object] = field(default_factory=dict, compare=False)
    """What small queries said about values, by catalog and by what may be seen."""
    second: LanguageModel | None = None
    """Who is asked for second opinions; without one the same model, in other words."""
    reader: LanguageModel | None = None
    """Who reads questions apart from any draft, by default who drafts; without one none is read."""
    worder: LanguageModel | None = None
    """Who puts answers into words; without one our own sentences stand."""
    follower: LanguageModel | None = None
    """Who says what follows an answer as a question that stands alone; who drafts where nobody else does."""
    prompts: Prompts = SHIPPED
    """By which templates models are told what they are."""
    at_once: Callable[[Sequence[Call], Callable[[], bool], float], list[Completion | CoreError]] = at_once
    """How several models are asked at the same time."""
    deliver: Deliver | None = None
    """Where whole results are written; None where there is no place for them."""
    written: Callable[[], Written | None] = lambda: None
    """Up to when the data were written, where it is a file or a copy that can fall behind."""
    account_fault: Callable[[], str] = lambda: ""
    """What our account could do beyond reading, where the policy forbids asking with such an account."""

    @property
    def policy(self) -> Policy:
        """What may be seen and taken."""
        return self.describer.policy

    @property
    def notes(self) -> Notes:
        """What people say it means."""
        return self.describer.notes
