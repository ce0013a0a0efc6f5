"""Who is who in a chat, and what was heard there, as stored."""

from __future__ import annotations

from django.db import models


class StoredCode(models.Model):
    """A code by which somebody shows in a chat who they are here; only its SHA-256 is kept. One a token."""

    digest = models.CharField(max_length=64, unique=True)
    chat = models.CharField(max_length=40)
    token = models.ForeignKey("access.Token", models.CASCADE)
    ends_at = models.DateTimeField()

    def __str__(self) -> str:
        return f"for {self.chat}"


class StoredLink(models.Model):
    """Somebody of a chat (`theirs` is their id there) who asks by a token here; over once the token is."""

    chat = models.CharField(max_length=40)
    theirs = models.CharField(max_length=200)
    token = models.ForeignKey("access.Token", models.CASCADE)
    at = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["chat", "theirs"], name="one_link_each")]

    def __str__(self) -> str:
        return f"{self.theirs} of {self.chat}"


class StoredHeard(models.Model):
    """A message of a chat, kept until it is seen to; `key` is its id there. Its body is blanked then, and the rest
    stays for as long as the same message could come again.
    """

    chat = models.CharField(max_length=40)
    key = models.CharField(max_length=200)
    theirs = models.CharField(max_length=200)
    body = models.BinaryField()
    at = models.DateTimeField(db_index=True)
    state = models.CharField(max_length=10, default="waiting")
    """waiting, done, or given-up."""
    tries = models.IntegerField(default=0)
    next_at = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["chat", "key"], name="heard_once")]
        indexes = [models.Index(fields=["state", "next_at"], name="heard_due")]

    def __str__(self) -> str:
        return self.key


class StoredTurn(models.Model):
    """An inquiry that somebody made in a thread of a chat."""

    chat = models.CharField(max_length=40)
    thread = models.CharField(max_length=200)
    theirs = models.CharField(max_length=200)
    inquiry = models.CharField(max_length=40)
    heard = models.CharField(max_length=200, default="")
    """The message that made it; empty for a thread that its answer began."""
    at = models.DateTimeField(db_index=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["chat", "thread", "inquiry"], name="one_turn_each")]
        indexes = [models.Index(fields=["chat", "thread", "theirs"], name="turns_of_a_thread")]

    def __str__(self) -> str:
        return self.inquiry
