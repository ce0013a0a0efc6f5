"""Bounded dry runs and runs, each in a worker process that may be killed at any time."""

from .pool import Sandbox, SandboxLimits

__all__ = ["Sandbox", "SandboxLimits"]
