"""Harquel: answers from a relational database, guarded, reviewed, sandboxed and audited."""

__version__ = "0.1.0"
