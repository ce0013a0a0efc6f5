"""What a source lets people and models see and how much a query may take. One YAML file a source."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import replace
from fnmatch import fnmatchcase
from functools import lru_cache
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, StringConstraints, model_validator

from harquel.core.domain.catalog import Catalog, Column
from harquel.core.domain.findings import RETIRED, REVIEW_CODES, Finding
from harquel.core.domain.personal import looks_personal
from harquel.core.nearest import nearest


class _Part(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class Exposure(_Part):
    """Patterns with * and ?: tables that exist, and tables or table.column that do not after all.

    Outside the default schema a table is called schema.table.
    """

    tables: tuple[str, ...] = ("*",)
    withhold: tuple[str, ...] = ()


Treatment = Literal["show", "refuse", "mask", "count"]


class ColumnTreatment(_Part):
    """How columns of one pattern are treated."""

    column: str
    treatment: Treatment


class Personal(_Part):
    """Patterns of table.column: marked by a person, or proposed by the scan and cleared by one.

    `treatment` is what becomes of them in queries: shown, refused with a word why, masked wherever they stand, or
    only counted. `treatments` says it for single columns, and goes first. Roles in `seen_by` see them all.
    """

    columns: tuple[str, ...] = ()
    cleared: tuple[str, ...] = ()
    treatment: Treatment = "show"
    treatments: tuple[ColumnTreatment, ...] = ()
    seen_by: tuple[str, ...] = ()


class Functions(_Part):
    """Beyond the list that ships with Harquel. Functions of your own are named as schema.function.

    Nothing but this list lets a function of your own run: that it is declared as reading only guarantees nothing.
    """

    allow: tuple[str, ...] = ()
    refuse: tuple[str, ...] = ()


class RowRule(_Part):
    """Rows of a table that some may see. In the condition, :name is a value of the person who asks.

    Without `roles` it concerns everybody; those with a role in `unless` it does not concern.
    """

    table: str
    where: str
    roles: tuple[str, ...] = ()
    unless: tuple[str, ...] = ()


class Approval(_Part):
    """When a statement is held until somebody with the right to releases it."""

    always: bool = False
    tables: tuple[str, ...] = ()
    roles: tuple[str, ...] = Field(default=(), description="questions of people with one of these roles")
    rows: int | None = Field(default=None, ge=1, description="rows that a plan reads")
    cost: float | None = Field(default=None, gt=0, description="cost of a plan, in the engine's own unit")


class Listing(_Part):
    """The largest share of a table that may be listed row by row; aggregates are not concerned."""

    share: float | None = Field(default=None, gt=0, le=1)
    tables: tuple[str, ...] = ("*",)


class Prompts(_Part):
    """What may leave for a language model. Personal columns never show a value, whatever stands here.

    `values`: all frequent values and ranges, only those of columns with few of them (codes), or none.
    `personal_columns`: whether the model may know that they exist. `models`: names of configured models
    that may be used for this source; empty means any.
    """

    values: Literal["all", "codes", "none"] = "all"
    personal_columns: bool = True
    models: tuple[str, ...] = ()


class Limits(_Part):
    """How much is too much. A query that reaches `rows` or `bytes` is cut, and the answer says so."""

    attempts: int = Field(default=4, ge=1, le=4, description="drafts per inquiry")
    inquiry_s: float = Field(default=120, gt=0, le=900, description="seconds for the whole inquiry")
    query_s: float = Field(default=10, gt=0, le=300, description="seconds for one statement")
    rows: int = Field(default=1000, ge=1, le=100_000)
    bytes: int = Field(default=4_000_000, ge=1000, le=200_000_000)
    rows_kept_days: int = Field(
        default=365, ge=1, le=3650, description="days after which rows of answers are deleted; sentence and SQL stay"
    )
    memory_mb: int = Field(default=256, ge=64, le=8192, description="megabytes for one worker")
    plan_rows: int | None = Field(default=None, ge=1, description="rows that a plan may scan")
    plan_cost: float | None = Field(default=None, gt=0, description="cost of a plan, in the engine's own unit")
    prompt_tokens: int = Field(default=12_000, ge=500, description="estimated size of a briefing")
    inquiry_tokens: int = Field(
        default=100_000, ge=1000, description="tokens, as the model counts them, beyond which no call is made"
    )


class Delivery(_Part):
    """Whether whole results are handed over as files, beyond `limits.rows`, to whom and how much of them.

    Columns that are personal are only counted in them, whoever asks, unless `personal` says otherwise.
    """

    roles: tuple[str, ...] = Field(default=(), description="of whom one may have it done; empty: everybody")
    rows: int = Field(default=1_000_000, ge=1, le=50_000_000)
    bytes: int = Field(default=500_000_000, ge=1000, le=20_000_000_000)
    query_s: float = Field(default=300, gt=0, le=3600, description="seconds for the statement")
    personal: bool = Field(default=False, description="whether personal columns may be in it")
    approval: bool = Field(default=False, description="held until somebody with the right to releases it")
    kept_h: float = Field(default=24, gt=0, le=720, description="hours after which the file is deleted")


Recipients = Annotated[str, StringConstraints(pattern=r"^[^@\s]*@[A-Za-z0-9.-]+$", max_length=254)]


class SendingOn(_Part):
    """Where answers may be sent on to, by names of the service's configuration, and for whom."""

    to: tuple[str, ...] = Field(default=(), description="destinations of the configuration")
    mail: tuple[Recipients, ...] = Field(
        default=(), description="whom answers may be mailed to: addresses, or @domain for all of a domain"
    )
    roles: tuple[str, ...] = Field(default=(), description="of whom one may have it done; empty: everybody")
    personal: bool = Field(default=False, description="whether personal columns may be in them")

    @model_validator(mode="after")
    def _somewhere(self) -> SendingOn:
        if not self.to and not self.mail:
            raise ValueError("name destinations under to, or whom mail may go to under mail")
        return self

    def lets(self, to: str) -> bool:
        """Whether a destination, or an address of mail, is one of those."""
        if "@" not in to:
            return to in self.to
        wanted, domain = to.casefold(), to.casefold()[to.rindex("@") :]
        return any(one.casefold() in (wanted, domain) for one in self.mail)

    def lets_by(self, to: str, roles: Collection[str]) -> bool:
        """The same for somebody with these roles."""
        return self.lets(to) and (not self.roles or not set(self.roles).isdisjoint(roles))


