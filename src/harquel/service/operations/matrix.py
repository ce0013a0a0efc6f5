"""Who may do what, as one table: read from the registry and the URL table, and from nothing else."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, Final, NamedTuple

from django.urls import URLPattern, URLResolver

from .http import OperationView
from .operation import REPEATED, Operation, registry

WITHOUT: Final = {
    "api/v1/session": "signing in and out of the console; who has no token yet comes here",
    "api/v1/openapi.json": "the document of the API, for everybody",
    "api/v1/.*": "says that there is nothing here",
    "api/v1/chats/<str:name>/messages": "messages of a chat, which it signs; what they ask is done by operations",
    "shared/<str:secret>": "what an open link shows, to whoever has its address",
    "healthz": "whether the process lives, for everybody",
    "readyz": "whether it can answer, for everybody",
    "metrics": "counts, for everybody; names of sources for a token with audit",
    "mcp": "tools for programs: each does what its token does at the addresses above, by those",
    ".well-known/oauth-protected-resource": "how one gets in there, for everybody",
    ".well-known/oauth-protected-resource/mcp": "the same, where clients look for it first",
}
"""Addresses that have no operation, and why."""


class Place(NamedTuple):
    """An address of the service, and what is done there by each method."""

    address: str
    ways: dict[str, Operation[Any, Any, Any]] | None


def places() -> list[Place]:
    """Every address, those beside Django too; None for one without an operation."""
    from harquel.service.inquiries.urls import BESIDE_DJANGO
    from harquel.service.tool_protocol import PATHS
    from harquel.service.urls import urlpatterns

    found = list(_walk(urlpatterns, ""))
    beside = [Place(f"api/v1/{a}", dict(w)) for a, w in BESIDE_DJANGO.items()]
    return [*found, *beside, *(Place(path.removeprefix("/"), None) for path in PATHS)]


def _walk(patterns: Any, before: str) -> Iterator[Place]:
    for pattern in patterns:
        address = before + str(pattern.pattern)
        if isinstance(pattern, URLResolver):
            yield from _walk(pattern.url_patterns, address)
        elif isinstance(pattern, URLPattern):
            view = getattr(pattern.callback, "view_class", None)
            ruled = isinstance(view, type) and issubclass(view, OperationView)
            yield Place(address, {m: w.operation for m, w in view.ways.items()} if ruled else None)  # type: ignore[union-attr]


def without_operation() -> list[dict[str, str]]:
    """Addresses that have none, and why; no reason is a hole."""
    return [{"address": p.address, "why": WITHOUT.get(p.address, "")} for p in places() if p.ways is None]


def matrix() -> list[dict[str, Any]]:
    """One row an operation: how it is reached, who may, what it leaves in the ledger, what comes of repeating it."""
    reached: dict[str, list[str]] = {}
    for place in places():
        for method, wanted in (place.ways or {}).items():
            address = place.address.removeprefix("api/v1/")
            for kind in ("str:", "int:"):
                address = address.replace(f"<{kind}", "{")
            reached.setdefault(wanted.name, []).append(f"{method} {address.replace('>', '}')}")
    return [
        {
            "operation": name, "does": o.says.split(". ")[0].rstrip(".") + ".", "http": reached.get(name, []),
            "scope": o.scope, "about": o.about.name, "whose": o.about.whose, "rule": o.rule,
            "entries": list(o.entries), "again": REPEATED[o.repeat],
        }
        for name, o in sorted(registry.items())
    ]  # fmt: skip
