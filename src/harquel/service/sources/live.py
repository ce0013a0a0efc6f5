"""A source at work: engine, keeper, sandbox, and the documents that say what it means and what it shows."""

from __future__ import annotations

import datetime as dt
import hashlib
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import TypeVar

import structlog
import yaml

from harquel.contract import events
from harquel.core.briefing import Describer, TokenGauge
from harquel.core.clock import utc_now
from harquel.core.curation import dumped, read_document, read_pairs, read_yaml
from harquel.core.domain.catalog import Catalog
from harquel.core.domain.examples import Example
from harquel.core.domain.fresh import Written
from harquel.core.domain.notes import Notes
from harquel.core.domain.policy import DEFAULT_POLICY, Policy
from harquel.core.engines import Engine
from harquel.core.errors import ConfigurationError, CoreError
from harquel.core.inquiry.source import Source
from harquel.core.prompts import Prompts
from harquel.core.sandbox import Sandbox, SandboxLimits
from harquel.core.scanning import CatalogKeeper
from harquel.service.conductors.pool import Conductors
from harquel.service.config import SourceSection
from harquel.service.duties import Duties, OfSource
from harquel.service.ledger.append import append
from harquel.service.records.writer import Writer

from .catalogs import RecordedCatalogs, ScanRecorder
from .models import SourceDocument, StoredExample
from .specs import SourceSpec, engine_of, must_not_be_ours

log = structlog.get_logger("harquel")
_ACCOUNT_S = 600.0
D = TypeVar("D", Notes, Policy)


@dataclass
class LiveSource:
    """A source, ready to be asked. `core` is what the way of a question needs of it and is replaced, not changed."""

    spec: SourceSpec
    engine: Engine
    keeper: CatalogKeeper
    scans: ScanRecorder
    core: Source
    sandbox: Sandbox
    enabled: bool = True
    starters: tuple[str, ...] = ()
    _written: Written | None = None
    _account: tuple[float, str] | None = None
    _lock: threading.Lock = field(default_factory=threading.Lock)

    @property
    def name(self) -> str:
        """Its name."""
        return self.spec.name

    @property
    def title(self) -> str:
        """What people see beside the name."""
        return self.spec.section.title

    def now(self, asked: dt.datetime | None) -> dt.datetime:
        """The instant that questions are about: the asker's, the source's own, or the present."""
        return (asked or self.spec.as_of or utc_now()).astimezone(dt.UTC)

    def written(self) -> Written | None:
        """Up to when its data were written, where it is a file or a replica. A server was asked at the last look."""
        return self._written if self.engine.stoppable else self.engine.written()

    def look_when_written(self) -> None:
        """Asks the server, in the background."""
        if self.engine.stoppable:
            self._written = self.engine.written()

    def describe(self, policy: Policy, notes: Notes) -> None:
        """From now on these count; what is under way keeps the old ones."""
        with self._lock:
            self.core = replace(self.core, describer=Describer(policy, notes))
            self.sandbox.limits, self.sandbox.calendar = SandboxLimits.of(policy.limits), notes.calendar

    def ask_models(self, models: OfSource, prompts: Prompts) -> None:
        """From now on these are asked; what is under way goes on with the old ones."""
        with self._lock:
            self.core = replace(self.core, **vars(models), prompts=prompts)

    def account_fault(self) -> str:
        """What the account could do beyond reading, when the policy forbids that; asked anew every ten minutes."""
        if not self.core.policy.require_read_only_account:
            return ""
        known = self._account
        if known is None or time.monotonic() - known[0] > _ACCOUNT_S:
            steps = {s.name: s for s in self.engine.check(self.core.policy)}
            step = steps.get("writing")
            fault = "It could not be made out what the account may do." if step is None else step.said
            self._account = known = (time.monotonic(), "" if step is not None and step.verdict == "well" else fault)
        return known[1]

    def close(self) -> None:
        """Ends workers, connections and a scan under way; what the scan has seen stays for the next one."""
        self.keeper.stop()
        self.sandbox.close()
        self.engine.close()


