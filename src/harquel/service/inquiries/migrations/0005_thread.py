"""Which inquiries follow one another is known of each: what was asked before is told by the one that it follows."""

from __future__ import annotations

from typing import Any

from django.db import migrations, models


def follow_back(apps: Any, schema: Any) -> None:
    """Nothing follows what comes after it: each is gone over once."""
    stored = apps.get_model("inquiries", "StoredInquiry").objects
    first: dict[str, str] = {}
    for pk, key, follows in stored.exclude(follows=None).order_by("pk").values_list("pk", "key", "follows").iterator():
        first[key] = first.get(follows, follows)
        stored.filter(pk=pk).update(thread=first[key])


class Migration(migrations.Migration):
    dependencies = [
        ("inquiries", "0001_squashed_0004_token_and_decided_by"),
    ]

    operations = [
        migrations.AddField("storedinquiry", "thread", models.CharField(db_index=True, max_length=40, null=True)),
        migrations.RunPython(follow_back, migrations.RunPython.noop),
    ]
