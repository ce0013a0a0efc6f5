"""Casebooks and their versions, as stored."""

from __future__ import annotations

from django.db import models


class StoredCasebook(models.Model):
    """One casebook; its contents stand in its versions, none of which is ever changed. `readers` are numbers of people;
    `open` that everybody may read it.
    """

    key = models.CharField(max_length=40, unique=True)
    person = models.ForeignKey("access.Person", models.CASCADE)
    language = models.CharField(max_length=2)
    readers = models.JSONField(default=list)
    open = models.BooleanField(default=False)
    version = models.IntegerField(default=1)
    changed_at = models.DateTimeField(db_index=True)
    run_at = models.DateTimeField(null=True)
    removed_at = models.DateTimeField(null=True)

    def __str__(self) -> str:
        return self.key


class StoredVersion(models.Model):
    """What it was at one time. `kept` are its answers in order: name, inquiry, the answered one before it, and why it
    was not asked again where that was wished.
    """

    casebook = models.ForeignKey(StoredCasebook, models.CASCADE, related_name="versions")
    number = models.IntegerField()
    at = models.DateTimeField()
    by = models.CharField(max_length=80)
    what = models.CharField(max_length=12)
    names = models.JSONField(default=list)
    title = models.CharField(max_length=120)
    text = models.TextField()
    kept = models.JSONField(default=list)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["casebook", "number"], name="written_once")]

    def __str__(self) -> str:
        return f"{self.casebook} {self.number}"
