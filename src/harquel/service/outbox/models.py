"""What is sent on, as stored."""

from __future__ import annotations

from django.db import models


class StoredSending(models.Model):
    """An answer on its way to a destination, or an address of mail. `body` are the bytes as they are sent, the same
    each time; `tries` counts those that were begun. It is blanked once it has arrived.
    """

    key = models.CharField(max_length=40, unique=True)
    at = models.DateTimeField()
    person = models.ForeignKey("access.Person", models.CASCADE)
    inquiry = models.CharField(max_length=40, db_index=True)
    casebook = models.CharField(max_length=40, default="", blank=True)
    also = models.JSONField(default=list)
    """Of a casebook: the inquiries whose answers are in it; `inquiry` is empty then."""
    destination = models.CharField(max_length=254)
    body = models.BinaryField()
    state = models.CharField(max_length=10, default="waiting")
    """waiting, arrived, or given-up."""
    tries = models.IntegerField(default=0)
    next_at = models.DateTimeField(db_index=True)
    ended_at = models.DateTimeField(null=True)
    said = models.CharField(max_length=300, default="")

    def __str__(self) -> str:
        return self.key
