"""Steps that change the tree before it is rendered, in order. Each takes a tree and gives one back."""

from .expand_stars import expand_stars
from .write_row_limit import write_row_limit

__all__ = ["expand_stars", "write_row_limit"]
