"""A model's wording of an answer, held against the result word by word."""

from harquel.core.answers.worded.checked import LONGEST, Checked, checked, stands_alone
from harquel.core.answers.worded.facts import MOST_ROWS, Facts
from harquel.core.answers.worded.figures import Known

__all__ = ["LONGEST", "MOST_ROWS", "Checked", "Facts", "Known", "checked", "stands_alone"]
