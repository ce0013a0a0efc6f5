"""One database engine a file: how to describe it and how to reach it."""

from .base import Engine
from .sqlite import SqliteEngine
from .urls import engine_for

__all__ = ["Engine", "SqliteEngine", "engine_for"]
