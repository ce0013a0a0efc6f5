"""After a crash: what was under way is closed as failed, in the ledger too."""

from __future__ import annotations

from harquel.service.errors import note_of

from .models import StoredInquiry
from .recording import store_end
from .shapes import inquiry_of


def close_interrupted() -> int:
    """Runs inside the writer, under the lock, before anything is asked. Returns how many there were."""
    left = StoredInquiry.objects.select_related("person").exclude(state__in=("ended", "held"))
    count = 0
    for stored in left:
        inquiry = inquiry_of(stored)
        inquiry.state, inquiry.outcome = "ended", "failed"
        inquiry.problem = note_of("service-stopped", "problem-service-stopped", inquiry.language)
        store_end(inquiry)
        count += 1
    return count
