"""Review: what is doubtful about a draft and about what came back. Deterministic; no model is asked."""

from harquel.core.review.draft import Reviewed, review_draft
from harquel.core.review.result import review_result

__all__ = ["Reviewed", "review_draft", "review_result"]
