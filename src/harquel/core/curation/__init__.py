"""Above the inquiry: notes and policies as documents, example pairs, starter questions."""

from .documents import (
    Mismatch,
    corrected_notes,
    coverage,
    dumped,
    edited_notes,
    edited_policy,
    explained,
    mismatches,
    read_document,
)
from .examples import (
    Checked,
    Pair,
    as_example,
    check_example,
    load_examples,
    near_duplicates,
    read_pairs,
    write_pairs,
)
from .starters import propose_starters
from .yaml_text import read_yaml

__all__ = [
    "Checked",
    "Mismatch",
    "Pair",
    "as_example",
    "check_example",
    "corrected_notes",
    "coverage",
    "dumped",
    "edited_notes",
    "edited_policy",
    "explained",
    "load_examples",
    "mismatches",
    "near_duplicates",
    "propose_starters",
    "read_document",
    "read_pairs",
    "read_yaml",
    "write_pairs",
]
