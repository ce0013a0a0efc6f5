"""The chain as stored: entries, the texts beside them, and the head kept apart."""

from __future__ import annotations

from django.db import models


class Entry(models.Model):
    """`body` are the canonical bytes as hashed; the other columns repeat fields of it for looking up."""

    seq = models.BigIntegerField(primary_key=True)
    digest = models.CharField(max_length=64)
    body = models.BinaryField()
    at = models.CharField(max_length=40)
    who = models.CharField(max_length=80)
    kind = models.CharField(max_length=40)
    inquiry = models.CharField(max_length=40, null=True)

    class Meta:
        indexes = [models.Index(fields=["inquiry", "seq"]), models.Index(fields=["kind", "seq"])]

    def __str__(self) -> str:
        return f"{self.seq} {self.kind}"


class EntryText(models.Model):
    """A text that an entry holds the salted digest of; blanking sets it to null."""

    entry = models.ForeignKey(Entry, on_delete=models.PROTECT, related_name="texts")
    name = models.CharField(max_length=40)
    digest = models.CharField(max_length=64)
    salt = models.CharField(max_length=64)
    text = models.TextField(null=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["entry", "name"], name="one_text_per_name")]
        # What rows are left is looked for again and again, among all that was ever written.
        indexes = [
            models.Index(fields=["entry"], name="texts_with_rows", condition=models.Q(name="rows", text__isnull=False))
        ]

    def __str__(self) -> str:
        return f"{self.name} of {self.entry_id}"


class StoredSeal(models.Model):
    """A signed checkpoint on the entry of its number."""

    seq = models.BigIntegerField(primary_key=True)
    digest = models.CharField(max_length=64)
    at = models.CharField(max_length=40)
    key = models.CharField(max_length=16)
    signature = models.CharField(max_length=128)

    def __str__(self) -> str:
        return f"seal on {self.seq}"


class Head(models.Model):
    """One row: the newest entry, so that cutting off the end is noticed."""

    seq = models.BigIntegerField()
    digest = models.CharField(max_length=64)

    def __str__(self) -> str:
        return str(self.seq)