class Chatting(_Part):
    """In which chats answers may be told, and where there everybody may see them."""

    to: tuple[str, ...] = Field(min_length=1, description="chats of the configuration")
    openly: tuple[str, ...] = Field(
        default=(), description="places there, by their ids, where all see what is told; elsewhere only who asked does"
    )
    personal: bool = Field(default=False, description="whether personal columns may be in what is told")


class Lessened(_Part):
    """A finding of review that counts for less on this source, and why."""

    finding: str
    reason: str = Field(min_length=1)

    @model_validator(mode="after")
    def _known(self) -> Lessened:
        if self.finding not in REVIEW_CODES | RETIRED:
            near = nearest(self.finding, REVIEW_CODES)
            raise ValueError(
                f"{self.finding} is no finding of review" + (f"; the nearest is {near[0]}" if near else "")
            )
        return self


class ReviewTerms(_Part):
    """How much doubt is wanted here.

    `dropped` and `mild` are findings that a steward trusts less: not made at all, or told without repair and doubt.
    """

    dropped: tuple[Lessened, ...] = ()
    mild: tuple[Lessened, ...] = ()
    second_opinion: Literal["never", "in-doubt", "always"] | None = Field(
        default=None,
        description="when another draft is made and compared, where no query of our own can be built; left out: in "
        "doubt where another model has that duty",
    )
    control: Literal["never", "in-doubt", "always"] = Field(
        default="always",
        description="when a question is read apart from the draft, and worked out by our own statement",
    )
    two_readings: Literal["ask", "tell"] = Field(
        default="ask", description="what becomes of a question that can be read in two ways: asked back, or a caveat"
    )

    def apply(self, finding: Finding) -> Finding | None:
        """A finding as it counts here."""
        if any(s.finding == finding.rule for s in self.dropped):
            return None
        lessened = any(s.finding == finding.rule for s in self.mild)
        return replace(finding, severity="info") if lessened else finding


class Sharing(_Part):
    """Whether answers may be shown to people without an account, by a link that holds for a time."""

    days: int = Field(default=14, ge=1, le=365, description="how long a link may hold")
    roles: tuple[str, ...] = Field(default=(), description="of whom one may make one; empty: everybody")
    personal: bool = Field(default=False, description="whether personal columns may be in them")

    def lets(self, roles: Collection[str]) -> bool:
        """Whether somebody with these roles may make one."""
        return not self.roles or not set(self.roles).isdisjoint(roles)


