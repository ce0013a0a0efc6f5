"""Review: what is doubtful about a draft and about what came back. Deterministic; no model is asked."""

from harquel.core.review.draft import Reviewed, placed, review_draft
from harquel.core.review.question import Question
from harquel.core.review.question_reader import read_question
from harquel.core.review.result import review_result

__all__ = ["Question", "Reviewed", "placed", "read_question", "review_draft", "review_result"]
