"""One database engine a file: how to describe it, check it and reach it."""

from .address import ServerAddress
from .base import CheckStep, Engine
from .sqlite import SqliteEngine
from .urls import ENGINES, engine_at, engine_for

__all__ = ["ENGINES", "CheckStep", "Engine", "ServerAddress", "SqliteEngine", "engine_at", "engine_for"]
