"""A language model in miniature: reads a prompt, derives SQL from what stands in it, and nothing else.

It has no look at the database, no table of known questions, and knows no name of any schema. What it
does know is English: numbers, dates, how questions ask for counts, shares, rankings and comparisons.
"""

from .converse import Turn, reply_to

__all__ = ["Turn", "reply_to"]
