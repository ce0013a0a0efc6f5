"""harquel.toml: read, overridden from the environment, checked; every mistake names its place.

Read here and not by a library of settings: one would pass over a HARQUEL__ variable that fits no key in silence, where
this names the nearest one, and would look for values in more places than the two that are promised.
"""

from __future__ import annotations

import datetime as dt
import os
import re
import tomllib
from collections.abc import Mapping
from decimal import Decimal
from pathlib import Path
from typing import Annotated, Any, Final, Literal
from urllib.parse import urlsplit

from pydantic import BaseModel, ConfigDict, Field, ValidationError, field_validator, model_validator

from harquel.contract.sending import ADDRESS
from harquel.core.curation import explained
from harquel.core.errors import ConfigurationError
from harquel.core.llm.model import Effort, ProtocolName
from harquel.core.nearest import meant

PREFIX = "HARQUEL__"
REFERENCES = ("env:", "file:")


class _Section(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class ServiceSection(_Section):
    """Where the service listens, where its records lie, how many it serves at once, how often it looks."""

    bind: str = Field(default="127.0.0.1:8710", pattern=r"^.+:\d{1,5}$")
    data_dir: str = "var"
    hosts: tuple[str, ...] = ()
    address: str | None = Field(
        default=None, pattern=r"^https?://[^\s?#]+$", description="how people reach it, for links in what is sent on"
    )
    behind_tls: bool = Field(
        default=False, description="a proxy in front of it ends TLS: cookies and pages are for https alone"
    )
    askers: int = Field(default=8, ge=1, le=128, description="inquiries under way at once")
    waiting: int = Field(default=32, ge=0, le=10_000, description="inquiries that may queue")
    conductors: int = Field(
        default=0, ge=0, le=128, description="processes kept ready to read and guard; 0: as many as there are cores"
    )
    computing_s: float = Field(
        default=10, ge=1, le=600, description="processor seconds that reading and guarding one inquiry may take"
    )
    computing_mb: int = Field(default=1024, ge=256, le=65_536, description="memory that one conductor may take")
    ledger_key: str = Field(default="ledger.key", description="file of the key that seals the ledger; keep it apart")
    ledger_anchors: str | None = Field(default=None, description="a file elsewhere, of which each seal becomes a line")
    references: tuple[str, ...] = Field(
        default=(),
        description="env:NAME or file:PATH, with *, that sources made over HTTP may refer to",
    )
    folders: tuple[str, ...] = Field(default=(), description="where SQLite files of sources made over HTTP may lie")
    databases: tuple[str, ...] = Field(
        default=("*",), description="hosts, with *, that a source made over HTTP may lead to"
    )
    try_starters: bool = Field(
        default=True, description="ask the model what a source offers to be asked first, and offer what it answered; "
        "false: offer what a steward wrote, untried"
    )  # fmt: skip
    prompts: str | None = Field(default=None, description="a folder of templates in the place of those that ship")
    look_every_s: float = Field(default=30, ge=1, le=86_400, description="seconds between looks at each database")
    deliveries_mb: int = Field(default=10_000, ge=1, description="megabytes that files with whole results may take")


class ModelSection(_Section):
    """A language model and how it is reached."""

    protocol: ProtocolName = Field(default="chat-completions", description="how its server is spoken to")
    base_url: str
    name: str
    key: str | None = Field(default=None, description="a reference: env:NAME or file:PATH")
    temperature: float | None = Field(default=None, ge=0, le=2, description="0, or not told where effort is")
    timeout_s: float = Field(default=60, gt=0, le=600, description="seconds that its server may be silent")
    prompt_price: Decimal = Field(default=Decimal(0), ge=0, description="of a million tokens")
    completion_price: Decimal = Field(default=Decimal(0), ge=0, description="of a million tokens")
    longest: int | None = Field(default=None, ge=16, le=1_000_000, description="tokens that a reply may have")
    effort: Effort | None = Field(default=None, description="how much it thinks before it speaks")
    system: Literal["system", "developer"] = Field(
        default="system", description="what chat-completions calls the message that says what it is there for"
    )
    stream: bool = Field(default=True, description="false: its reply comes whole")
    structured: bool = Field(default=False, description="tell it the shape of its reply as a JSON Schema")
    cached: bool = Field(
        default=False, description="mark what stays the same in prompts, where messages has to be told"
    )
    at_once: int = Field(default=64, ge=1, le=1_000, description="calls under way at the same time; others wait")
    fields: dict[str, Any] = Field(default={}, description="what its server takes beyond the protocol")


DUTIES: Final = ("draft", "second_opinion", "read", "word", "follow")
"""What models are configured for, each for all sources or for one."""
Names = str | Annotated[tuple[str, ...], Field(min_length=1, max_length=8)]
"""A model, or several: the next is asked where one gives nothing."""


class DutiesSection(_Section):
    """Which model does what."""

    draft: Names
    second_opinion: Names | None = Field(default=None, description="another model than the one that drafts")
    read: Names | None = Field(
        default=None, description="says how a question is understood, beside any draft; by default the one that drafts"
    )
    word: Names | None = Field(
        default=None, description="puts answers into words, which are held against the rows; left out: none does"
    )
    follow: Names | None = Field(
        default=None,
        description="says what follows an answer as a question that stands alone; by default the one that drafts",
    )
    reuse_s: float = Field(
        default=0,
        ge=0,
        le=86_400,
        description="seconds for which a draft and a reading may be taken again for the same question; 0: never",
    )
    read_hedge_s: float | None = Field(
        default=None, ge=0.1, le=600, description="seconds after which the second reader is asked beside the first"
    )


class BudgetsSection(_Section):
    """What calls of models may come to in a day (UTC): money in the currency of the prices, and tokens."""

    day_cost: Decimal | None = Field(default=None, ge=0, description="all together")
    day_tokens: int | None = Field(default=None, ge=0)
    person_day_cost: Decimal | None = Field(default=None, ge=0, description="of each person")
    person_day_tokens: int | None = Field(default=None, ge=0)
    source_day_cost: Decimal | None = Field(default=None, ge=0, description="of each source")
    source_day_tokens: int | None = Field(default=None, ge=0)


class SourceSection(_Section):
    """A database that can be asked."""

    url: str | None = None
    engine: Literal["sqlite", "postgresql", "mariadb"] | None = None
    path: str | None = Field(default=None, description="of a SQLite file, instead of a url")
    host: str | None = None
    port: int | None = Field(default=None, ge=1, le=65535)
    database: str | None = None
    user: str | None = None
    password: str | None = Field(default=None, description="a reference: env:NAME or file:PATH")
    tls: Literal["prefer", "require", "verify", "off"] = "prefer"
    ca: str | None = None
    schemas: tuple[str, ...] = ()
    title: str = ""
    as_of: dt.datetime | None = None
    policy: str | None = None
    notes: str | None = None
    examples: str | None = None
    starters: str | None = None
    draft: Names | None = Field(
        default=None, description="a model, or several, for this source instead of the common one"
    )
    second_opinion: Names | None = Field(default=None, description="the same for second opinions")
    read: Names | None = Field(default=None, description="the same for reading questions")
    word: Names | None = Field(default=None, description="the same for wording answers")
    follow: Names | None = Field(default=None, description="the same for what follows an answer")
    prompts: str | None = Field(default=None, description="a folder of templates of its own for what models are told")
    workers: int = Field(default=2, ge=1, le=32, description="statements that may run at once")


def _must_be_address(url: str, private: bool) -> None:
    """Raises ValueError."""
    parts = urlsplit(url)
    if parts.scheme not in (("http", "https") if private else ("https",)) or not parts.hostname:
        raise ValueError("url is an address with https, or with private = true with http")
    if parts.username or parts.password or parts.fragment:
        raise ValueError("url holds neither a user nor a fragment")


class DestinationSection(_Section):
    """Where answers may be sent on to, where the policy of their source names it: a signed message by HTTP."""

    url: str = Field(max_length=2000)
    secret: str = Field(description="a reference (env:NAME, file:PATH) to what signs it, as Standard Webhooks has it")
    private: bool = Field(
        default=False, description="whether it may lead to this machine or a private network, and without TLS"
    )

    @model_validator(mode="after")
    def _reachable(self) -> DestinationSection:
        _must_be_address(self.url, self.private)
        return self


class MailSection(_Section):
    """The server by which answers go as mail, to whom the policy of their source lets them."""

    server: str = Field(pattern=r"^[^\s/@]+:\d{1,5}$", description="host and port")
    sender: str = Field(pattern=ADDRESS, max_length=254, description="the address that mail comes from")
    user: str | None = None
    password: str | None = Field(default=None, description="a reference: env:NAME or file:PATH")
    tls: Literal["starttls", "from-start", "off"] = Field(
        default="starttls", description="how it is encrypted; off only where private is true"
    )
    private: bool = Field(default=False, description="whether the server may be on this machine or a private network")

    @model_validator(mode="after")
    def _encrypted(self) -> MailSection:
        if self.tls == "off" and (not self.private or self.password is not None):
            raise ValueError("tls may be off only where private is true, and without a password")
        if (self.user is None) != (self.password is None):
            raise ValueError("user and password go together")
        return self


class ChatSection(_Section):
    """A chat in which people ask: it sends to api/v1/chats/NAME/messages, replies go to its url, signed both ways."""

    form: Literal["plain", "buttons"] = Field(default="plain", description="how its messages are written")
    url: str = Field(max_length=2000, description="where replies go")
    secret: str = Field(description="a reference (env:NAME, file:PATH) to what signs, as Standard Webhooks has it")
    private: bool = Field(
        default=False, description="whether its url may lead to this machine or a private network, and without TLS"
    )
    source: str | None = Field(default=None, description="the source that is asked where nobody names another")

    @model_validator(mode="after")
    def _reachable(self) -> ChatSection:
        _must_be_address(self.url, self.private)
        return self


class EmbeddingSection(_Section):
    """Which pages of others may show the small page for asking in a frame; left out: none."""

    origins: list[str] = Field(
        min_length=1, max_length=50, description="of those pages, as browsers write them: https://intranet.example"
    )

    @field_validator("origins", mode="before")
    @classmethod
    def _by_commas(cls, found: Any) -> Any:
        """As a variable of the environment has them."""
        return [one.strip() for one in found.split(",")] if isinstance(found, str) else found

    @field_validator("origins")
    @classmethod
    def _are_origins(cls, found: list[str]) -> list[str]:
        for one in found:
            if re.fullmatch(r"https?://[A-Za-z0-9.-]{1,253}(:[0-9]{1,5})?", one) is None:
                raise ValueError(f"{one[:100]!r} is no origin: a scheme and a host, as https://intranet.example")
        return found


class HarquelConfig(_Section):
    """The whole file; `base` is its folder, from which relative paths are taken."""

    service: ServiceSection = ServiceSection()
    models: dict[str, ModelSection] = {}
    duties: DutiesSection | None = None
    budgets: BudgetsSection = BudgetsSection()
    sources: dict[str, SourceSection] = {}
    destinations: dict[str, DestinationSection] = {}
    mail: MailSection | None = None
    chats: dict[str, ChatSection] = {}
    embedding: EmbeddingSection | None = None
    base: Path = Path()
    file: Path | None = None
    """Where it was read from; None where it was made otherwise."""

    @property
    def reached_at(self) -> str:
        """The address of the console, for links in what leaves."""
        return (self.service.address or f"http://{self.service.bind}").rstrip("/")

    @property
    def data_dir(self) -> Path:
        """Where records and keys lie."""
        return (self.base / self.service.data_dir).resolve()


def load_config(path: Path, environ: Mapping[str, str] = os.environ) -> HarquelConfig:
    """Reads and checks a configuration. Raises ConfigurationError with the place and what to do."""
    try:
        values = tomllib.loads(path.read_text("utf-8"))
    except FileNotFoundError as error:
        raise ConfigurationError(
            f"The configuration {path} is not there.", "Name it with --config, or write one as the README shows."
        ) from error
    except (OSError, UnicodeDecodeError) as error:
        raise ConfigurationError(f"The configuration {path} cannot be read: {error}.") from error
    except tomllib.TOMLDecodeError as error:
        raise ConfigurationError(f"The configuration {path} is not valid TOML: {error}.") from error
    _override(values, environ)
    try:
        config = HarquelConfig.model_validate({**values, "base": path.resolve().parent, "file": path.resolve()})
    except ValidationError as error:
        raise explained(error, path.name, HarquelConfig) from error
    _check(config)
    return config


def _override(values: dict[str, Any], environ: Mapping[str, str]) -> None:
    for name, text in environ.items():
        if name.startswith(PREFIX):
            parts = name.removeprefix(PREFIX).lower().split("__")
            place = values
            for part in parts[:-1]:
                place = place.setdefault(part, {})
                if not isinstance(place, dict):
                    raise ConfigurationError(f"{name} does not fit: {part} is not a section.")
            place[parts[-1]] = text


def _check(config: HarquelConfig) -> None:
    if config.duties is None and config.sources:
        raise ConfigurationError("No model is named for drafting.", 'Add [duties] with draft = "NAME of a model".')
    places = [("duties", config.duties), *((f"sources.{name}", section) for name, section in config.sources.items())]
    for place, name in [
        (f"{place}.{duty}", name) for place, section in places if section is not None
        for duty in DUTIES for name in names_of(getattr(section, duty))
    ]:  # fmt: skip
        if name not in config.models:
            hint = meant(name, config.models, "Add a section [models.NAME].")
            raise ConfigurationError(f"{place} names the model {name!r}, which is not configured.", hint)
    for name, model in config.models.items():
        if model.key is not None and not model.key.startswith(REFERENCES):
            raise ConfigurationError(
                f"models.{name}.key must be a reference, never the key itself.", "Write env:NAME or file:PATH."
            )
    for name, source in config.sources.items():
        if (source.url is None) == (source.engine is None):
            raise ConfigurationError(
                f"sources.{name} must have either url or engine.",
                'Write url = "…", or engine = "…" with host, database and user.',
            )
        if source.url is not None and not source.url.startswith(REFERENCES) and has_password(source.url):
            raise ConfigurationError(
                f"sources.{name}.url holds a password.",
                f'Put the URL into a variable and write url = "env:{name.upper()}_URL", or leave the password out and '
                f'write password = "env:{name.upper()}_PASSWORD" below it.',
            )
        if source.password is not None and not source.password.startswith(REFERENCES):
            raise ConfigurationError(
                f"sources.{name}.password must be a reference, never the password itself.",
                "Write env:NAME or file:PATH.",
            )
    if config.mail is not None and not (config.mail.password or REFERENCES[0]).startswith(REFERENCES):
        raise ConfigurationError(
            "mail.password must be a reference, never the password itself.", "Write env:NAME or file:PATH."
        )
    for name, chat in config.chats.items():
        if not chat.secret.startswith(REFERENCES):
            raise ConfigurationError(
                f"chats.{name}.secret must be a reference, never the secret itself.", "Write env:NAME or file:PATH."
            )
    for name, destination in config.destinations.items():
        if "@" in name:
            raise ConfigurationError(
                f"destinations.{name}: a name without @, please.", "Addresses of mail stand in a policy: sending.mail."
            )
        if not destination.secret.startswith(REFERENCES):
            raise ConfigurationError(
                f"destinations.{name}.secret must be a reference, never the secret itself.",
                "Write env:NAME or file:PATH.",
            )


def names_of(names: Names | None) -> tuple[str, ...]:
    """The models of a duty in their order; with commas between, where an environment has set them."""
    parts = names.split(",") if isinstance(names, str) else names or ()
    return tuple(dict.fromkeys(part.strip() for part in parts))


def has_password(url: str) -> bool:
    """Whether a URL seems to hold a password, also when it is not well formed."""
    head = url.partition("://")[2]
    return "@" in head and ":" in head.rpartition("@")[0]


def resolve_secret(reference: str, base: Path, what: str) -> str:
    """The value behind env:NAME or file:PATH; any other text as it is. Raises ConfigurationError."""
    if reference.startswith("env:"):
        value = os.environ.get(reference[4:])
        if value is None:
            raise ConfigurationError(f"{what} asks for the variable {reference[4:]}, which is not set.")
        return value
    if reference.startswith("file:"):
        try:
            return (base / reference[5:]).read_text("utf-8").strip()
        except OSError as error:
            raise ConfigurationError(f"{what} asks for a file that cannot be read ({error.strerror}).") from error
    return reference
