"""Whether everything stands still, as the ledger has it: the switch outlives the process that it was turned in."""

from __future__ import annotations

from harquel.service.ledger.models import Entry

ON, OFF = "standstill-on", "standstill-off"


def stood_still() -> bool:
    """How the switch was left."""
    newest = Entry.objects.filter(kind__in=(ON, OFF)).order_by("-seq").values_list("kind", flat=True).first()
    return newest == ON
