"""Composing what the model reads; taking apart what it writes."""

from .compose import compose, doubts, feedback
from .reply import AskReply, CannotReply, MoreReply, NoSqlReply, Reply, SqlReply, take_apart

__all__ = [
    "AskReply",
    "CannotReply",
    "MoreReply",
    "NoSqlReply",
    "Reply",
    "SqlReply",
    "compose",
    "doubts",
    "feedback",
    "take_apart",
]
