"""Connects a source, changes it, lets it go; what was asked of it stays in the ledger."""

from __future__ import annotations

from django.db import IntegrityError
from pydantic import ValidationError

from harquel.contract import Removal, SourceChange, SourceRequest
from harquel.core.errors import ConfigurationError, SourceError
from harquel.service.access.models import Token
from harquel.service.config import REFERENCES, SourceSection, has_password
from harquel.service.inquiries.models import StoredInquiry
from harquel.service.ledger.append import append
from harquel.service.problems import ProblemError
from harquel.service.runtime import runtime

from ..live import LiveSource
from ..models import (
    CatalogVersion,
    ScanPart,
    SourceDocument,
    SourceState,
    StoredExample,
    StoredScan,
    StoredSource,
    StoredStarter,
)
from ..outside import address_let_in, references_let_in
from ..specs import SourceSpec, engine_of, stored_spec
from .find import source_for

OWNED = (CatalogVersion, StoredScan, ScanPart, SourceDocument, StoredExample, StoredStarter, SourceState)


def connect(request: SourceRequest, token: Token) -> LiveSource:
    """A new source, kept in the records. Raises ProblemError or ConfigurationError."""
    live = runtime()
    if "*" not in token.sources:
        raise ProblemError(
            403, "not-allowed", "This token is for single sources; connecting a new one needs one for all.",
            "Ask an administrator for a token with the scope steward for every source.",
        )  # fmt: skip
    if request.name in live.sources:
        raise ProblemError(409, "source-exists", f"There is a source {request.name!r} already.", "Choose another name.")
    if (request.url is None) == (request.engine is None):
        raise ProblemError(
            422, "url-or-fields", "Give either a url or an engine with its fields.", "A url is engine://user@host/name."
        )
    settings = request.model_dump(mode="json", exclude={"name", "password"}, exclude_defaults=True)
    secret = request.password
    references_let_in(live.config, request.url, request.password, request.path, request.ca, request.host)
    if request.url is not None and not request.url.startswith(REFERENCES) and has_password(request.url):
        raise ProblemError(
            422, "password-in-url", "The url holds a password.",
            "Leave it out of the url and give it as password: it is kept encrypted and never shown.",
        )  # fmt: skip
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
            raise ProblemError(422, "no-database", str(error), error.hint) from error
        finally:
            looked_at.close()
    made = live.add(spec)
    sealed = live.vault.encrypt(secret) if secret is not None else None

    def keep() -> None:
        StoredSource.objects.create(name=request.name, settings=settings, secret=sealed)
        append(
            who=token.person.name, kind="source-connected",
            facts={"source": request.name, "engine": made.engine.name, "where": made.engine.where()},
        )  # fmt: skip

    try:
        live.writer.do(keep)
    except IntegrityError as error:
        live.drop(request.name)
        raise ProblemError(409, "source-exists", f"There is a source {request.name!r} already.") from error
    made.keeper.scan("first")
    return made


def change(name: str, request: SourceChange, token: Token) -> LiveSource:
    """Renames, switches on or off, gives another password. Raises ProblemError or ConfigurationError."""
    live, source = runtime(), source_for(name, token, disabled_too=True)
    beyond = request.name is not None or request.title is not None or request.password is not None
    if beyond and source.spec.origin == "file":
        raise ProblemError(
            409, "source-of-the-file", f"The source {name} is declared in harquel.toml.", "Change it there."
        )
    if request.enabled is not None:
        wanted = request.enabled

        def switch() -> None:
            SourceState.objects.update_or_create(source=name, defaults={"enabled": wanted})
            append(who=token.person.name, kind="source-switched", facts={"source": name, "enabled": wanted})

        live.writer.do(switch)
        source.enabled = wanted
    if beyond:
        stored = StoredSource.objects.get(name=name)
        new = request.name or name
        if new != name and "*" not in token.sources:
            raise ProblemError(
                403, "not-allowed", "This token is for single sources; renaming needs one for all of them.",
                "Ask an administrator for a token with the scope steward for every source.",
            )  # fmt: skip
        if new != name and new in live.sources:
            raise ProblemError(409, "source-exists", f"There is a source {new!r} already.", "Choose another name.")
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
            append(
                who=token.person.name, kind="source-changed",
                facts={"source": name, "name": new, "title": request.title, "password": request.password is not None},
            )  # fmt: skip

        live.writer.do(keep)
        live.drop(name)
        source = live.add(stored_spec(stored, live.vault))
        source.keeper.scan("changes")
    return source


def remove(name: str, token: Token) -> Removal:
    """Lets a source of the records go, with what was known of it. Raises ProblemError."""
    live, source = runtime(), source_for(name, token, disabled_too=True)
    if source.spec.origin == "file":
        raise ProblemError(
            409, "source-of-the-file", f"The source {name} is declared in harquel.toml.",
            "Take it out there and start the service again, or switch it off.",
        )  # fmt: skip
    live.drop(name)
    asked = StoredInquiry.objects.filter(source=name).count()

    def forget() -> None:
        StoredSource.objects.filter(name=name).delete()
        for model in OWNED:
            model.objects.filter(source=name).delete()
        append(who=token.person.name, kind="source-removed", facts={"source": name, "inquiries_kept": asked})

    live.writer.do(forget)
    stays = (
        f"Its catalog, notes, policy, examples and password are gone. {asked} inquiries about it stay, with their "
        "entries in the ledger: what was asked, what ran and what came back can still be checked."
    )
    return Removal(name=name, stays=stays, kept={"inquiries": asked})


def rotate(token: Token) -> int:
    """Encrypts every stored password anew with the newest key; returns how many."""
    live = runtime()
    live.vault.add_key()

    def renew() -> int:
        count = 0
        for stored in StoredSource.objects.exclude(secret=None):
            stored.secret = live.vault.rotate(bytes(stored.secret))
            stored.save(update_fields=["secret"])
            count += 1
        append(who=token.person.name, kind="keys-rotated", facts={"passwords": count})
        return count

    return live.writer.do(renew)
