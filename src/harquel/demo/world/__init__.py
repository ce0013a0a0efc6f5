"""Marrowick Ferries as rows: one deterministic generator, neutral of any database engine."""

from .generate import AS_OF, World
from .schema import TABLES, VIEWS, Column, Table

__all__ = ["AS_OF", "TABLES", "VIEWS", "Column", "Table", "World"]
