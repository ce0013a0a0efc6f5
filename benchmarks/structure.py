"""The structure of 500 tables in PostgreSQL, against a bare count of what the server's catalog holds of them."""

from __future__ import annotations

import time
from pathlib import Path

from benchmarks.figure import Figure
from harquel.core.engines import engine_for
from harquel.demo.servers import Postgresql

TABLES = 500


def measure(folder: Path) -> list[Figure]:
    """Seconds for one reading of the structure, on a server of its own."""
    with Postgresql(folder / "server") as server:
        server.run("CREATE DATABASE wide")
        statements = []
        for number in range(TABLES):
            columns = ", ".join(f"c{n} {'TEXT' if n % 2 else 'INTEGER'}" for n in range(19))
            key = f", parent INTEGER REFERENCES t{number - 1}" if number else ""
            statements.append(f"CREATE TABLE t{number} (id INTEGER PRIMARY KEY, {columns}{key})")
        server.run(*statements, database="wide")
        started = time.perf_counter()
        server.run("SELECT count(*) FROM information_schema.columns", database="wide")
        bare = time.perf_counter() - started
        engine = engine_for(server.url("wide"), folder)
        started = time.perf_counter()
        found = engine.structure()
        took = time.perf_counter() - started
        started = time.perf_counter()
        engine.look()
        engine.look()
        looked = (time.perf_counter() - started) / 2
        engine.close()
    assert len(found.tables) == TABLES
    return [
        Figure(f"structure of {TABLES} tables, PostgreSQL", took, "s", bare, "counting its columns"),
        Figure(f"look for changes in {TABLES} tables, PostgreSQL", looked * 1000, "ms"),
    ]
