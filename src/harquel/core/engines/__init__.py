"""One database engine a file: how to describe it, check it and reach it.

The engines themselves are loaded when one is made: what runs statements, or computes on them, needs none of them.
"""

from .address import ServerAddress
from .base import CheckStep, Engine
from .urls import ENGINES, engine_at, engine_for

__all__ = ["ENGINES", "CheckStep", "Engine", "ServerAddress", "engine_at", "engine_for"]
