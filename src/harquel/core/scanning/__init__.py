"""Keeps the catalog of a source: the last scan, and a cheap look whether it still holds."""

from .keeper import CatalogKeeper

__all__ = ["CatalogKeeper"]
