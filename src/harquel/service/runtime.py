"""The one place where the service is wired together: writer, bus, models, sources, inquiries under way, upkeep."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial

import structlog

from harquel.contract import events
from harquel.core.domain.catalog import Catalog
from harquel.core.scanning import compare
from harquel.service.bus import Bus
from harquel.service.chat.chats import Chat, chats_of
from harquel.service.chat.inbox import Inbox
from harquel.service.conductors.pool import Conductors
from harquel.service.config import HarquelConfig
from harquel.service.deliveries import Deliveries
from harquel.service.duties import Duties
from harquel.service.inquiries.models import StoredInquiry
from harquel.service.inquiries.retention import Retention
from harquel.service.inquiries.under_way import UnderWay
from harquel.service.ledger.append import append
from harquel.service.outbox.carriers import Carriers
from harquel.service.outbox.outbox import Outbox
from harquel.service.records.usable import Probe
from harquel.service.records.writer import Writer
from harquel.service.reuse import Reuse
from harquel.service.sources.live import Builder, check_examples
from harquel.service.sources.registry import Sources
from harquel.service.sources.upkeep import Upkeep
from harquel.service.sources.vault import Vault
from harquel.service.standing import stood_still
from harquel.service.templates import prompts_of
from harquel.service.usage.meter import Meter
from harquel.service.watches.clock import Clock

log = structlog.get_logger("harquel")


class Runtime:
    """All that lives as long as the service does."""

    def __init__(self, config: HarquelConfig, conductors: Conductors) -> None:
        """Closes `conductors` with itself. Raises ConfigurationError for a file of a source that cannot be used."""
        self.config = config
        self.writer, self.bus, self.vault = Writer(), Bus(), Vault(config.data_dir)
        self.conductors = conductors
        self.deliveries = Deliveries(config.data_dir, config.service.deliveries_mb * 1_000_000)
        conductors.deliver = self.deliveries.write
        self.meter = Meter(config.budgets, self.writer)
        self.outbox = Outbox(self.writer, lambda: self.carriers, self._may_go, lambda: self.sources.standing_still())
        self.inbox = Inbox(self.writer)
        self.clock = Clock(self.writer, lambda: self.sources.standing_still())
        self.reuse = Reuse(lambda: self.config.duties.reuse_s if self.config.duties is not None else 0.0)
        conductors.recalling = self.reuse.of
        conductors.paying = lambda person, source, inquiry: self.meter.account(person, source, inquiry).call
        self._deleted(self.deliveries.begin(), "unfinished")
        try:
            self.probe = Probe(self.writer, config.data_dir)
            self.duties = Duties(config)
            self.carriers, self.chats = Carriers(config), chats_of(config)
            builder = Builder(
                config.base, config.data_dir, self.writer, lambda: self.duties,
                lambda section: prompts_of(self.config, section), {}, self._catalog_changed,
            )  # fmt: skip
            self.sources = Sources(builder.build, self.vault, still=stood_still())
            try:
                self.sources.load(config)
            except BaseException:
                self.sources.close()
                raise
        except BaseException:
            self.conductors.close()
            self.writer.close()
            raise
        self.inquiries = UnderWay(
            self.sources, self.conductors, self.writer, self.bus, config.service.askers, config.service.waiting,
            lambda: self.duties, self.reuse.settle,
        )  # fmt: skip
        self.retention = Retention(self.sources, self.writer)
        self.upkeep = Upkeep(
            self.sources, self.conductors, self.writer, config.base, config.service.look_every_s,
            # While everything stands still, a starter would only seem not to work.
            lambda: self.inquiries.pool.under_way() + self.sources.standing_still(),
            self.bus, config.service.try_starters, self._tidy,
        )  # fmt: skip

    def _tidy(self) -> None:
        self._deleted(self.deliveries.sweep(), "expired")
        self.retention.look()

    def _deleted(self, keys: list[str], why: str) -> None:
        for key in keys:
            self.writer.submit(partial(append, who="service", what=events.FileDeleted(why=why), inquiry=key))

    def _catalog_changed(self, name: str, old: Catalog | None, new: Catalog) -> None:
        """A new version: it goes on record, and the examples are checked against it."""
        changes = compare(old, new) if old is not None else []
        what = events.CatalogChanged(
            source=name, version=new.number, fingerprint=new.fingerprint, tables=len(new.tables),
            changes=[events.CatalogChange(kind=c.kind, table=c.table, column=c.column) for c in changes[:50]],
        )  # fmt: skip
        self.writer.submit(lambda: append(who="service", what=what))
        live = self.sources.get(name)
        if live is not None and (old is None or old.fingerprint != new.fingerprint):
            stale = check_examples(live, self.conductors, self.writer)
            if stale:
                log.warning("examples became stale", source=name, questions=stale)
            self.upkeep.wake()

    def _may_go(self, inquiry: str, destination: str) -> bool:
        """Whether the policy of now lets the answer of an inquiry go somewhere."""
        name = StoredInquiry.objects.filter(key=inquiry).values_list("source", flat=True).first()
        source = self.sources.get(name) if name is not None else None
        allowed = source.core.policy.sending if source is not None else None
        return allowed is not None and allowed.lets(destination)

    def take_on(self, config: HarquelConfig, duties: Duties, carriers: Carriers, chats: Mapping[str, Chat]) -> None:
        """From now on these count; see reload.py."""
        self.config, self.duties, self.carriers, self.chats = config, duties, carriers, chats
        self.meter.budgets = config.budgets

    def close(self, within_s: float = 8.0) -> None:
        """Ends everything that was started, in the order that loses nothing."""
        self.inquiries.pool.close(within_s)
        self.clock.close()
        self.inbox.close()
        self.outbox.close()
        self.upkeep.close()
        self.conductors.close()
        self.sources.close()
        self.writer.close()
        self.duties.close()


_current: Runtime | None = None


def start(config: HarquelConfig, conductors: Conductors) -> Runtime:
    """Makes the runtime of this process."""
    global _current
    _current = Runtime(config, conductors)
    return _current


def runtime() -> Runtime:
    """The running one. Raises RuntimeError before `start`."""
    if _current is None:
        raise RuntimeError("the service was not started")
    return _current
