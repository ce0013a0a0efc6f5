"""Reads the records for the event loop with a few threads of its own, however many people wait there.

Django gives each request a thread and a connection for as long as it lasts. A stream lasts for minutes: it is served
beside Django, and asks here.
"""

from __future__ import annotations

import asyncio
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import Final, TypeVar

from django.db import DatabaseError, connection

T = TypeVar("T")
THREADS: Final = 4
_readers = ThreadPoolExecutor(THREADS, "records-reader")


async def read(job: Callable[..., T], *values: object) -> T:
    """What `job(*values)` gives or raises, run in one of the threads."""
    return await asyncio.get_running_loop().run_in_executor(_readers, _run, job, values)


def _run(job: Callable[..., T], values: tuple[object, ...]) -> T:
    try:
        return job(*values)
    except DatabaseError:
        # Whatever is wrong with this connection, the next job gets another.
        connection.close()
        raise
