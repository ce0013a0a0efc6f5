"""From a result to what a person reads: the sentence, the units."""

from .cited import cited_measures
from .read_back import read_back
from .units import units_of
from .wording import word

__all__ = ["cited_measures", "read_back", "units_of", "word"]
