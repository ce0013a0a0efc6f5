"""A statement as a tree: parsing, resolving names against a catalog, rendering."""

from .names import NameFault, Resolution, resolve
from .tree import ParseFault, parse, render

__all__ = ["NameFault", "ParseFault", "Resolution", "parse", "render", "resolve"]
