"""From a result to what a person reads: the sentence, the units."""

from .units import units_of
from .wording import word

__all__ = ["units_of", "word"]
