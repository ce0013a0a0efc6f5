"""What of the configuration counts without a restart: models, keys, prices, duties, budgets, templates of prompts.

Everything is made before anything is changed: a file with a fault changes nothing. What is under way goes on with what
it began with.
"""

from __future__ import annotations

import threading
from collections.abc import Iterator
from typing import Final

from harquel.contract import Reloaded, events
from harquel.core.errors import ConfigurationError
from harquel.service.chat.chats import chats_of
from harquel.service.config import DUTIES, HarquelConfig, SourceSection, load_config
from harquel.service.duties import Duties
from harquel.service.ledger.append import append
from harquel.service.operations import NO_SUBJECT, Call, Nothing, operation
from harquel.service.outbox.carriers import Carriers
from harquel.service.runtime import Runtime, runtime
from harquel.service.templates import prompts_of

_AT_ONCE: Final = (*DUTIES, "prompts")
"""Fields of a source that count without a restart."""
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
        chosen = []
        for name, source in live.sources.items():
            section = taken.sources.get(name, source.spec.section)
            models = duties.of(section, source.core.policy, name)
            chosen.append((source, models, prompts_of(taken, section)))
        carriers, chats = Carriers(taken), chats_of(taken)
        others = [source.spec.name for source, _, prompts in chosen if prompts.own != source.core.prompts.own]
        # A reference that is as it was can lead to another secret.
        keys = [
            f"models.{name}.key" for name, section in new.models.items()
            if old.models.get(name) == section and live.duties.models.get(name) is not duties.models[name]
        ]  # fmt: skip
        for source, models, prompts in chosen:
            source.ask_models(models, prompts)
        live.take_on(taken, duties, carriers, chats)
        live.reuse.forget()
        changed = [*_changed(old, new), *keys, *(f"sources.{name}.prompts" for name in others)]
        done = Reloaded(changed=changed, needs_restart=list(_for_a_restart(old, new)))
        what = events.ConfigurationReloaded(changed=done.changed)
        live.writer.do(lambda: append(who=who, what=what))
        return done


def _with_duties(old: HarquelConfig, new: HarquelConfig) -> HarquelConfig:
    """The old one with all that counts at once."""
    sources = {
        name: section.model_copy(update={part: getattr(new.sources[name], part) for part in _AT_ONCE})
        if name in new.sources else section
        for name, section in old.sources.items()
    }  # fmt: skip
    service = old.service.model_copy(update={"prompts": new.service.prompts})
    more = {"service": service, "models": new.models, "duties": new.duties, "budgets": new.budgets, "sources": sources}
    more |= {"destinations": new.destinations, "mail": new.mail, "chats": new.chats}
    return old.model_copy(update=more)


def _changed(old: HarquelConfig, new: HarquelConfig) -> Iterator[str]:
    for name in sorted({*old.models, *new.models}):
        if old.models.get(name) != new.models.get(name):
            yield f"models.{name}"
    for part in ("duties", "budgets", "destinations", "mail", "chats"):
        if getattr(old, part) != getattr(new, part):
            yield part
    for name in sorted(old.sources.keys() & new.sources.keys()):
        if any(getattr(old.sources[name], duty) != getattr(new.sources[name], duty) for duty in DUTIES):
            yield f"sources.{name}"


def _for_a_restart(old: HarquelConfig, new: HarquelConfig) -> Iterator[str]:
    """What is otherwise in the file and counts only once the service is started again."""
    if old.service != new.service.model_copy(update={"prompts": old.service.prompts}):
        yield "service"
    for name in sorted({*old.sources, *new.sources}):
        if _connection(old.sources.get(name)) != _connection(new.sources.get(name)):
            yield f"sources.{name}"


def _connection(section: SourceSection | None) -> dict[str, object] | None:
    return section.model_dump(exclude=set(_AT_ONCE)) if section is not None else None
