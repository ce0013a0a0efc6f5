"""After a crash: what was under way is closed as failed, in the ledger too."""

from __future__ import annotations

from typing import Final

from harquel.service.errors import note_of

from .models import StoredInquiry
from .recording import store_end
from .shapes import inquiry_of

_KIND: Final = "service-stopped"


def was_interrupted(stored: StoredInquiry) -> bool:
    """Whether it came to its end by a stop of the service: whoever had it asked may have it asked again."""
    problem = inquiry_of(stored).problem
    return problem is not None and problem.type == _KIND


def close_interrupted() -> int:
    """Runs inside the writer, under the lock, before anything is asked. Returns how many there were."""
    left = StoredInquiry.objects.select_related("person").exclude(state__in=("ended", "held"))
    count = 0
    for stored in left:
        inquiry = inquiry_of(stored)
        inquiry.state, inquiry.outcome = "ended", "failed"
        inquiry.problem = note_of(_KIND, "problem-service-stopped", inquiry.language)
        store_end(inquiry)
        count += 1
    return count
