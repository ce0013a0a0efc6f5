"""The one place where the service is wired to the core: sources, models, writer, pool, bus."""

from __future__ import annotations

import datetime as dt
import time
from dataclasses import dataclass
from pathlib import Path
from typing import TypeVar

import structlog
import yaml
from pydantic import BaseModel, TypeAdapter, ValidationError

from harquel.contract import Inquiry, ProblemNote
from harquel.core.clock import utc_now
from harquel.core.curation import load_examples
from harquel.core.domain.notes import Notes
from harquel.core.domain.policy import DEFAULT_POLICY, Policy
from harquel.core.engines import Engine, engine_for
from harquel.core.errors import ConfigurationError
from harquel.core.inquiry import Source, conduct
from harquel.core.llm import ChatCompletions, ModelProfile
from harquel.core.sandbox import Sandbox, SandboxLimits
from harquel.core.scanning import CatalogKeeper
from harquel.service import metrics
from harquel.service.asking import AskingPool, Ticket
from harquel.service.bus import END, Bus
from harquel.service.config import HarquelConfig, ModelSection, SourceSection, explained, resolve_secret
from harquel.service.records.writer import Writer

M = TypeVar("M", bound=BaseModel)
log = structlog.get_logger("harquel")


@dataclass(frozen=True)
class LiveSource:
    """A configured source, ready to be asked. `core` is what the way of a question needs of it."""

    name: str
    title: str
    as_of: dt.datetime | None
    starters: tuple[str, ...]
    engine: Engine
    keeper: CatalogKeeper
    core: Source

    def now(self, asked: dt.datetime | None) -> dt.datetime:
        """The instant that questions are about: the asker's, the source's own, or the present."""
        return (asked or self.as_of or utc_now()).astimezone(dt.UTC)


class Runtime:
    """All that lives as long as the service does."""

    def __init__(self, config: HarquelConfig) -> None:
        """Raises ConfigurationError for a file of a source that cannot be used."""
        self.config = config
        self.writer, self.bus = Writer(), Bus()
        self._models = {name: _model(name, m, config.base) for name, m in config.models.items()}
        self.sources = {name: self._source(name, s) for name, s in config.sources.items()}
        self._pending: dict[str, tuple[Inquiry, dt.datetime]] = {}
        self.pool = AskingPool(self._work, config.service.askers, config.service.waiting)

    def _source(self, name: str, section: SourceSection) -> LiveSource:
        base = self.config.base
        engine = engine_for(resolve_secret(section.url, base, f"sources.{name}.url"), base)
        policy = _yaml(base / section.policy, Policy) if section.policy else DEFAULT_POLICY
        notes = _yaml(base / section.notes, Notes) if section.notes else Notes()
        examples = load_examples(base / section.examples, engine.name) if section.examples else ()
        starters = _starters(base / section.starters) if section.starters else ()
        sandbox = Sandbox(engine, SandboxLimits.of(policy.limits), section.workers)
        keeper = CatalogKeeper(engine, lambda: policy)
        assert self.config.duties is not None
        model = self._models[section.draft or self.config.duties.draft]
        core = Source(name, engine.name, keeper.current, policy, notes, examples, sandbox, model)
        as_of = section.as_of
        if as_of is not None and as_of.tzinfo is None:
            as_of = as_of.replace(tzinfo=dt.UTC)
        return LiveSource(name, section.title, as_of, starters, engine, keeper, core)

    def launch(self, ticket: Ticket, inquiry: Inquiry, now: dt.datetime) -> None:
        """Puts a stored inquiry in line. The ticket was reserved before it was stored."""
        self._pending[inquiry.id] = (inquiry, now)
        self.pool.enter(ticket, inquiry.id)

    def _work(self, ticket: Ticket) -> None:
        from harquel.service.inquiries.recording import RecordingWatcher, mark_working, store_end

        inquiry, now = self._pending.pop(ticket.key)
        source = self.sources[inquiry.source].core
        inquiry.timings.queued_ms = round((time.monotonic() - ticket.taken_at) * 1000, 2)
        inquiry.state = "working"
        self.writer.submit(lambda: mark_working(inquiry.id))
        watcher = RecordingWatcher(inquiry, self.writer, self.bus, ticket.cancelled.is_set)
        try:
            conduct(inquiry, source, watcher, now)
        except Exception:  # a mistake of ours must not leave an inquiry hanging
            log.exception("inquiry broke", inquiry=inquiry.id)
            inquiry.state, inquiry.outcome, inquiry.answer, inquiry.trust = "ended", "failed", None, None
            inquiry.problem = ProblemNote(
                type="internal",
                title="Something broke on our side.",
                hint="The service's log says what; tell the operator.",
            )
        try:
            self.writer.do(lambda: store_end(inquiry))
        except Exception:
            log.exception("the end of an inquiry could not be recorded; the next start closes it", inquiry=inquiry.id)
        metrics.ended(inquiry)
        log.info(
            "inquiry ended", inquiry=inquiry.id, source=inquiry.source, outcome=inquiry.outcome,
            attempts=len(inquiry.attempts), total_ms=inquiry.timings.total_ms, own_ms=inquiry.timings.own_ms,
        )  # fmt: skip
        self.bus.tell(inquiry.id, END)

    def close(self, within_s: float = 8.0) -> None:
        """Ends everything that was started, in the order that loses nothing."""
        self.pool.close(within_s)
        for source in self.sources.values():
            source.core.sandbox.close()
        self.writer.close()
        for model in self._models.values():
            model.close()


def _model(name: str, section: ModelSection, base: Path) -> ChatCompletions:
    key = resolve_secret(section.key, base, f"models.{name}.key") if section.key else None
    return ChatCompletions(
        ModelProfile(
            section.base_url, section.name, key, section.temperature, section.timeout_s,
            section.prompt_price, section.completion_price,
        )
    )  # fmt: skip


def _read_yaml(path: Path) -> object:
    try:
        return yaml.safe_load(path.read_text("utf-8"))
    except OSError as error:
        raise ConfigurationError(
            f"{path} cannot be read ({error.strerror}).", "Check its path in harquel.toml."
        ) from error
    except yaml.YAMLError as error:
        raise ConfigurationError(f"{path} is not valid YAML: {' '.join(str(error).split())}.") from error


def _yaml(path: Path, model: type[M]) -> M:
    try:
        return model.model_validate(_read_yaml(path) or {})
    except ValidationError as error:
        raise explained(error, path.name, model) from error


def _starters(path: Path) -> tuple[str, ...]:
    try:
        return TypeAdapter(tuple[str, ...]).validate_python(_read_yaml(path) or ())
    except ValidationError as error:
        raise ConfigurationError(f"{path} must be a list of questions.") from error


_current: Runtime | None = None


def start(config: HarquelConfig) -> Runtime:
    """Makes the runtime of this process."""
    global _current
    _current = Runtime(config)
    return _current


def runtime() -> Runtime:
    """The running one. Raises RuntimeError before `start`."""
    if _current is None:
        raise RuntimeError("the service was not started")
    return _current
