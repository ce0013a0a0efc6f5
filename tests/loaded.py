"""What is loaded before processes are forked: all that does not ask for Django's settings."""

from __future__ import annotations

import gc
from importlib import import_module

for name in (
    "cryptography.hazmat.primitives.serialization", "django.core.handlers.asgi", "django.db.models", "django.http",
    "django.urls", "httpx", "psycopg", "pymysql", "sqlalchemy.dialects.sqlite", "starlette.applications", "structlog",
    "uvicorn.protocols.http.h11_impl",
    "harquel.cli.ask", "harquel.cli.catalog", "harquel.cli.example", "harquel.cli.inquiry", "harquel.cli.ledger",
    "harquel.cli.main", "harquel.cli.policy", "harquel.cli.review", "harquel.cli.source", "harquel.cli.standstill",
    "harquel.cli.token", "harquel.core.engines", "harquel.core.inquiry.conduct", "harquel.core.ledger.verify",
    "harquel.core.llm.chat_completions", "harquel.service.commands", "harquel.service.serving",
    "harquel.standin.commands", "harquel.standin.server",
):  # fmt: skip
    import_module(name)
# Whoever looked through all of it for what is not needed would make a copy of it in each process.
gc.freeze()
