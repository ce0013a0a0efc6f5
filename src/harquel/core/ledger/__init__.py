"""The append-only, hash-chained audit record: how an entry is made and how the chain is checked."""

from .chain import EMPTY_HEAD, Head, Sealed, seal
from .verify import Report, StoredEntry, StoredText, verify

__all__ = ["EMPTY_HEAD", "Head", "Report", "Sealed", "StoredEntry", "StoredText", "seal", "verify"]
