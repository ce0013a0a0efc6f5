"""Casebooks: kept collections of answers with text between them."""
