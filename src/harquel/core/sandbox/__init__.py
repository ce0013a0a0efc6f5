"""Bounded dry runs and runs, each in a worker process that may be killed at any time."""

from .pool import Sandbox, SandboxLimits
from .runner import StatementRunner

__all__ = ["Sandbox", "SandboxLimits", "StatementRunner"]
