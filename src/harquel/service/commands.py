"""Commands that work on this machine rather than over HTTP: serve, and the first token."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated, Any

import typer
from pydantic import BaseModel

from harquel.core.errors import ConfigurationError


def _fail(error: ConfigurationError) -> typer.Exit:
    typer.secho(f"{error} {error.hint}".strip(), err=True, fg="red")
    return typer.Exit(2)


def serve(
    config: Annotated[Path, typer.Option("--config", "-c", help="The configuration file.")] = Path("harquel.toml"),
) -> None:
    """Start the service and stay until interrupted."""
    from harquel.service.serving import serve as run

    try:
        run(config, typer.echo)
    except ConfigurationError as error:
        raise _fail(error) from error


def operations() -> dict[str, list[dict[str, Any]]]:
    """Everything that can be done with a service, who may, and what is there without; see operations/matrix.py."""
    import tempfile

    from harquel.service.config import HarquelConfig
    from harquel.service.serving import prepare_django

    # The table is in the program: no records are looked at, and none are left behind.
    with tempfile.TemporaryDirectory() as folder:
        prepare_django(HarquelConfig(base=Path(folder)))
        from harquel.service.operations.matrix import matrix, without_operation

        return {"operations": matrix(), "without": without_operation()}


def notes_schema() -> str:
    """The JSON Schema (2020-12) of the notes' YAML form."""
    from harquel.core.domain.notes import Notes

    return _schema("Harquel notes", Notes)


def policy_schema() -> str:
    """The JSON Schema (2020-12) of the policy's YAML form."""
    from harquel.core.domain.policy import Policy

    return _schema("Harquel policy", Policy)


def _schema(title: str, model: type[BaseModel]) -> str:
    made = {"$schema": "https://json-schema.org/draft/2020-12/schema", **model.model_json_schema(), "title": title}
    return json.dumps(made, indent=2)


def create_token_locally(
    config: Path,
    name: str,
    person: str,
    sources: list[str],
    scopes: list[str],
    roles: list[str],
    values: dict[str, Any],
    days: int | None = 365,
) -> dict[str, object]:
    """Makes a token in the data directory itself; owning the files is the proof.

    Works whether the service runs or not. Raises ConfigurationError.
    """
    from harquel.service.config import load_config
    from harquel.service.records.ownership import AlreadyRunning, Ownership, bring_up_to_date
    from harquel.service.serving import prepare_django

    loaded = load_config(config)
    try:
        ownership: Ownership | None = Ownership(loaded.data_dir)
    except AlreadyRunning:
        # The service runs: its records are up to date, and SQLite lets both write in turn.
        ownership = None
    try:
        prepare_django(loaded)
        from django.conf import settings
        from django.db import transaction

        if ownership is not None:
            bring_up_to_date(Path(settings.DATABASES["default"]["NAME"]))
        from harquel.contract import TokenRequest
        from harquel.service.access.issuing import issue_token
        from harquel.service.ledger import sealing

        # Whoever appends seals: an entry whose turn it is must not go without.
        sealing.begin(sealing.of(loaded))
        request = TokenRequest.model_validate(
            {
                "name": name, "person": person, "sources": sources, "scopes": scopes, "roles": roles, "values": values,
                "days": days,
            }
        )  # fmt: skip
        with transaction.atomic():
            return issue_token(request, "local").model_dump(mode="json")
    finally:
        if ownership is not None:
            ownership.release()
