"""Above the inquiry: example pairs; later known questions, gaps and exams."""

from .examples import load_examples

__all__ = ["load_examples"]
