"""From stored entries to the shapes of the contract."""

from __future__ import annotations

import json

from harquel.contract import EntryShape

from .models import Entry


def entry_shape(entry: Entry) -> EntryShape:
    """An entry with its texts; prefetch `texts`."""
    body = json.loads(bytes(entry.body))
    return EntryShape(
        seq=entry.seq,
        at=entry.at,
        who=entry.who,
        kind=entry.kind,
        inquiry=entry.inquiry,
        facts=body["facts"],
        texts={t.name: t.text for t in entry.texts.all()},
        digest=entry.digest,
    )
