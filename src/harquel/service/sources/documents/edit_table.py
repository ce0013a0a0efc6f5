"""Notes, exposure and personal marks of one table."""

from __future__ import annotations

from harquel.contract import CatalogTable, DocumentRequest, TableEdit
from harquel.core.curation import edited_notes, edited_policy
from harquel.service.errors import ProblemError
from harquel.service.operations import Call, operation

from ..finding import SOURCE_EVEN_OFF
from ..live import LiveSource, document_text
from .keeping import replace_document
from .read_table import table_of


@operation(
    "table.edit", takes=TableEdit, gives=CatalogTable, scope="steward", about=SOURCE_EVEN_OFF, repeat="same",
    entries=("document-changed",),
)  # fmt: skip
def edit_table(call: Call[TableEdit, LiveSource]) -> CatalogTable:
    """Edits its notes, what of it is exposed, and what is personal."""
    source, edit, table = call.about, call.asked, call.at["table"]
    catalog = source.keeper.known()
    found = catalog.table(table) if catalog is not None else None
    unknown = [c for c in edit.columns if found is not None and found.column(c) is None]
    if found is None or unknown:
        what = f"{table}.{unknown[0]}" if unknown else table
        raise ProblemError(404, "unknown-table", "problem-unknown-table", table=what, source=source.name)
    said = edit.model_dump(exclude_unset=True, exclude={"exposed", "columns"})
    columns = {
        c: v
        for c, e in edit.columns.items()
        if (v := e.model_dump(exclude_unset=True, exclude={"exposed", "personal"}))
    }
    exposed = {c: e.exposed for c, e in edit.columns.items() if e.exposed is not None}
    if edit.exposed is not None:
        exposed[""] = edit.exposed
    personal = {c: e.personal for c, e in edit.columns.items() if e.personal is not None}
    if said or columns:
        text = document_text(source.name, "notes", source.core.notes)
        changed = edited_notes(text, found.name, {**said, "columns": columns})
        replace_document(source, "notes", DocumentRequest(text=changed, force=True), call.caller, "console")
    if exposed or personal:
        text = document_text(source.name, "policy", source.core.policy)
        changed = edited_policy(text, source.core.policy, found.name, exposed, personal)
        replace_document(source, "policy", DocumentRequest(text=changed, force=True), call.caller, "console")
    return table_of(call)