class Policy(_Part):
    """What of one source may be seen, by whom, how, and at what cost."""

    expose: Exposure = Exposure()
    personal: Personal = Personal()
    prompts: Prompts = Prompts()
    rows: tuple[RowRule, ...] = ()
    functions: Functions = Functions()
    approval: Approval = Approval()
    listing: Listing = Listing()
    limits: Limits = Limits()
    review: ReviewTerms = ReviewTerms()
    delivery: Delivery | None = Field(default=None, description="left out: no result leaves beyond limits.rows")
    sending: SendingOn | None = Field(default=None, description="left out: no answer is sent on by this service")
    chat: Chatting | None = Field(default=None, description="left out: nothing of it is asked or told in chats")
    sharing: Sharing | None = Field(
        default=None, description="left out: nothing of it is shown to people without an account"
    )
    require_read_only_account: bool = Field(
        default=False, description="ask nothing while the account of the source could write"
    )
    withhold_delicate: bool = Field(
        default=True,
        description="whether columns that look personal do not exist until a line says how they are treated",
    )

    def shows(self, table: str, column: str | None) -> bool:
        """Whether a table, or a column of it, exists for askers and models, as far as names tell."""
        return _shows(self, table, column)

    def unsettled(self, table: str, column: Column) -> bool:
        """Whether a column looks personal, by its name or by what is known of it, and no line says what becomes of it.

        Lines that do: one of `personal.cleared`, a treatment of its own, or one for all personal columns other than to
        show them.
        """
        if not self.withhold_delicate or not (column.looks_personal or looks_personal(column.name)):
            return False
        return not _settled(self, table, column.name)

    def is_personal(self, table: str, column: Column) -> bool:
        """Whether nothing of its values may be read ahead or leave: marked, or proposed and not cleared."""
        full = f"{table}.{column.name}".lower()
        if any(fnmatchcase(full, p.lower()) for p in self.personal.columns):
            return True
        return column.looks_personal and not any(fnmatchcase(full, p.lower()) for p in self.personal.cleared)

    def allowed_s(self, whole: bool) -> float:
        """Seconds that an inquiry may take: one that hands over a whole result has those for its statement besides."""
        return self.limits.inquiry_s + (self.delivery.query_s if whole and self.delivery is not None else 0)

    def delivering(self) -> Policy:
        """The same with the limits of a delivery, and without personal columns where none may be in one.

        What is shown of those is counted only; what is masked or refused stays so, for those too who see it otherwise.
        """
        given = self.delivery
        if given is None:
            return self
        larger = {"rows": given.rows, "bytes": given.bytes, "query_s": given.query_s}
        made = self.model_copy(update={"limits": self.limits.model_copy(update=larger)})
        return made if given.personal else made.model_copy(update={"personal": _counted(self.personal)})

    def for_others(self) -> Policy:
        """The same where every personal column that is shown is counted only, for those too who see it otherwise."""
        return self.model_copy(update={"personal": _counted(self.personal)})

    def visible(self, catalog: Catalog) -> Catalog:
        """The catalog without what is not exposed."""
        proposed = {
            (t.name, c.name) for t in catalog.tables for c in t.columns if self.unsettled(t.name, c)
        }  # fmt: skip
        return catalog.only(lambda t, c: self.shows(t, c) and (c is None or (t, c) not in proposed))


def _counted(personal: Personal) -> Personal:
    return personal.model_copy(
        update={
            "treatment": "count" if personal.treatment == "show" else personal.treatment,
            "treatments": tuple(t for t in personal.treatments if t.treatment != "show"), "seen_by": (),
        }
    )  # fmt: skip


@lru_cache(maxsize=262_144)
def _shows(policy: Policy, table: str, column: str | None) -> bool:
    name = table.lower()
    if not any(fnmatchcase(name, p.lower()) for p in policy.expose.tables):
        return False
    if any(fnmatchcase(name, p.lower()) for p in policy.expose.withhold):
        return False
    if column is None:
        return True
    full = f"{name}.{column.lower()}"
    if any("." in p and fnmatchcase(full, p.lower()) for p in policy.expose.withhold):
        return False
    return not (policy.withhold_delicate and looks_personal(column) and not _settled(policy, table, column))


def _settled(policy: Policy, table: str, column: str) -> bool:
    full, personal = f"{table}.{column}".lower(), policy.personal
    if personal.treatment != "show":
        return True
    patterns = (*personal.cleared, *(t.column for t in personal.treatments))
    return any(fnmatchcase(full, p.lower()) for p in patterns)


DEFAULT_POLICY = Policy()
