"""The one place where the service is wired to the core: sources, models, writer, pool, bus."""

from __future__ import annotations

import datetime as dt
import time
from pathlib import Path
from typing import TYPE_CHECKING

import structlog

from harquel.contract import Inquiry, ProblemNote
from harquel.core.domain.catalog import Catalog
from harquel.core.domain.person import Person
from harquel.core.domain.policy import Policy
from harquel.core.errors import ConfigurationError
from harquel.core.inquiry import conduct, go_on
from harquel.core.llm import ChatCompletions, ModelProfile
from harquel.core.scanning import compare
from harquel.service import metrics
from harquel.service.asking import AskingPool, Ticket
from harquel.service.bus import END, Bus
from harquel.service.config import HarquelConfig, ModelSection, resolve_secret
from harquel.service.records.writer import Writer
from harquel.service.sources.models import SourceState, StoredSource
from harquel.service.sources.specs import SourceSpec, stored_spec

if TYPE_CHECKING:
    from harquel.service.sources.live import LiveSource

log = structlog.get_logger("harquel")


class Runtime:
    """All that lives as long as the service does."""

    def __init__(self, config: HarquelConfig) -> None:
        """Raises ConfigurationError for a file of a source that cannot be used."""
        from harquel.service.records.usable import Probe
        from harquel.service.sources.live import Builder
        from harquel.service.sources.upkeep import Upkeep
        from harquel.service.sources.vault import Vault

        self.config = config
        self.writer, self.bus, self.vault = Writer(), Bus(), Vault(config.data_dir)
        self.probe = Probe(self.writer, config.data_dir)
        self._models = {name: _model(name, m, config.base) for name, m in config.models.items()}
        self.builder = Builder(
            config.base, config.data_dir, self.writer, self.model_for, self.second_model_for, {}, self._catalog_changed
        )  # fmt: skip
        self.sources: dict[str, LiveSource] = {}
        self._still = False
        self._pending: dict[str, tuple[Inquiry, dt.datetime, Person, str]] = {}
        try:
            for name, section in config.sources.items():
                self.add(SourceSpec(name, section, "file"))
            for stored in StoredSource.objects.exclude(name__in=config.sources):
                self._add_stored(stored)
        except BaseException:
            self._close_sources()
            self.writer.close()
            raise
        self.pool = AskingPool(self._work, config.service.askers, config.service.waiting)
        self.upkeep = Upkeep(
            lambda: self.sources, self.writer, config.base, config.service.look_every_s,
            # While everything stands still, a starter would only seem not to work.
            lambda: self.pool.under_way() + self._still,
            self.bus,
        )  # fmt: skip

    def add(self, spec: SourceSpec) -> LiveSource:
        """Makes a source and takes it in, instead of an earlier one of that name. Raises ConfigurationError."""
        state = SourceState.objects.filter(source=spec.name).first()
        live = self.builder.build(spec, state.enabled if state is not None else True)
        live.core.sandbox.stand_still(self._still)
        earlier, self.sources = self.sources.get(spec.name), {**self.sources, spec.name: live}
        if earlier is not None:
            earlier.close()
        return live

    def drop(self, name: str) -> None:
        """Lets a source go; inquiries under way end with an error of their own."""
        live = self.sources[name]
        self.sources = {n: s for n, s in self.sources.items() if n != name}
        live.close()

    def _add_stored(self, stored: StoredSource) -> None:
        """A source of the records that cannot be made must not keep the service from starting."""
        try:
            self.add(stored_spec(stored, self.vault))
        except ConfigurationError as error:
            log.warning("source left out", source=stored.name, error=str(error), hint=error.hint)

    def standing_still(self) -> bool:
        """Whether every statement is stopped."""
        return self._still

    def stand_still(self, on: bool) -> None:
        """For every source there is, and for those that come."""
        self._still = on
        for source in self.sources.values():
            source.core.sandbox.stand_still(on)

    def model_for(self, name: str | None, policy: Policy, source: str) -> ChatCompletions:
        """The model that drafts for a source. Raises ConfigurationError when there is none, or none that is allowed."""
        if self.config.duties is None:
            raise ConfigurationError("No model is named for drafting.", 'Add [duties] with draft = "NAME of a model".')
        chosen = name or self.config.duties.draft
        if chosen not in self._models:
            raise ConfigurationError(f"The model {chosen!r} is not configured.", f"Known: {', '.join(self._models)}.")
        if policy.prompts.models and chosen not in policy.prompts.models:
            raise ConfigurationError(
                f"The policy of {source} does not let anything leave for the model {chosen!r}.",
                f"Allowed there: {', '.join(policy.prompts.models)}. Name one of them as draft of the source.",
            )
        return self._models[chosen]

    def second_model_for(self, name: str | None, policy: Policy, source: str) -> ChatCompletions | None:
        """The one for second opinions; None when there is only the one that drafts. Raises ConfigurationError."""
        if name is not None:
            return self.model_for(name, policy, source)
        common = self.config.duties.second_opinion if self.config.duties is not None else None
        allowed = common is not None and (not policy.prompts.models or common in policy.prompts.models)
        return self.model_for(common, policy, source) if allowed else None

    def _catalog_changed(self, name: str, old: Catalog | None, new: Catalog) -> None:
        """A new version: it goes on record, and the examples are checked against it."""
        from harquel.service.ledger.append import append
        from harquel.service.sources.live import check_examples

        changes = compare(old, new) if old is not None else []
        facts = {
            "source": name, "version": new.number, "fingerprint": new.fingerprint, "tables": len(new.tables),
            "changes": [{"kind": c.kind, "table": c.table, "column": c.column} for c in changes[:50]],
        }  # fmt: skip
        self.writer.submit(lambda: append(who="service", kind="catalog-changed", facts=facts))
        live = self.sources.get(name)
        if live is not None and (old is None or old.fingerprint != new.fingerprint):
            stale = check_examples(live, self.writer)
            if stale:
                log.warning("examples became stale", source=name, questions=stale)
            self.upkeep.wake()

    def launch(self, ticket: Ticket, inquiry: Inquiry, now: dt.datetime, person: Person, released: str = "") -> None:
        """Puts a stored inquiry in line. The ticket was reserved before it was stored.

        `released` is who let a held statement run.
        """
        self._pending[inquiry.id] = (inquiry, now, person, released)
        self.pool.enter(ticket, inquiry.id)

    def _work(self, ticket: Ticket) -> None:
        from harquel.service.inquiries.recording import RecordingWatcher, mark_working
        from harquel.service.inquiries.unkept import keep_for_later

        inquiry, now, person, released = self._pending.pop(ticket.key)
        inquiry.timings.queued_ms = round((time.monotonic() - ticket.taken_at) * 1000, 2)
        inquiry.state = "working"
        self.writer.submit(lambda: mark_working(inquiry.id))
        watcher = RecordingWatcher(inquiry, self.writer, self.bus, ticket.cancelled.is_set)
        try:
            source = self.sources.get(inquiry.source)
            if source is None:
                inquiry.state, inquiry.outcome = "ended", "failed"
                inquiry.problem = ProblemNote(
                    type="source-gone", title=f"The source {inquiry.source} was taken away before this was its turn.",
                    hint="Ask another source.",
                )  # fmt: skip
            elif released:
                inquiry = go_on(inquiry, source.core, watcher, now, person, released)
            else:
                inquiry = conduct(inquiry, source.core, watcher, now, person)
        except Exception:  # a mistake of ours must not leave an inquiry hanging
            log.exception("inquiry broke", inquiry=inquiry.id)
            inquiry.state, inquiry.outcome, inquiry.answer, inquiry.trust = "ended", "failed", None, None
            inquiry.problem = ProblemNote(
                type="internal",
                title="Something broke on our side.",
                hint="The service's log says what; tell the operator.",
            )
        try:
            self.writer.do(lambda: watcher.store(inquiry))
        except Exception as error:
            log.exception("the end of an inquiry could not be recorded", inquiry=inquiry.id)
            keep_for_later(inquiry, error, self.writer)
        if inquiry.state == "held":
            self.bus.tell(inquiry.id, END)
            return
        metrics.ended(inquiry)
        log.info(
            "inquiry ended", inquiry=inquiry.id, source=inquiry.source, outcome=inquiry.outcome,
            attempts=len(inquiry.attempts), total_ms=inquiry.timings.total_ms, own_ms=inquiry.timings.own_ms,
        )  # fmt: skip
        self.bus.tell(inquiry.id, END)

    def close(self, within_s: float = 8.0) -> None:
        """Ends everything that was started, in the order that loses nothing."""
        self.pool.close(within_s)
        self.upkeep.close()
        self._close_sources()
        self.writer.close()
        for model in self._models.values():
            model.close()

    def _close_sources(self) -> None:
        for source in self.sources.values():
            source.close()
        for source in self.sources.values():
            source.keeper.wait(3.0)


def _model(name: str, section: ModelSection, base: Path) -> ChatCompletions:
    key = resolve_secret(section.key, base, f"models.{name}.key") if section.key else None
    return ChatCompletions(
        ModelProfile(
            section.base_url, section.name, key, section.temperature, section.timeout_s,
            section.prompt_price, section.completion_price,
        )
    )  # fmt: skip


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
