"""Composing what the model reads; taking apart what it writes."""

from .compose import compose, feedback
from .reply import CannotReply, NoSqlReply, Reply, SqlReply, take_apart

__all__ = ["CannotReply", "NoSqlReply", "Reply", "SqlReply", "compose", "feedback", "take_apart"]
