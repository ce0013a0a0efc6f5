"""Casebooks: text in Markdown whose figures are those of answers, so that neither can be without the other."""

from .figures import Cited, Figures, cited
from .page import Part, as_page, as_text
from .references import CITED, MOST_CITED, Whole, name_for, whole_in
from .text import LONGEST, Block, blocks, typed_again

__all__ = [
    "CITED", "LONGEST", "MOST_CITED", "Block", "Cited", "Figures", "Part", "Whole", "as_page", "as_text", "blocks",
    "cited", "name_for", "typed_again", "whole_in",
]  # fmt: skip
