"""A new source, kept in the records."""

from __future__ import annotations

from django.db import IntegrityError
from pydantic import ValidationError

from harquel.contract import SourceLine, SourceRequest, events
from harquel.core.errors import ConfigurationError, SourceError
from harquel.service.config import REFERENCES, SourceSection, has_password
from harquel.service.errors import ProblemError
from harquel.service.ledger.append import append
from harquel.service.operations import NO_SUBJECT, Call, operation
from harquel.service.runtime import runtime

from ..models import StoredSource
from ..outside import address_let_in, references_let_in
from ..shapes import source_shape
from ..specs import SourceSpec, engine_of


@operation(
    "source.connect", takes=SourceRequest, gives=SourceLine, scope="steward", about=NO_SUBJECT, repeat="anew",
    entries=("source-connected",), rule="with a token for every source",
)  # fmt: skip
def connect(call: Call[SourceRequest, None]) -> SourceLine:
    """Connects one; its first scan begins at once."""
    live, request = runtime(), call.asked
    if not call.caller.everywhere:
        raise ProblemError(403, "not-allowed", "problem-connecting-needs-all")
    if request.name in live.sources:
        raise ProblemError(409, "source-exists", "problem-source-exists", name=request.name)
    if (request.url is None) == (request.engine is None):
        raise ProblemError(422, "url-or-fields", "problem-url-or-fields")
    settings = request.model_dump(mode="json", exclude={"name", "password"}, exclude_defaults=True)
    secret = request.password
    references_let_in(live.config, request.url, request.password, request.path, request.ca, request.host)
    if request.url is not None and not request.url.startswith(REFERENCES) and has_password(request.url):
        raise ProblemError(422, "password-in-url", "problem-password-in-url")
    if secret is not None and secret.startswith(REFERENCES):
        settings["password"], secret = secret, None
    try:
        spec = SourceSpec(request.name, SourceSection.model_validate(settings), "records", secret)
    except ValidationError as error:
        raise ConfigurationError(f"The source cannot be made: {error.errors()[0]['msg']}.") from error
    if request.url is None or not request.url.startswith(REFERENCES):
        # Behind a reference stands what the configuration has named.
        looked_at = engine_of(spec, live.config.base)
        try:
            address_let_in(live.config, looked_at)
            if looked_at.name == "sqlite":
                # A server may be down for now; a file that is not there is a slip of the pen.
                looked_at.look()
        except SourceError as error:
            raise ProblemError.saying(422, "no-database", error.said, error.hint) from error
        finally:
            looked_at.close()
    made = live.sources.add(spec)
    sealed = live.vault.encrypt(secret) if secret is not None else None

    def keep() -> None:
        StoredSource.objects.create(name=request.name, settings=settings, secret=sealed)
        connected = events.SourceConnected(source=request.name, engine=made.engine.name, where=made.engine.where())
        append(who=call.caller.name, what=connected)

    try:
        live.writer.do(keep)
    except IntegrityError as error:
        live.sources.drop(request.name)
        raise ProblemError(409, "source-exists", "problem-source-exists", name=request.name) from error
    made.keeper.scan("first")
    return source_shape(made, call.caller)