@dataclass(frozen=True)
class Builder:
    """Makes live sources. `changed` hears of every new catalog, after examples were checked against it."""

    base: Path
    data_dir: Path
    writer: Writer
    duties: Callable[[], Duties]
    prompts: Callable[[SourceSection], Prompts]
    gauges: dict[str, TokenGauge]
    changed: Callable[[str, Catalog | None, Catalog], None]

    def build(self, spec: SourceSpec, enabled: bool = True) -> LiveSource:
        """Raises ConfigurationError for a file or value that cannot be used."""
        section = spec.section
        engine = engine_of(spec, self.base)
        must_not_be_ours(engine, self.data_dir)
        policy = self._document(spec, "policy", section.policy, DEFAULT_POLICY)
        notes = self._document(spec, "notes", section.notes, Notes())
        self._file_examples(spec, engine.name)
        models, prompts = self.duties().of(section, policy, spec.name), self.prompts(section)
        scans = ScanRecorder(spec.name, self.writer)
        live: list[LiveSource] = []
        keeper = CatalogKeeper(
            engine, lambda: live[0].core.policy if live else policy, RecordedCatalogs(spec.name, self.writer),
            lambda old, new: self.changed(spec.name, old, new), scans.told,
            mark=lambda catalog: live[0].core.describer.marked(catalog) if live else catalog,
        )  # fmt: skip
        sandbox = Sandbox(engine, SandboxLimits.of(policy.limits), section.workers)
        sandbox.calendar = notes.calendar
        gauge = self.gauges.setdefault(models.model.profile.name, TokenGauge())
        core = Source(
            spec.name, engine.name, keeper.current, keeper.refreshed, Describer(policy, notes),
            lambda: usable_examples(spec.name), engine.grant, sandbox, models.model, gauge,
            second=models.second, reader=models.reader, worder=models.worder, follower=models.follower,
            prompts=prompts,
            account_fault=lambda: live[0].account_fault(),
            written=lambda: live[0].written(),
        )  # fmt: skip
        live.append(LiveSource(spec, engine, keeper, scans, core, sandbox, enabled))
        return live[0]

    def _document(self, spec: SourceSpec, kind: str, path: str | None, default: D) -> D:
        """The newest version in the records; a file that changed since it was last read becomes one first."""
        if path is not None:
            text = _read(self.base / path)
            digest = hashlib.sha256(text.encode()).hexdigest()
            read_document(text, type(default), Path(path).name)
            known = (
                SourceDocument.objects.filter(source=spec.name, kind=kind, origin="file").order_by("-number").first()
            )
            if known is None or known.digest != digest:
                self.writer.do(lambda: keep_document(spec.name, kind, text, "service", "file", f"from {path}"))
        newest = newest_document(spec.name, kind)
        if newest is None:
            return default
        return read_document(newest.text, type(default), f"{kind} of {spec.name}")

    def _file_examples(self, spec: SourceSpec, engine: str) -> None:
        """Pairs of the file that the bank does not hold yet, and those that the file no longer holds."""
        path = spec.section.examples
        if path is None:
            return
        pairs = read_pairs(_read(self.base / path), "yaml", Path(path).name)

        def settle() -> None:
            known = {e.question: e for e in StoredExample.objects.filter(source=spec.name, origin="file")}
            for pair in pairs:
                found = known.pop(pair.question, None)
                if found is None:
                    StoredExample.objects.create(
                        source=spec.name, question=pair.question, sql=pair.sql, tags=list(pair.tags),
                        author=pair.author, origin="file",
                    )  # fmt: skip
                elif found.sql != pair.sql:
                    found.sql, found.state = pair.sql, "new"
                    found.save()
            for gone in known.values():
                gone.delete()

        self.writer.do(settle)


def newest_document(source: str, kind: str) -> SourceDocument | None:
    """The version that counts."""
    return SourceDocument.objects.filter(source=source, kind=kind).order_by("-number").first()


def keep_document(source: str, kind: str, text: str, who: str, origin: str, said: str = "") -> int:
    """A new version, with its ledger entry; returns its number. Runs inside the writer."""
    last = newest_document(source, kind)
    number = (last.number if last else 0) + 1
    digest = hashlib.sha256(text.encode()).hexdigest()
    SourceDocument.objects.create(
        source=source, kind=kind, number=number, text=text, digest=digest, who=who, origin=origin, said=said[:300]
    )
    what = events.DocumentChanged(source=source, kind=kind, number=number, origin=origin, digest=digest)
    append(who=who, what=what, texts={"text": text})
    return number


def document_text(source: str, kind: str, current: Policy | Notes) -> str:
    """The text to edit: the newest version, or what counts without any."""
    newest = newest_document(source, kind)
    if newest is not None:
        return newest.text
    return dumped(current.model_dump(mode="json", exclude_defaults=True)) if current.model_fields_set else "{}\n"


def usable_examples(source: str) -> tuple[Example, ...]:
    """The pairs that may go into prompts: those that were checked and still hold."""
    found = StoredExample.objects.filter(source=source, state="checked").order_by("pk")
    return tuple(Example(q, sql, tuple(tables)) for q, sql, tables in found.values_list("question", "sql", "tables"))


def check_examples(
    source: LiveSource, conductors: Conductors, writer: Writer, only: tuple[int, ...] | None = None
) -> list[str]:  # fmt: skip
    """Checks the bank, or some of it, against the database as it is; returns the questions that became stale."""
    stale, known = [], source.keeper.known()
    core = replace(source.core, catalog=lambda _: known) if known is not None else source.core
    for example in StoredExample.objects.filter(source=source.name).exclude(state="off").order_by("pk"):
        if only is not None and example.pk not in only:
            continue
        try:
            found = conductors.check(example.sql, core)
        except CoreError as error:
            log.warning("examples could not be checked", source=source.name, error=str(error))
            break
        if found.state == "stale" and example.state != "stale":
            stale.append(example.question)
        values = {"state": found.state, "said": found.said, "tables": list(found.tables), "checked_at": utc_now()}
        key = example.pk
        writer.do(lambda key=key, values=values: StoredExample.objects.filter(pk=key).update(**values))  # type: ignore[misc]
    return stale


def _read(path: Path) -> str:
    try:
        return path.read_text("utf-8")
    except (OSError, UnicodeDecodeError) as error:
        why = getattr(error, "strerror", None) or "not UTF-8"
        raise ConfigurationError(f"{path} cannot be read ({why}).", "Check its path in harquel.toml.") from error


def given_starters(spec: SourceSpec, base: Path) -> tuple[str, ...]:
    """The questions of the source's own file. Raises ConfigurationError."""
    path = spec.section.starters
    if path is None:
        return ()
    try:
        found = read_yaml(_read(base / path)) or []
    except yaml.YAMLError as error:
        raise ConfigurationError(f"{path} is not valid YAML.") from error
    if not isinstance(found, list) or not all(isinstance(q, str) for q in found):
        raise ConfigurationError(f"{base / path} must be a list of questions.")
    return tuple(found)
