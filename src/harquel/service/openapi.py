"""What the API's document says beyond what is found in the views: errors, the event stream, repetitions."""

from __future__ import annotations

import copy
from typing import Any, Final, get_args

from pydantic import BaseModel

import harquel.contract
from harquel.contract import EntryShape, Problem, events
from harquel.service.errors import MEDIA_TYPE
from harquel.service.idempotency import REPEATED
from harquel.service.inquiries.operations.listen import listen
from harquel.service.operations import registry
from harquel.service.operations.http import document_name
from harquel.service.sentences import sentences

_KEY: Final = {
    "name": "Idempotency-Key", "in": "header", "required": False, "schema": {"type": "string", "maxLength": 200},
    "description": "A text of your own. The same one within 24 hours creates nothing new, with another body it is 422.",
}  # fmt: skip
_STREAM: Final[dict[str, Any]] = {
    "operationId": document_name(listen),
    "description": (
        "What happens to an inquiry, as it happens: server-sent events. Each entry of the ledger is an event with its "
        "kind as name, its number as id and the entry as data; `piece` is text that a model is writing, without a "
        "number. The stream ends with the inquiry, or when its statement is held."
    ),
    "tags": ["inquiries"],
    "parameters": [
        {"name": "key", "in": "path", "required": True, "schema": {"type": "string"}, "description": "The inquiry."},
        {"name": "Last-Event-ID", "in": "header", "schema": {"type": "integer"},
         "description": "Number of the last entry seen: the stream goes on behind it."},
        {"name": "after", "in": "query", "schema": {"type": "integer"}, "description": "The same, in the address."},
    ],
    "security": [{"bearer": []}, {"session": []}],
    "responses": {
        "200": {
            "description": "The stream.",
            "content": {"text/event-stream": {"schema": {"$ref": "#/components/schemas/InquiryEntry"}}},
        },
    },
}  # fmt: skip


def completed(result: dict[str, Any], generator: Any, request: Any, public: bool) -> dict[str, Any]:
    """drf-spectacular's hook, after the document was made."""
    shape = Problem.model_json_schema(ref_template="#/components/schemas/{model}")
    schemas = result["components"].setdefault("schemas", {})
    schemas["Problem"] = shape
    _with_events(schemas)
    _describe(schemas)
    result["paths"]["/api/v1/inquiries/{key}/events"] = {"get": copy.deepcopy(_STREAM)}
    problem = {
        "description": "What is wrong, and what to do (RFC 9457); `type` is stable.",
        "content": {MEDIA_TYPE: {"schema": {"$ref": "#/components/schemas/Problem"}}},
    }
    once = {document_name(o) for o in registry.values() if o.repeat == "once"}
    for ways in result["paths"].values():
        for call in ways.values():
            call["responses"]["default"] = problem
            # Either of the ways to say who one is, not both of them.
            call["security"] = [{way_in: []} for one in call.get("security", ()) for way_in in one]
            if call["operationId"] in once:
                call.setdefault("parameters", []).append(_KEY)
                made = call["responses"]["201"]
                made.setdefault("headers", {})[REPEATED] = {
                    "description": "true where an earlier request with the same key has created it.",
                    "schema": {"type": "string"},
                }
    return result


def _with_events(schemas: dict[str, Any]) -> None:
    """Adds a shape for every kind of entry, and the union of those that an inquiry's stream tells."""
    for kind, shape in events.EVENTS.items():
        own = shape.model_json_schema(ref_template="#/components/schemas/{model}", mode="serialization")
        for name, part in own.pop("$defs", {}).items():
            schemas.setdefault(name, part)
        del own["properties"]["happened"]
        own["required"] = sorted(shape().facts())
        schemas[f"{shape.__name__}Facts"] = own
        entry = copy.deepcopy(schemas["EntryShape"])
        texts = f" Its texts: {', '.join(shape.texts)}." if shape.texts else ""
        entry["description"] = f"{shape.__doc__}{texts}"
        entry["properties"] |= {
            "kind": {"type": "string", "const": kind},
            "facts": {"$ref": f"#/components/schemas/{shape.__name__}Facts"},
        }
        schemas[f"{shape.__name__}Entry"] = entry
    told = [shape.__name__ for shape in get_args(events.InquiryEvent)]
    schemas["InquiryEntry"] = {
        "oneOf": [{"$ref": f"#/components/schemas/{name}Entry"} for name in told],
        "discriminator": {
            "propertyName": "kind",
            "mapping": {
                events.__dict__[name].model_fields["happened"].default: f"#/components/schemas/{name}Entry"
                for name in told
            },
        },
        "description": "What the stream of an inquiry tells.",
    }


def _shape(name: str) -> object:
    """What a schema of the document is made from; entries of a kind are entries with facts of their own."""
    if name.endswith("Entry") and hasattr(events, name.removesuffix("Entry")):
        return EntryShape
    return getattr(harquel.contract, name, None) or getattr(events, name.removesuffix("Facts"), None)


def _describe(schemas: dict[str, Any]) -> None:
    """Puts the sentence that stands under a field of a shape beside the property."""
    for name, schema in schemas.items():
        shape = _shape(name.removeprefix("Patched"))
        if isinstance(shape, type) and issubclass(shape, BaseModel):
            for base in reversed(shape.__mro__):
                for field, sentence in sentences(base).items():
                    if field in schema.get("properties", {}):
                        schema["properties"][field]["description"] = sentence
