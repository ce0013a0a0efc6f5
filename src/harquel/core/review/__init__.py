"""Does it say what was asked? Findings on results; meaning rules on drafts come here too."""

from .result import review_result

__all__ = ["review_result"]
