"""What a steward asks of the service, as values for `send`: `client.send(describing.check("ferries"))`."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Literal

from pydantic import TypeAdapter

from harquel.client.calls import Call, part
from harquel.contract import (
    AccountScript,
    CatalogDiff,
    CatalogShape,
    CatalogTable,
    CheckedPolicy,
    CheckShape,
    CoverageShape,
    DocumentLine,
    DocumentShape,
    ExampleExport,
    ExampleShape,
    ExplainedPolicy,
    ImportReport,
    Removal,
    ScanShape,
    SourceLine,
    VersionLine,
)


def _nothing(_: Any) -> None:
    return None


def _path(name: str, *rest: str) -> str:
    return "/".join(["sources", *map(part, (name, *rest))])


def connect(name: str, **fields: Any) -> Call[SourceLine]:
    """A new source; `fields` as in the contract's SourceRequest."""
    body = {"name": name} | {k: v for k, v in fields.items() if v is not None}
    return Call("POST", "sources", SourceLine.model_validate, body)


def change(name: str, **fields: Any) -> Call[SourceLine]:
    """Renames (`name` as a field of its own: new_name), switches, or gives another password."""
    body = {("name" if k == "new_name" else k): v for k, v in fields.items() if v is not None}
    return Call("PATCH", _path(name), SourceLine.model_validate, body)


def remove(name: str) -> Call[Removal]:
    """Lets a source go."""
    return Call("DELETE", _path(name), Removal.model_validate)


def check(name: str) -> Call[CheckShape]:
    """The connection check."""
    return Call("POST", _path(name, "check"), CheckShape.model_validate, {})


def account(name: str, account: str, whole_schema: bool) -> Call[AccountScript]:
    """The script for an account that may only read."""
    body = {"account": account, "whole_schema": whole_schema}
    return Call("POST", _path(name, "account"), AccountScript.model_validate, body)


def rotate() -> Call[dict[str, int]]:
    """Encrypts stored passwords with the newest key."""
    return Call("POST", "passwords/rotation", TypeAdapter(dict[str, int]).validate_python, {})


def scan(name: str, kind: Literal["full", "changes"] = "full") -> Call[ScanShape]:
    """Starts a scan."""
    return Call("POST", _path(name, "scans"), ScanShape.model_validate, {"kind": kind})


def scan_state(name: str, scan_id: int) -> Call[ScanShape]:
    """How far a scan is."""
    return Call("GET", _path(name, "scans", str(scan_id)), ScanShape.model_validate)


def scans(name: str) -> Call[list[ScanShape]]:
    """Scans, newest first."""
    return Call("GET", _path(name, "scans"), TypeAdapter(list[ScanShape]).validate_python)


def stop_scan(name: str, scan_id: int) -> Call[ScanShape]:
    """Ends a scan after its current table."""
    return Call("DELETE", _path(name, "scans", str(scan_id)), ScanShape.model_validate)


def versions(name: str) -> Call[list[VersionLine]]:
    """Versions of the catalog, newest first."""
    return Call("GET", _path(name, "catalog", "versions"), TypeAdapter(list[VersionLine]).validate_python)


def diff(name: str, old: int | None = None, new: int | None = None) -> Call[CatalogDiff]:
    """Two versions compared."""
    params = {k: str(v) for k, v in (("old", old), ("new", new)) if v is not None}
    return Call("GET", _path(name, "catalog", "diff"), CatalogDiff.model_validate, params=params)


def whole_catalog(name: str) -> Call[CatalogShape]:
    """The catalog with what is not exposed, marked as such."""
    return Call("GET", _path(name, "catalog"), CatalogShape.model_validate, params={"whole": "1"})


def table(name: str, table: str) -> Call[CatalogTable]:
    """One table."""
    return Call("GET", _path(name, "tables", table), CatalogTable.model_validate)


def edit_table(name: str, table: str, **edit: Any) -> Call[CatalogTable]:
    """Edits notes, exposure and personal marks; `edit` as in the contract's TableEdit."""
    return Call("PATCH", _path(name, "tables", table), CatalogTable.model_validate, edit)


def coverage(name: str) -> Call[CoverageShape]:
    """How much is described."""
    return Call("GET", _path(name, "catalog", "coverage"), CoverageShape.model_validate)


def document(name: str, kind: Literal["notes", "policy"]) -> Call[DocumentShape]:
    """The notes or the policy."""
    return Call("GET", _path(name, kind), DocumentShape.model_validate)


def keep(inquiry: str) -> Call[DocumentShape]:
    """Writes what an inquiry corrects of the one before into the notes of its source, for everybody."""
    return Call("POST", f"inquiries/{inquiry}/keep", DocumentShape.model_validate)


def replace_document(
    name: str, kind: Literal["notes", "policy"], text: str, number: int | None = None, force: bool = False
) -> Call[DocumentShape]:
    """Other notes, or another policy."""
    body: dict[str, Any] = {"text": text, "force": force}
    if number is not None:
        body["number"] = number
    return Call("PUT", _path(name, kind), DocumentShape.model_validate, body)


def history(name: str, kind: Literal["notes", "policy"]) -> Call[list[DocumentLine]]:
    """Who changed them."""
    return Call("GET", _path(name, kind, "history"), TypeAdapter(list[DocumentLine]).validate_python)


def explain_policy(
    name: str, sql: str | None, person: str, roles: list[str], values: Mapping[str, Any]
) -> Call[ExplainedPolicy]:
    """What the policy comes to for somebody, or what it says of a statement."""
    body = {"sql": sql, "person": person, "roles": roles, "values": dict(values)}
    return Call("POST", _path(name, "policy", "explain"), ExplainedPolicy.model_validate, body)


def check_policy(name: str, text: str | None) -> Call[CheckedPolicy]:
    """What in a policy matches nothing or cannot be applied; without a text the one that counts."""
    return Call("POST", _path(name, "policy", "check"), CheckedPolicy.model_validate, {"text": text})


_EXAMPLES = TypeAdapter(list[ExampleShape])


def examples(name: str) -> Call[list[ExampleShape]]:
    """The example bank."""
    return Call("GET", _path(name, "examples"), _EXAMPLES.validate_python)


def add_example(name: str, **fields: Any) -> Call[ExampleShape]:
    """A new pair; `fields` as in the contract's ExampleRequest."""
    body = {k: v for k, v in fields.items() if v is not None}
    return Call("POST", _path(name, "examples"), ExampleShape.model_validate, body)


def change_example(name: str, key: int, **fields: Any) -> Call[ExampleShape]:
    """Changes a pair; `fields` as in the contract's ExampleChange."""
    body = {k: v for k, v in fields.items() if v is not None}
    return Call("PATCH", _path(name, "examples", str(key)), ExampleShape.model_validate, body)


def remove_example(name: str, key: int) -> Call[None]:
    """Takes a pair out."""
    return Call("DELETE", _path(name, "examples", str(key)), _nothing)


def check_examples(name: str) -> Call[list[ExampleShape]]:
    """Checks all pairs."""
    return Call("POST", _path(name, "examples", "check"), _EXAMPLES.validate_python, {})


def export_examples(name: str, form: Literal["yaml", "jsonl"]) -> Call[ExampleExport]:
    """The bank as text."""
    return Call("GET", _path(name, "examples", "text"), ExampleExport.model_validate, params={"form": form})


def import_examples(name: str, text: str, form: Literal["yaml", "jsonl"]) -> Call[ImportReport]:
    """Takes pairs in."""
    return Call("POST", _path(name, "examples", "text"), ImportReport.model_validate, {"text": text, "form": form})
