"""Inquiries whose end could not be put on record: they have failed, and are written down as soon as that works.

What is not on record is not given, so that the answer is gone. Whoever waits is told at once.
"""

from __future__ import annotations

import threading
from typing import Final

import structlog
from django.db import OperationalError

from harquel.core.domain.inquiry import Inquiry
from harquel.service.errors import note_of
from harquel.service.records.writer import Writer, why_not

from .recording import store_end

log = structlog.get_logger("harquel")
_AGAIN_S: Final = 1.0
_lock = threading.Lock()
_unkept: dict[str, Inquiry] = {}


def unkept(key: str) -> Inquiry | None:
    """As it is shown until the records have it."""
    return _unkept.get(key)


def fail(inquiry: Inquiry, error: BaseException) -> None:
    """Takes its answer away and says why."""
    inquiry.state, inquiry.outcome = "ended", "failed"
    inquiry.answer, inquiry.trust, inquiry.clarify, inquiry.hold, inquiry.second_opinion = None, None, None, None, None
    inquiry.problem = note_of("records-unwritable", "problem-answer-unrecorded", inquiry.language, why=why_not(error))


def keep_for_later(inquiry: Inquiry, error: BaseException, writer: Writer) -> None:
    """From the thread that worked on it, which is free afterwards."""
    fail(inquiry, error)
    with _lock:
        first = not _unkept
        _unkept[inquiry.id] = inquiry
    if first:
        threading.Thread(target=_write_down, args=(writer,), name="unkept-inquiries", daemon=True).start()


def _write_down(writer: Writer) -> None:
    pause = threading.Event()
    while True:
        pause.wait(_AGAIN_S)
        for key, inquiry in list(_unkept.items()):
            try:
                writer.do(lambda inquiry=inquiry: store_end(inquiry))  # type: ignore[misc]
            except OperationalError:
                # Full, read-only, locked: the others would fare no better.
                break
            except Exception:
                log.exception("the end of an inquiry could not be recorded; the next start closes it", inquiry=key)
            with _lock:
                del _unkept[key]
                if not _unkept:
                    return
