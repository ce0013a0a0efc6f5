"""Throws a corpus of attacks and of honest queries at guard and sandbox, on real databases."""
