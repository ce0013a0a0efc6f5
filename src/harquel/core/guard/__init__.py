"""May it run? An allow-list over the syntax tree, limits written in, and our own rendering as the result."""

from .guard import TextRuling, rule_by_terms, rule_on_plan, rule_on_text

__all__ = ["TextRuling", "rule_by_terms", "rule_on_plan", "rule_on_text"]
