"""Open links, as stored."""

from __future__ import annotations

from django.db import models


class StoredOpenLink(models.Model):
    """A page, made once, that whoever knows the secret sees; only the SHA-256 of that is kept. `inquiries` are those
    whose answers are on it.
    """

    key = models.CharField(max_length=40, unique=True)
    digest = models.CharField(max_length=64, unique=True)
    person = models.ForeignKey("access.Person", models.CASCADE)
    token = models.ForeignKey("access.Token", models.CASCADE)
    inquiry = models.CharField(max_length=40, blank=True)
    casebook = models.CharField(max_length=40, blank=True)
    inquiries = models.JSONField(default=list)
    title = models.CharField(max_length=200)
    note = models.CharField(max_length=200, blank=True)
    page = models.BinaryField()
    made_at = models.DateTimeField()
    until = models.DateTimeField()
    ended_at = models.DateTimeField(null=True)
    opened = models.IntegerField(default=0)
    opened_at = models.DateTimeField(null=True)

    def __str__(self) -> str:
        return self.key
