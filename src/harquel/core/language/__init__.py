"""What the core knows of a language, a file each: its commonest words, and which of them ask for nothing."""

from harquel.core.language.choose import language_of, pack, surely

__all__ = ["language_of", "pack", "surely"]
