"""Composing what the model reads; taking apart what it writes."""

from .compose import compose, compose_reading, doubts, feedback, read_again
from .reply import AskReply, CannotReply, MoreReply, NoSqlReply, Reply, SqlReply, take_apart
from .templates import SHIPPED, Prompts

__all__ = [
    "SHIPPED",
    "AskReply",
    "CannotReply",
    "MoreReply",
    "NoSqlReply",
    "Prompts",
    "Reply",
    "SqlReply",
    "compose",
    "compose_reading",
    "doubts",
    "feedback",
    "read_again",
    "take_apart",
]
