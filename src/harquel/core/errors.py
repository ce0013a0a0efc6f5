"""Every error that core raises on purpose.

    CoreError
    ├── ConfigurationError      something a steward wrote cannot be used
    ├── SourceError             the database cannot be reached or read
    ├── ModelError              the language model gave no usable reply
    │   ├── ModelUnreachable    nobody answers at its address, or it stays overloaded
    │   └── ModelRefused        it answers, but not to us (key, name, request)
    ├── SandboxError            a statement did not come to an end in the sandbox
    ├── ComputingError          our own work on it took too much, or its process was lost
    ├── Cancelled               the asker stopped it
    └── Ending                  an inquiry is over, or waits; what it comes to is in core/inquiry/endings.py

Each carries a hint: one sentence that says what to do.
"""

from __future__ import annotations

from typing import Literal

SandboxFault = Literal["time", "memory", "statement", "denied", "source", "worker", "still", "store"]


class CoreError(Exception):
    """Base of the family. `said` (and `str()`, in English) is one sentence; `hint` says what to do."""

    def __init__(self, message: str, hint: str = "") -> None:
        super().__init__(message)
        self.said, self.hint = message, hint


class ConfigurationError(CoreError):
    """A file or value of the steward's that cannot be used."""


class SourceError(CoreError):
    """The database cannot be reached or read."""


ModelFault = Literal["away", "late", "key", "model", "quota", "context", "request", "withheld", "nonsense", "budget"]
"""Why a model gave no reply: nobody there, out of time, a key or name not known, money used up, too long a prompt,
turned down, kept back by its server, nothing that could be read, beyond a budget of ours."""


class ModelError(CoreError):
    """The language model gave no usable reply; `fault` says why."""

    def __init__(self, message: str, hint: str = "", fault: ModelFault = "away") -> None:
        super().__init__(message, hint)
        self.fault = fault


class ModelUnreachable(ModelError):
    """Nobody answers, or the answers stay unusable after every retry."""


class ModelRefused(ModelError):
    """The model's server turns our request down; trying again would not help."""


class SandboxError(CoreError):
    """A statement did not come to an end; `fault` says on whose account."""

    def __init__(self, message: str, fault: SandboxFault, hint: str = "") -> None:
        super().__init__(message, hint)
        self.fault = fault


class ComputingError(CoreError):
    """Reading, guarding or reviewing was cut off; `fault` says by what."""

    def __init__(self, message: str, hint: str, fault: Literal["time", "memory", "lost", "busy"]) -> None:
        super().__init__(message, hint)
        self.fault = fault


class Cancelled(CoreError):
    """The asker stopped the inquiry."""


class Ending(CoreError):
    """An inquiry ends here, or waits: no fault of anybody's, but nothing goes on behind it."""
