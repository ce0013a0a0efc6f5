"""Inquiries as stored."""

from __future__ import annotations

from django.db import models

from harquel.service.access.models import Person, Token


class StoredInquiry(models.Model):
    """One inquiry. `record` is the contract's shape once it has ended, without the rows of the result.

    `standalone_question` is the question as it stands by itself: with the reading that was chosen for it, or with what
    it follows; `thread` the key of the first of those that follow one another, none of that itself. `silenced` is what
    review is not to say of it. `roles` and `values` are those of the token that asked, for when a held statement is
    released; `decided_by` is who released it or turned it down."""

    key = models.CharField(max_length=40, unique=True)
    person = models.ForeignKey(Person, on_delete=models.PROTECT)
    source = models.CharField(max_length=80)
    question = models.TextField()
    follows = models.CharField(max_length=40, null=True)
    thread = models.CharField(max_length=40, null=True, db_index=True)
    as_of = models.DateTimeField(null=True)
    asked_at = models.DateTimeField()
    standalone_question = models.TextField(null=True)
    choice = models.CharField(max_length=200, null=True)
    silenced = models.JSONField(default=list)
    state = models.CharField(max_length=10, db_index=True)
    outcome = models.CharField(max_length=20, null=True)
    trust = models.CharField(max_length=10, null=True)
    record = models.JSONField(null=True)
    roles = models.JSONField(default=list)
    values = models.JSONField(default=dict)
    token = models.ForeignKey(Token, on_delete=models.PROTECT, null=True, related_name="+")
    decided_by = models.ForeignKey(Person, on_delete=models.PROTECT, null=True, related_name="+")

    def __str__(self) -> str:
        return self.key


class ResultRows(models.Model):
    """The rows of an answer, apart so that they can be blanked; the ledger holds their digest.

    `second` are those of a second opinion that came to another result."""

    inquiry = models.OneToOneField(StoredInquiry, on_delete=models.CASCADE, related_name="result")
    rows = models.JSONField(null=True)
    second = models.JSONField(null=True)

    def __str__(self) -> str:
        return f"rows of {self.inquiry_id}"
