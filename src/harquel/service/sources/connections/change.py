"""Another name, title or password for a source, or on and off."""

from __future__ import annotations

from harquel.contract import SourceChange, SourceLine, events
from harquel.service.config import REFERENCES
from harquel.service.errors import ProblemError
from harquel.service.ledger.append import append
from harquel.service.operations import Call, operation
from harquel.service.runtime import runtime

from ..finding import SOURCE_EVEN_OFF
from ..live import LiveSource
from ..models import OWNED, SourceState, StoredSource
from ..outside import references_let_in
from ..shapes import source_shape
from ..specs import stored_spec


@operation(
    "source.change", takes=SourceChange, gives=SourceLine, scope="steward", about=SOURCE_EVEN_OFF, repeat="same",
    entries=("source-switched", "source-changed"), rule="another name with a token for every source",
)  # fmt: skip
def change(call: Call[SourceChange, LiveSource]) -> SourceLine:
    """Renames, switches on or off, or gives another password."""
    live, source, request = runtime(), call.about, call.asked
    name = source.name
    beyond = request.name is not None or request.title is not None or request.password is not None
    if beyond and source.spec.origin == "file":
        raise ProblemError(409, "source-of-the-file", "problem-declared-in-the-file", name=name)
    if request.enabled is not None:
        wanted = request.enabled

        def switch() -> None:
            SourceState.objects.update_or_create(source=name, defaults={"enabled": wanted})
            append(who=call.caller.name, what=events.SourceSwitched(source=name, enabled=wanted))

        live.writer.do(switch)
        source.enabled = wanted
    if beyond:
        stored = StoredSource.objects.get(name=name)
        new = request.name or name
        if new != name and not call.caller.everywhere:
            raise ProblemError(403, "not-allowed", "problem-renaming-needs-all")
        if new != name and new in live.sources:
            raise ProblemError(409, "source-exists", "problem-source-exists", name=new)
        if request.title is not None:
            stored.settings["title"] = request.title
        references_let_in(live.config, request.password)
        if request.password is not None and request.password.startswith(REFERENCES):
            stored.settings["password"], stored.secret = request.password, None
        elif request.password is not None:
            stored.settings.pop("password", None)
            stored.secret = live.vault.encrypt(request.password)
        stored.name = new

        def keep() -> None:
            stored.save()
            if new != name:
                for model in OWNED:
                    model.objects.filter(source=name).update(source=new)
            changed = events.SourceChanged(
                source=name, name=new, title=request.title, password=request.password is not None
            )
            append(who=call.caller.name, what=changed)

        live.writer.do(keep)
        live.sources.drop(name)
        source = live.sources.add(stored_spec(stored, live.vault))
        source.keeper.scan("changes")
    return source_shape(source, call.caller)
