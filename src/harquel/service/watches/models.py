"""Watched questions and their runs, as stored."""

from __future__ import annotations

from django.db import models


class StoredWatch(models.Model):
    """A question that is asked again by itself, by the token of whoever wanted that. What was told last, and whether
    that which is waited for is the case, is its state.
    """

    key = models.CharField(max_length=40, unique=True)
    person = models.ForeignKey("access.Person", models.CASCADE)
    token = models.ForeignKey("access.Token", models.CASCADE)
    inquiry = models.CharField(max_length=40)
    source = models.CharField(max_length=80)
    title = models.CharField(max_length=200)
    created_at = models.DateTimeField()

    said = models.CharField(max_length=120)
    cron = models.CharField(max_length=120)
    zone = models.CharField(max_length=60)
    next_at = models.DateTimeField(db_index=True)

    happens = models.CharField(max_length=10)
    line = models.CharField(max_length=40, null=True)
    back = models.CharField(max_length=40, null=True)
    quiet = models.CharField(max_length=11, null=True)
    to = models.JSONField(default=list)
    attach = models.CharField(max_length=4, null=True)

    state = models.CharField(max_length=10, default="on")
    """on, paused, or ended."""
    why_ended = models.CharField(max_length=200, default="")
    figure = models.CharField(max_length=80, null=True)
    digest = models.CharField(max_length=64, default="")
    holds = models.BooleanField(default=False)
    fingerprint = models.CharField(max_length=80, default="")
    """Of the catalog when it was told last."""
    failures = models.IntegerField(default=0)
    doubted = models.BooleanField(default=False)
    """Whether it was told already that what comes is doubtful."""

    def __str__(self) -> str:
        return self.key


class StoredRun(models.Model):
    """One time that a watched question was due. `tries` counts those that were begun."""

    watch = models.ForeignKey(StoredWatch, models.CASCADE, related_name="runs")
    due_at = models.DateTimeField()
    late = models.BooleanField(default=False)
    """Whether it was caught up after its time."""
    state = models.CharField(max_length=10, default="waiting", db_index=True)
    """waiting, running, or done."""
    tries = models.IntegerField(default=0)
    inquiry = models.CharField(max_length=40, default="")
    outcome = models.CharField(max_length=10, default="")
    """told, quiet, doubt, failed, or not-sent."""
    why = models.CharField(max_length=300, default="")
    figure = models.CharField(max_length=80, null=True)
    ended_at = models.DateTimeField(null=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["watch", "due_at"], name="due_once")]

    def __str__(self) -> str:
        return f"{self.watch} at {self.due_at}"
