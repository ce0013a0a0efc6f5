"""Calls of language models as stored."""

from __future__ import annotations

from django.db import models


class ModelCall(models.Model):
    """One that was answered. `cost_nano` is in billionths of the currency of the configured prices: whole numbers add
    up exactly. `estimated`: its server counted no tokens, they are worked out from characters.
    """

    at = models.DateTimeField()
    day = models.DateField(db_index=True)
    person = models.CharField(max_length=80)
    source = models.CharField(max_length=80)
    inquiry = models.CharField(max_length=40, db_index=True)
    duty = models.CharField(max_length=20)
    model = models.CharField(max_length=80)
    prompt_tokens = models.IntegerField()
    completion_tokens = models.IntegerField()
    reasoning_tokens = models.IntegerField(default=0)
    cached_tokens = models.IntegerField(default=0)
    estimated = models.BooleanField(default=False)
    cost_nano = models.BigIntegerField(default=0)
    elapsed_ms = models.FloatField(default=0)

    def __str__(self) -> str:
        return f"{self.model} {self.pk}"
