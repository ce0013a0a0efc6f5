"""What of the configuration counts without a restart: models, their keys and prices, duties and budgets.

Everything is made before anything is changed: a file with a fault changes nothing. What is under way goes on with what
it began with.
"""

from __future__ import annotations

import threading
from collections.abc import Iterator
from typing import Final

from harquel.contract import Reloaded, events
from harquel.core.errors import ConfigurationError
from harquel.service.config import DUTIES, HarquelConfig, SourceSection, load_config
from harquel.service.duties import Duties
from harquel.service.ledger.append import append
from harquel.service.operations import NO_SUBJECT, Call, Nothing, operation
from harquel.service.runtime import Runtime, runtime

_one_at_a_time: Final = threading.Lock()


@operation(
    "configuration.reload", takes=Nothing, gives=Reloaded, scope="admin", about=NO_SUBJECT, repeat="anew",
    entries=("configuration-reloaded",),
)  # fmt: skip
def reload_configuration(call: Call[Nothing, None]) -> Reloaded:
    """Reads harquel.toml and the secrets that it names again: models, prices, duties and budgets count from now on."""
    return reload(runtime(), call.caller.name)


def reload(live: Runtime, who: str) -> Reloaded:
    """Raises ConfigurationError for a file that cannot be used; then everything is as it was."""
    with _one_at_a_time:
        old = live.config
        if old.file is None:
            raise ConfigurationError("This service was not started from a file.", "Start it with --config FILE.")
        new = load_config(old.file)
        duties = Duties(new, live.duties)
        taken = _with_duties(old, new)
        chosen = [(source, duties.of(taken.sources.get(name, source.spec.section), source.core.policy, name))
                  for name, source in live.sources.items()]  # fmt: skip
        for source, models in chosen:
            source.ask_models(models)
        live.take_on(taken, duties)
        done = Reloaded(changed=list(_changed(old, new)), needs_restart=list(_for_a_restart(old, new)))
        what = events.ConfigurationReloaded(changed=done.changed)
        live.writer.do(lambda: append(who=who, what=what))
        return done


def _with_duties(old: HarquelConfig, new: HarquelConfig) -> HarquelConfig:
    """The old one with all that counts at once."""
    sources = {
        name: section.model_copy(update={duty: getattr(new.sources[name], duty) for duty in DUTIES})
        if name in new.sources else section
        for name, section in old.sources.items()
    }  # fmt: skip
    more = {"models": new.models, "duties": new.duties, "budgets": new.budgets, "sources": sources}
    return old.model_copy(update=more)


def _changed(old: HarquelConfig, new: HarquelConfig) -> Iterator[str]:
    for name in sorted({*old.models, *new.models}):
        if old.models.get(name) != new.models.get(name):
            yield f"models.{name}"
    for part in ("duties", "budgets"):
        if getattr(old, part) != getattr(new, part):
            yield part
    for name in sorted(old.sources.keys() & new.sources.keys()):
        if any(getattr(old.sources[name], duty) != getattr(new.sources[name], duty) for duty in DUTIES):
            yield f"sources.{name}"


def _for_a_restart(old: HarquelConfig, new: HarquelConfig) -> Iterator[str]:
    """What is otherwise in the file and counts only once the service is started again."""
    if old.service != new.service:
        yield "service"
    for name in sorted({*old.sources, *new.sources}):
        if _connection(old.sources.get(name)) != _connection(new.sources.get(name)):
            yield f"sources.{name}"


def _connection(section: SourceSection | None) -> dict[str, object] | None:
    return section.model_dump(exclude=set(DUTIES)) if section is not None else None
