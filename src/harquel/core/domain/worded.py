"""An answer in the words of a model."""

from __future__ import annotations

from dataclasses import dataclass, field


@dataclass(kw_only=True)
class Worded:
    """That a model has put the answer into words, and what became of those."""

    model: str
    """The model that was asked."""
    plain: str
    """Our own sentence; it stands where nothing that the model said does."""
    struck: list[str] = field(default_factory=list)
    """Sentences of the model's that say something that is not found in the rows."""
