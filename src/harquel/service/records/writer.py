"""The one thread that writes ledger, events and inquiry state, many jobs to a commit.

Thirty-two threads with transactions of their own wait for each other and for the disk; one writer that
commits what has gathered keeps both the order of the ledger and the speed.
"""

from __future__ import annotations

import queue
import threading
from collections.abc import Callable
from concurrent.futures import Future
from typing import Any, Final, NamedTuple, TypeVar

from django.db import connection, transaction

from .together import gathering, undone_with_it

T = TypeVar("T")
BATCH: Final = 128
LINGER_S: Final = 0.05
"""How long jobs that nobody waits for are held for others to be committed along with them."""
_SAID: Final = {
    "full": "the disk of the data directory is full",
    "readonly": "they are read-only",
    "i/o": "the disk of the data directory does not take what is written: it is full, or broken",
    "locked": "another program holds them",
}


def why_not(error: BaseException) -> str:
    """What keeps the records from being written, in words."""
    said = str(error).lower()
    return next((words for name, words in _SAID.items() if name in said), str(error))


class _Job(NamedTuple):
    does: Callable[[], Any]
    future: Future[Any]
    alone: bool
    """What goes wrong in it undoes nothing else."""
    urgent: bool
    """Somebody waits for it."""
    twice: bool
    """It may be done again after what it did was undone."""


class _Spoilt(Exception):
    """A job failed without a savepoint of its own, while others may be done again."""


class Writer:
    """Runs jobs in the order of `submit`; a job's future is done only after its commit."""

    def __init__(self) -> None:
        self._jobs: queue.SimpleQueue[_Job | None] = queue.SimpleQueue()
        self._hurry = threading.Event()
        """Somebody waits. Whatever else is queued wakes nobody: each awakening costs those who compute."""
        self._thread = threading.Thread(target=self._work, name="records-writer", daemon=True)
        self._thread.start()

    def submit(self, job: Callable[[], T], alone: bool = True) -> Future[T]:
        """Queues a job. Its exception comes out of the future and undoes that job only.

        A job that is not `alone` has no savepoint of its own, which is cheaper: it must not fail after
        its first write. Should it do so all the same, nothing of its whole batch is committed.
        """
        return self._queue(job, alone, urgent=False)

    def _queue(self, job: Callable[[], T], alone: bool, urgent: bool, twice: bool = False) -> Future[T]:
        future: Future[T] = Future()
        self._jobs.put(_Job(job, future, alone, urgent, twice))
        if urgent:
            self._hurry.set()
        return future

    def do(self, job: Callable[[], T], twice: bool = False) -> T:
        """Queues a job and waits until it is committed.

        A job that may be done `twice` changes nothing but the records. Where all of a batch are of that kind no
        savepoints are made, which are half of what is written; should one fail, all of them are done again with them.
        """
        return self._queue(job, alone=True, urgent=True, twice=twice).result()

    def close(self) -> None:
        """Finishes what is queued, then ends the thread."""
        self._jobs.put(None)
        self._hurry.set()
        self._thread.join(timeout=30)

    def _work(self) -> None:
        going = True
        while going:
            item = self._jobs.get()
            self._hurry.wait(LINGER_S)
            # Before the queue is emptied: whoever hurries from here on may be in this batch, or is heard for the next.
            self._hurry.clear()
            batch: list[_Job] = []
            while item is not None:
                batch.append(item)
                if len(batch) >= BATCH:
                    # Somebody who waits may be among those that are left.
                    self._hurry.set()
                    break
                try:
                    item = self._jobs.get_nowait()
                except queue.Empty:
                    break
            going = item is not None
            if batch:
                self._commit(batch)
        connection.close()

    @staticmethod
    def _commit(batch: list[_Job]) -> None:
        try:
            results = _done(batch, savepoints=not all(job.twice or not job.alone for job in batch))
        except _Spoilt:
            results = _done(batch, savepoints=True)
        for future, value, fault in results:
            if fault is None:
                future.set_result(value)
            else:
                future.set_exception(fault)


def _done(batch: list[_Job], savepoints: bool) -> list[tuple[Future[Any], Any, BaseException | None]]:
    """What each of them came to, all in one transaction. Raises _Spoilt when nothing was done because one failed."""
    results: list[tuple[Future[Any], Any, BaseException | None]] = []
    try:
        with transaction.atomic(), gathering():
            for job in batch:
                try:
                    if savepoints and job.alone:
                        with transaction.atomic(), undone_with_it():
                            results.append((job.future, job.does(), None))
                    else:
                        results.append((job.future, job.does(), None))
                except Exception as error:  # belongs to whoever submitted the job
                    if not job.alone:
                        raise
                    if not savepoints:
                        raise _Spoilt from error
                    results.append((job.future, None, error))
    except _Spoilt:
        raise
    except Exception as error:  # the commit, or a job that is not alone: none of them happened
        results = [(job.future, None, error) for job in batch]
        connection.close()
    return results
