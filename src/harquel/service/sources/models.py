"""Sources made over the API, and what is known of every source: catalogs, scans, documents, examples."""

from __future__ import annotations

from typing import Final

from django.db import models


class StoredSource(models.Model):
    """A source that is not in harquel.toml. `settings` are its fields without any password.

    `secret` is the password, encrypted; a reference (env:, file:) stands in `settings` instead.
    """

    name = models.CharField(max_length=40, unique=True)
    settings = models.JSONField(default=dict)
    secret = models.BinaryField(null=True)
    created_at = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        return self.name


class SourceState(models.Model):
    """What a steward decided about a source, wherever it is declared."""

    source = models.CharField(max_length=40, unique=True)
    enabled = models.BooleanField(default=True)

    def __str__(self) -> str:
        return self.source


class CatalogVersion(models.Model):
    """One scan's result. `tables` are JSON, compressed (zlib, RFC 1950)."""

    source = models.CharField(max_length=40)
    number = models.IntegerField()
    engine = models.CharField(max_length=20)
    fingerprint = models.CharField(max_length=40)
    default_schema = models.CharField(max_length=200, default="")
    scanned_at = models.DateTimeField()
    count = models.IntegerField()
    tables = models.BinaryField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["source", "number"], name="one_number_a_version")]

    def __str__(self) -> str:
        return f"{self.source} {self.number}"


class StoredScan(models.Model):
    """A scan under way or ended."""

    source = models.CharField(max_length=40, db_index=True)
    kind = models.CharField(max_length=10)
    state = models.CharField(max_length=12)
    stage = models.CharField(max_length=12, default="structure")
    tables = models.IntegerField(default=0)
    done = models.IntegerField(default=0)
    now = models.CharField(max_length=300, default="")
    resumed = models.IntegerField(default=0)
    problem = models.TextField(default="")
    hint = models.TextField(default="")
    started_at = models.DateTimeField()
    ended_at = models.DateTimeField(null=True)

    def __str__(self) -> str:
        return f"{self.source} {self.pk}"


class ScanPart(models.Model):
    """A table that a scan under way has looked into: where it goes on after an interruption."""

    source = models.CharField(max_length=40, db_index=True)
    table = models.CharField(max_length=300)
    body = models.TextField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["source", "table"], name="one_part_a_table")]

    def __str__(self) -> str:
        return f"{self.source} {self.table}"


class SourceDocument(models.Model):
    """A version of the notes or the policy of a source, as YAML. `origin` is file, console, import or command."""

    source = models.CharField(max_length=40)
    kind = models.CharField(max_length=10)
    number = models.IntegerField()
    text = models.TextField()
    digest = models.CharField(max_length=64)
    who = models.CharField(max_length=80)
    origin = models.CharField(max_length=10)
    said = models.CharField(max_length=300, default="")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["source", "kind", "number"], name="one_number_a_document")]

    def __str__(self) -> str:
        return f"{self.kind} of {self.source}, {self.number}"


class StoredExample(models.Model):
    """One pair of the example bank."""

    source = models.CharField(max_length=40, db_index=True)
    question = models.TextField()
    sql = models.TextField()
    tags = models.JSONField(default=list)
    author = models.CharField(max_length=80, default="")
    origin = models.CharField(max_length=10, default="console")
    state = models.CharField(max_length=10, default="new")
    said = models.TextField(default="")
    tables = models.JSONField(default=list)
    checked_at = models.DateTimeField(null=True)

    def __str__(self) -> str:
        return self.question


class StoredStarter(models.Model):
    """A question to begin with, and whether it was tried with success on this version of the catalog."""

    source = models.CharField(max_length=40, db_index=True)
    question = models.TextField()
    fingerprint = models.CharField(max_length=40)
    works = models.BooleanField()
    place = models.IntegerField(default=0)

    def __str__(self) -> str:
        return self.question


OWNED: Final = (CatalogVersion, StoredScan, ScanPart, SourceDocument, StoredExample, StoredStarter, SourceState)
"""What bears the name of its source and goes with it."""
